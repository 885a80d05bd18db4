// A process that is killed at its n-th call to the file system: node kill-points.mjs ACTION FOLDER N
import { syncBuiltinESMExports } from 'node:module'
import fs from 'node:fs/promises'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { makeBackup, prepareRestore } from './backups'
import { keepToOneProgram } from './one-program'
import { openData } from './open-data'
import { acceptRestore, beginRestore, settleRestore } from './restore-journal'

const [action, folder, at] = process.argv.slice(2) as [string, string, string]
let calls = 0
const counted = () => {
  if (++calls === Number(at)) process.kill(process.pid, 'SIGKILL')
}
type Call = (...args: unknown[]) => unknown
const all = fs as unknown as Record<string, Call>
for (const name of ['rename', 'copyFile', 'mkdir', 'rm', 'chmod', 'readFile', 'open']) {
  const own = all[name]!
  all[name] = async (...args) => {
    counted()
    const answer = await own(...args)
    if (name === 'open') {
      const handle = answer as Record<string, Call>
      for (const method of ['sync', 'writeFile', 'read', 'close']) {
        const act = handle[method]!.bind(handle)
        handle[method] = (...more) => {
          counted()
          return act(...more)
        }
      }
    }
    return answer
  }
}
syncBuiltinESMExports()

const path = join(folder, 'bench-wake.db')
const backups = join(folder, 'backups')
const release = await keepToOneProgram(path)
if (action === 'backup') await makeBackup(path, backups, Date.now())
if (action === 'restore') {
  const form = { databasePath: path, folder: backups, name: 'kept.db', at: Date.now(), despiteDamage: false }
  await beginRestore(path, await prepareRestore(form))
  await settleRestore(path)
}
if (action === 'start') {
  const { close } = await openData(pathToFileURL(path).href, path, backups)
  await acceptRestore(path)
  close()
}
await release()
process.stdout.write(String(calls))
