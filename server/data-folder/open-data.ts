import { existsSync } from 'node:fs'
import { chmod, readdir, stat } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { connectDatabase, needsUpdate, openDatabase, type ConnectedDatabase } from '../db/open'
import { beforeUpdate, clearCandidates, makeBackup } from './backups'
import { checkDatabase, repairIndexes } from './check-database'
import { ownFile, ownFolder } from './disk'
import { restoreSentence, settleRestore } from './restore-journal'

/** Indexes of a larger database are compared in the thread beside the server: it takes longer than a start may. */
export const smallBytes = 64 * 1024 * 1024

/** An open database, and what the start has to report about it. */
export interface OpenedData extends ConnectedDatabase {
  /** What became of a restore that this start found unfinished; null where there was none. */
  restored: string | null
}

/** Closes database, log, lock, backups and keys to other accounts of this computer. Windows keeps folders apart by itself. */
async function closeToOthers(databasePath: string, backupsFolder: string): Promise<void> {
  if (process.platform === 'win32') return
  const folder = dirname(databasePath)
  const own = (name: string) => name.startsWith(basename(databasePath))
  const names = await readdir(folder)
  if (names.some(own)) await chmod(folder, ownFolder)
  for (const name of names.filter(own)) {
    const path = join(folder, name)
    await chmod(path, existsSync(join(path, basename(databasePath))) ? ownFolder : ownFile)
  }
  if (!existsSync(backupsFolder)) return
  await chmod(backupsFolder, ownFolder)
  for (const name of await readdir(backupsFolder)) await chmod(join(backupsFolder, name), ownFile)
}

/**
 * Opens the database of a data folder: finishes what a restore left undone, checks the file, keeps a copy before its form
 * changes, and closes it to other accounts.
 * @param databasePath null where the database is on a server.
 * @throws Problem `database-damaged`, `disk-full` and what else keeps the folder from being used.
 */
export async function openData(
  databaseUrl: string,
  databasePath: string | null,
  backupsFolder: string,
): Promise<OpenedData> {
  if (databasePath === null) return { ...(await openDatabase(databaseUrl)), restored: null }
  const restored = await settleRestore(databasePath)
  await clearCandidates(databasePath)
  if (existsSync(databasePath)) {
    await closeToOthers(databasePath, backupsFolder).catch(() => {
      // A folder that belongs to another account stays as that account set it.
    })
    await checkDatabase(databasePath, 'quick_check')
    if ((await stat(databasePath)).size <= smallBytes) await repairIndexes(databasePath)
    const { db, close } = await connectDatabase(databaseUrl)
    try {
      if (await needsUpdate(db)) await makeBackup(databasePath, backupsFolder, Date.now(), beforeUpdate)
    } finally {
      close()
    }
  }
  const opened = await openDatabase(databaseUrl)
  return { ...opened, restored: restored?.step === 'try' ? restoreSentence(restored) : null }
}
