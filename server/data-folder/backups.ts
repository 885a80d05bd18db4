import { createClient } from '@libsql/client'
import { dayAt, isProblem } from '@bench-wake/core/kernel'
import { randomBytes } from 'node:crypto'
import { chmod, open, readdir, rename, stat } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { databaseTrouble } from '../db/trouble'
import { notFound } from '../problem'
import { checkDatabase, prepareCandidate } from './check-database'
import { copyAside, isThere, ownFile, ownFolderAt, removeFile, syncFile, syncFolder } from './disk'
import { dropCandidate, readRestore, type RestoreJournal } from './restore-journal'

/** A copy of the whole database. */
export interface BackupFile {
  name: string
  bytes: number
  at: number
}

const dayMs = 86_400_000
const weekMs = 7 * dayMs
/** One backup of each day is kept for so many days, then one of each week for so many weeks. */
const days = 8
const weeks = 4
/** A part of the name of a copy that is made before the database changes its form. */
export const beforeUpdate = 'before an update'
const ending = '.db'

const stamp = (at: number) => new Date(at).toISOString().slice(0, 19).replace('T', ' ').replaceAll(':', '-')

/** The backups in a folder, newest first. */
export async function listBackupFiles(folder: string): Promise<BackupFile[]> {
  const names = await readdir(folder).catch(() => [])
  const files = await Promise.all(
    names
      .filter((name) => name.endsWith(ending))
      .map(async (name) => {
        // One that is cleared away meanwhile is none any more.
        const found = await stat(join(folder, name)).catch(() => null)
        // An empty one is the reserved name of a backup that is being made.
        return found && found.size > 0 ? [{ name, bytes: found.size, at: found.mtimeMs }] : []
      }),
  )
  return files.flat().sort((a, b) => b.at - a.at || b.name.localeCompare(a.name))
}

/**
 * Copies a database while it is in use, and checks the copy before it counts. It is listed once it is whole on the disk.
 * @param why is a part of its name: `before an update`.
 * @throws Problem `disk-full` and others of the disk; `database-damaged`.
 */
export async function makeBackup(
  databasePath: string,
  folder: string,
  at: number,
  why?: string,
): Promise<BackupFile> {
  await ownFolderAt(folder)
  const whole = await freeName(folder, `${stamp(at)}${why ? ` ${why}` : ''}`)
  const half = `${whole}.part`
  const client = createClient({ url: pathToFileURL(databasePath).href, timeout: 5000 })
  try {
    await client.execute({ sql: 'VACUUM INTO ?', args: [half] })
    await checkDatabase(half, 'integrity_check')
    await chmod(half, ownFile)
    await syncFile(half)
    await rename(half, whole)
    await syncFolder(folder)
  } catch (error) {
    await removeFile(whole)
    throw databaseTrouble(error) ?? error
  } finally {
    client.close()
    await removeFile(half)
  }
  const { size, mtimeMs } = await stat(whole)
  return { name: basename(whole), bytes: size, at: mtimeMs }
}

/** Reserves a name that no backup has, as an empty file; two backups of one second get two names. */
async function freeName(folder: string, stem: string): Promise<string> {
  for (let count = 1; ; count++) {
    const path = join(folder, `${stem}${count === 1 ? '' : ` (${count})`}${ending}`)
    try {
      await (await open(path, 'wx', ownFile)).close()
      return path
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error
    }
  }
}

/** A part of the name of a backup in which something is known to be damaged. */
export const withDamage = 'with damage'

/**
 * Which backups are no longer kept. All of the last day stay, then the newest of each day for a week, then the newest of
 * each week for four weeks; a copy made before an update stays for these four weeks. A damaged backup takes the place of
 * no whole one.
 */
export function surplus(files: readonly BackupFile[], now: number): BackupFile[] {
  const kept = new Set<string>()
  return [...files]
    .sort((a, b) => b.at - a.at)
    .filter(({ name, at }) => {
      const age = now - at
      if (age < dayMs) return false
      if (name.includes(beforeUpdate) && age < weeks * weekMs) return false
      const damage = name.includes(withDamage) ? ' damaged' : ''
      const slot = age < days * dayMs ? `day ${dayAt(at)}` : `week ${Math.floor(at / weekMs)}`
      if (age >= (weeks + 1) * weekMs || kept.has(slot + damage)) return true
      kept.add(slot + damage)
      return false
    })
}

export async function clearSurplus(folder: string, now: number): Promise<void> {
  for (const { name } of surplus(await listBackupFiles(folder), now)) await removeFile(join(folder, name))
}

/** What is left of backups that were cut off, from a program that was ended meanwhile. */
export async function clearHalf(folder: string): Promise<void> {
  for (const name of await readdir(folder).catch(() => [])) {
    const path = join(folder, name)
    const empty = name.endsWith(ending) && (await stat(path).catch(() => null))?.size === 0
    if (empty || /\.db\.part(-wal|-shm|-journal)?$/.test(name)) await removeFile(path)
  }
}

/**
 * Copies a backup beside the database and checks the copy: nothing else changes.
 * @returns what the restore's journal is begun with.
 * @throws Problem `not-found`, and what `prepareCandidate` finds wrong.
 */
export async function prepareRestore(form: {
  databasePath: string
  folder: string
  name: string
  at: number
  despiteDamage: boolean
  passwords?: readonly { hash: string; at: number }[]
}): Promise<Omit<RestoreJournal, 'step'>> {
  const { databasePath, folder, name, at } = form
  const source = join(folder, basename(name))
  if (!name.endsWith(ending) || !(await isThere(source))) throw notFound('backup', name)
  const id = `${stamp(at)} ${randomBytes(3).toString('hex')}`
  const file = basename(databasePath)
  const candidate = `${file}.candidate ${id}`
  const path = join(dirname(databasePath), candidate)
  try {
    await copyAside(source, path)
    await prepareCandidate(path, form)
    await syncFile(path)
    await syncFolder(dirname(path))
  } catch (error) {
    await dropCandidate(path)
    throw isProblem(error) ? error.about(name) : (databaseTrouble(error) ?? error)
  }
  return { backup: name, candidate, old: `${file} before ${id}`, refused: `${file} refused ${id}`, at }
}

/** Removes copies that were being checked when a program ended. */
export async function clearCandidates(databasePath: string): Promise<void> {
  const journal = await readRestore(databasePath)
  const folder = dirname(databasePath)
  for (const name of await readdir(folder))
    if (
      name.startsWith(`${basename(databasePath)}.candidate `) &&
      !name.startsWith(journal?.candidate ?? '\0')
    )
      await removeFile(join(folder, name))
}
