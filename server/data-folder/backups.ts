import { createClient } from '@libsql/client'
import { Problem } from '@bench-wake/core/kernel'
import { existsSync } from 'node:fs'
import { copyFile, mkdir, readdir, rename, rm, stat } from 'node:fs/promises'
import { basename, join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { databaseTrouble } from '../db/trouble'
import { notFound } from '../problem'

/** A copy of the whole database. */
export interface BackupFile {
  name: string
  bytes: number
  at: number
}

/** Kept of the newest; of older ones one a week, this many weeks back. */
const newest = 7
const weeks = 4
const weekMs = 7 * 86_400_000
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
        return found ? [{ name, bytes: found.size, at: found.mtimeMs }] : []
      }),
  )
  return files.flat().sort((a, b) => b.at - a.at || b.name.localeCompare(a.name))
}

/** @throws Problem `database-damaged`: what SQLite itself finds wrong with a file. */
export async function checkDatabase(path: string, how: 'quick_check' | 'integrity_check'): Promise<void> {
  const found: string[] = []
  try {
    const client = createClient({ url: pathToFileURL(path).href, timeout: 2000 })
    try {
      const { rows } = await client.execute(`PRAGMA ${how}(5)`)
      found.push(...rows.map((row) => String(row[0])))
    } finally {
      client.close()
    }
  } catch (error) {
    const trouble = databaseTrouble(error)
    if (trouble && trouble.facts.kind !== 'database-damaged') throw trouble.about(path)
    found.push(trouble?.facts.found ?? String(error))
  }
  if (found.length === 1 && found[0] === 'ok') return
  throw new Problem({
    kind: 'database-damaged',
    thing: path,
    says: 'the database is damaged',
    found: found.join('; ').slice(0, 400),
    remedy: 'End the program and bring back a backup with "npm run restore".',
  })
}

/**
 * Copies a database while it is in use, and looks at the copy before it counts.
 * @param why stands in its name: `before an update`.
 * @throws Problem `disk-full` and others of the disk; `database-damaged`.
 */
export async function makeBackup(
  databasePath: string,
  folder: string,
  at: number,
  why?: string,
): Promise<BackupFile> {
  await mkdir(folder, { recursive: true })
  const name = `${stamp(at)}${why ? ` ${why}` : ''}${ending}`
  const half = join(folder, `${name}.part`)
  const whole = join(folder, name)
  await rm(half, { force: true })
  const client = createClient({ url: pathToFileURL(databasePath).href, timeout: 5000 })
  try {
    await client.execute({ sql: 'VACUUM INTO ?', args: [half] })
    await checkDatabase(half, 'integrity_check')
    await rename(half, whole)
  } catch (error) {
    throw databaseTrouble(error) ?? error
  } finally {
    client.close()
    await rm(half, { force: true })
  }
  const { size, mtimeMs } = await stat(whole)
  return { name, bytes: size, at: mtimeMs }
}

/** Which backups are no longer kept: the newest stay, and one of each of the weeks before. */
export function surplus(files: readonly BackupFile[], now: number): BackupFile[] {
  const old = files.slice(newest)
  const keptWeeks = new Set<number>()
  return old.filter(({ at }) => {
    const week = Math.floor((now - at) / weekMs)
    if (week < weeks && !keptWeeks.has(week)) {
      keptWeeks.add(week)
      return false
    }
    return true
  })
}

export async function clearSurplus(folder: string, now: number): Promise<void> {
  for (const { name } of surplus(await listBackupFiles(folder), now))
    await rm(join(folder, name), { force: true })
}

/**
 * Puts a backup in the place of the database; what stood there is kept beside it. The program must not run.
 * @returns what the replaced database is called now; null where there was none.
 * @throws Problem `not-found`; `database-damaged` for a backup that does not hold.
 */
export async function restoreBackup(
  databasePath: string,
  folder: string,
  name: string,
  at: number,
): Promise<string | null> {
  const source = join(folder, basename(name))
  if (!name.endsWith(ending) || !existsSync(source)) throw notFound('backup', name)
  await checkDatabase(source, 'integrity_check')
  const fresh = `${databasePath}.restoring`
  await copyFile(source, fresh)
  const aside = `${databasePath}.before ${stamp(at)}`
  const had = existsSync(databasePath)
  if (had) {
    // What the last program left in its log belongs to the old database.
    for (const part of ['', '-wal', '-shm'])
      if (existsSync(databasePath + part)) await rename(databasePath + part, aside + part)
  }
  await rename(fresh, databasePath)
  return had ? basename(aside) : null
}
