import { isProblem, Problem } from '@bench-wake/core/kernel'
import { join } from 'node:path'
import { checkDatabase, listBackupFiles, restoreBackup } from './data-folder/backups'
import { databaseFile } from './data-folder/place'
import { databaseTrouble } from './db/trouble'
import type { Settings } from './settings'
import { backupsFolderOf, startServer, type StartedServer, type StartOptions } from './start'

/** Time for an answer to reach the page before the program starts anew, ms. */
const answerMs = 200

/** The server with a way to start it anew on another database. */
export async function runProgram(settings: Settings, options: StartOptions = {}): Promise<StartedServer> {
  let ending = false
  const restore = async (name: string): Promise<void> => {
    const path = databaseFile(settings.databaseUrl)
    const folder = backupsFolderOf(settings)
    const known = (await listBackupFiles(folder)).some((file) => file.name === name)
    if (path === null || !known) {
      throw new Problem({
        kind: 'not-found',
        thing: name,
        says: 'there is no such backup',
        remedy: 'Choose one of the list.',
      })
    }
    // Looked at before anything ends: a backup that does not hold changes nothing.
    await checkDatabase(join(folder, name), 'integrity_check')
    setTimeout(() => {
      void (async () => {
        const { port } = running
        await running.stop()
        if (ending) return
        await restoreBackup(path, folder, name, Date.now()).catch((error: unknown) =>
          process.stderr.write(`${sentenceOf(error)}\n`),
        )
        running = await startServer({ ...settings, port }, { ...options, restore })
      })()
    }, answerMs)
  }
  let running = await startServer(settings, { ...options, restore })
  return {
    get address() {
      return running.address
    },
    get port() {
      return running.port
    },
    cutRuns: running.cutRuns,
    shownPassword: running.shownPassword,
    open: running.open,
    stop() {
      ending = true
      return running.stop()
    },
  }
}

/** Why the program does not start, in one sentence with the way out. */
export function sentenceOf(error: unknown): string {
  const known = isProblem(error) ? error : databaseTrouble(error)
  if (known) return known.message
  const { code, message, path, port, address } = error as NodeJS.ErrnoException & {
    port?: number
    address?: string
  }
  switch (code) {
    case 'EADDRINUSE':
      return `Port ${port ?? ''} is taken. Bench Wake may be running already; else set PORT to another number.`
    case 'EADDRNOTAVAIL':
      return `This computer has no address ${address ?? ''}. Set BENCH_WAKE_HOST to one that it has.`
    case 'ENOTFOUND':
      return 'The name in BENCH_WAKE_HOST is not known here. Set it to an address of this computer.'
    case 'EACCES':
    case 'EPERM':
      return port === undefined
        ? `${path ?? 'The data folder'} may not be written. Give your account the right to, or set BENCH_WAKE_DATA to another folder.`
        : `Port ${port} needs more rights. Set PORT to a number above 1023.`
    case 'EROFS':
      return `${path ?? 'The data folder'} is on a disk that cannot be written. Set BENCH_WAKE_DATA to another folder.`
    case 'ENOTDIR':
    case 'EEXIST':
      return `${path ?? 'The data folder'} is no folder. Set BENCH_WAKE_DATA to one.`
    case 'ENOSPC':
      return 'The disk is full. Free some space on the disk of the data folder, then start again.'
    default:
      return `Bench Wake cannot start: ${message}`
  }
}
