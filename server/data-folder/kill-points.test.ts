import { build } from 'esbuild'
import { execFile } from 'node:child_process'
import { cpSync, existsSync, mkdirSync, readdirSync, renameSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath, pathToFileURL } from 'node:url'
import { promisify } from 'node:util'
import { beforeAll, describe, expect, it } from 'vitest'
import { openDatabase } from '../db/open'
import { units } from '../db/schema'
import { scratchFolder } from '../server.test-support'
import { listBackupFiles, makeBackup } from './backups'
import { checkDatabase } from './check-database'
import { openData } from './open-data'
import { acceptRestore, readRestore } from './restore-journal'

/* The process is killed (SIGKILL) at each of its calls to the file system in turn; a start after it has the old data or the new. */

const run = promisify(execFile)
const from = (folder: string) => join(folder, 'bench-wake.db')
const addUnit = async (folder: string, name: string, keepLog = false) => {
  const { db, close } = await openDatabase(pathToFileURL(from(folder)).href)
  await db.insert(units).values({ id: name, familyId: 'f', name, place: '', serial: name, addedAt: 1 })
  // The log stays when the files are copied under the open connection.
  if (keepLog) cpSync(folder, `${folder}-log`, { recursive: true })
  close()
}
/** Starts on a folder, and tells whose data are open, and what the start reports. */
const startOn = async (folder: string) => {
  const { db, close, restored } = await openData(
    pathToFileURL(from(folder)).href,
    from(folder),
    join(folder, 'backups'),
  )
  await acceptRestore(from(folder))
  const names = (await db.select({ name: units.name }).from(units)).map(({ name }) => name)
  close()
  return { data: names.includes('today') ? 'old' : 'new', names, restored }
}

let script: string
/** A data folder whose backup has the unit "then"; today's data have "today" too, still in the write-ahead log. */
let base: string
beforeAll(async () => {
  const folder = scratchFolder()
  // Beside the built server: packages and migrations are found from there.
  script = fileURLToPath(new URL('../dist/kill-points.mjs', import.meta.url))
  await build({
    entryPoints: [fileURLToPath(new URL('./kill-points.test-support.ts', import.meta.url))],
    outfile: script,
    bundle: true,
    format: 'esm',
    platform: 'node',
    external: ['@libsql/client'],
    banner: {
      js: "import { createRequire as requireFrom } from 'node:module'; const require = requireFrom(import.meta.url);",
    },
    logLevel: 'error',
  })
  const first = join(folder, 'first')
  mkdirSync(first)
  await addUnit(first, 'then')
  const made = await makeBackup(from(first), join(first, 'backups'), 0)
  renameSync(join(first, 'backups', made.name), join(first, 'backups', 'kept.db'))
  await addUnit(first, 'today', true)
  base = `${first}-log`
  expect(existsSync(`${from(base)}-wal`)).toBe(true)
}, 60_000)

let copies = 0
const copyOf = (folder: string) => {
  const copy = `${base}-${++copies}`
  cpSync(folder, copy, { recursive: true })
  return copy
}
/** Runs an action, killed at a call; without one to its end. @returns how many calls it made; null where it was killed. */
const act = (action: string, folder: string, at = 0) =>
  run(process.execPath, [script, action, folder, String(at)], {
    cwd: fileURLToPath(new URL('.', import.meta.url)),
  }).then(
    ({ stdout }) => Number(stdout),
    (error: { signal?: string; stderr?: string }) => {
      if (error.signal !== 'SIGKILL') throw new Error(error.stderr)
      return null
    },
  )

/** Kills an action at each of its calls, on a copy of a folder each. */
async function atEachCall(
  action: string,
  folder: string,
  look: (after: string, at: number) => Promise<void>,
) {
  const calls = await act(action, copyOf(folder))
  expect(calls).toBeGreaterThan(8)
  const left = Array.from({ length: calls! }, (_, index) => index + 1)
  const work = async () => {
    for (let at = left.shift(); at !== undefined; at = left.shift()) {
      const copy = copyOf(folder)
      expect(await act(action, copy, at)).toBeNull()
      await look(copy, at)
    }
  }
  await Promise.all([work(), work()])
}

describe('killed at each call to the file system', () => {
  it(
    'in a restore: the old data before it was accepted, the new ones after it, and the start says which',
    { timeout: 120_000 },
    async () => {
      const seen = new Set<string>()
      await atEachCall('restore', base, async (folder, at) => {
        const accepted = (await readRestore(from(folder))) !== null
        const { data, names, restored } = await startOn(folder)
        seen.add(data)
        expect({ at, data, said: restored !== null }).toEqual({
          at,
          data: accepted ? 'new' : 'old',
          said: accepted,
        })
        expect(names).toContain('then')
        expect(readdirSync(folder).filter((name) => name.includes('candidate'))).toEqual([])
      })
      expect([...seen].sort()).toEqual(['new', 'old'])
    },
  )

  it(
    'in the start after a restore: the next start has the new data whole',
    { timeout: 120_000 },
    async () => {
      const restored = copyOf(base)
      await act('restore', restored)
      await atEachCall('start', restored, async (folder) => {
        expect(await startOn(folder)).toMatchObject({ data: 'new', names: ['then'] })
      })
    },
  )

  it('in a backup: every backup that is listed is whole', { timeout: 120_000 }, async () => {
    await atEachCall('backup', base, async (folder) => {
      const backups = join(folder, 'backups')
      for (const { name } of await listBackupFiles(backups))
        await checkDatabase(join(backups, name), 'integrity_check')
      expect((await startOn(folder)).data).toBe('old')
    })
  })
})
