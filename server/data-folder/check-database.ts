import { createClient, type Client } from '@libsql/client'
import { isProblem, Problem } from '@bench-wake/core/kernel'
import { readMigrationFiles } from 'drizzle-orm/migrator'
import { open, stat } from 'node:fs/promises'
import { pathToFileURL } from 'node:url'
import { applicationId, migrationsFolder, openDatabase, type Database } from '../db/open'
import { passwords, sessions } from '../db/schema'
import { textOrNull } from '../db/stored-text'
import { databaseTrouble } from '../db/trouble'
import { sweepSomeBlobs, type SweptBlobs } from '../store/blobs'
import { runHeads } from '../store/run-summaries'
import { chainBreaks } from '../store/runs'

const damaged = (
  path: string,
  found: string,
  remedy = 'End the program and bring back a backup with "npm run restore".',
) => new Problem({ kind: 'database-damaged', thing: path, says: 'the database is damaged', found, remedy })

const notOurs = (path: string, found: string) =>
  new Problem({
    kind: 'not-a-backup',
    thing: path,
    says: 'this is not a Bench Wake database',
    found,
    remedy: 'Choose another backup from the list. Nothing was changed.',
  })

/** A connection for one look at a file, closed after it. */
async function looking<T>(path: string, look: (client: Client) => Promise<T>): Promise<T> {
  const client = createClient({ url: pathToFileURL(path).href, timeout: 2000 })
  try {
    return await look(client)
  } finally {
    client.close()
  }
}

/** @throws Problem `database-damaged`: what SQLite itself finds wrong with a file. */
export async function checkDatabase(path: string, how: 'quick_check' | 'integrity_check'): Promise<void> {
  const found: string[] = []
  try {
    await looking(path, async (client) => {
      // As bytes: what SQLite reports of a damaged page can hold anything.
      const { rows } = await client.execute(`select cast(${how} as blob) from pragma_${how}(5)`)
      found.push(...rows.map((row) => textOrNull(row[0]) ?? 'a page that cannot be described'))
    })
  } catch (error) {
    const trouble = databaseTrouble(error)
    if (trouble && trouble.facts.kind !== 'database-damaged') throw trouble.about(path)
    found.push(trouble?.facts.found ?? String(error))
  }
  if (found.length === 1 && found[0] === 'ok') return
  throw damaged(
    path,
    found
      .join('; ')
      .replace(/\s*\n\s*/g, '; ')
      .slice(0, 400),
  )
}

/**
 * Makes the indexes of a database again where they differ from its tables: a row that an index has lost is found by no
 * look at it, though it is whole.
 * @returns what was found; null where nothing was.
 */
export async function repairIndexes(path: string): Promise<string | null> {
  try {
    await checkDatabase(path, 'integrity_check')
    return null
  } catch (error) {
    if (!isProblem(error) || error.facts.kind !== 'database-damaged') throw error
    await looking(path, (client) => client.execute('REINDEX')).catch(() => {
      // Two rows of one key: the rows themselves are damaged, and are set aside.
    })
    return error.facts.found ?? error.message
  }
}

const magic = Buffer.from('SQLite format 3\0', 'latin1')
const applicationIdAt = 68

/** Whether a file is a database of this program, by its first page (sqlite.org/fileformat2.html, clause 1.3). @throws Problem `not-a-backup`. */
async function refuseForeign(path: string): Promise<void> {
  const { size } = await stat(path)
  const first = Buffer.alloc(100)
  const file = await open(path, 'r')
  try {
    await file.read(first, 0, first.length, 0)
  } finally {
    await file.close()
  }
  if (size < first.length || !first.subarray(0, magic.length).equals(magic))
    throw notOurs(path, size === 0 ? 'an empty file' : 'a file of another kind')
  const id = first.readUInt32BE(applicationIdAt)
  // Databases of earlier versions have none.
  if (id !== 0 && id !== applicationId) throw notOurs(path, `application id ${id}`)
}

/** Tables with their columns, as the given migrations make them. */
async function formAfter(migrations: readonly { sql: string[] }[]): Promise<Map<string, string>> {
  const client = createClient({ url: ':memory:' })
  try {
    for (const statement of migrations.flatMap((each) => each.sql)) await client.execute(statement)
    return await formOf(client)
  } finally {
    client.close()
  }
}

async function formOf(client: Client): Promise<Map<string, string>> {
  const { rows } = await client.execute(
    `select cast(m.name as blob), cast(group_concat(c.name) as blob) from sqlite_master m, pragma_table_info(m.name) c
     where m.type = 'table' and m.name not like 'sqlite_%' and m.name <> '__drizzle_migrations' group by m.name`,
  )
  return new Map(rows.map((row) => [textOrNull(row[0]) ?? '', textOrNull(row[1]) ?? '']))
}

/** Whether the tables are those of a version up to this one. @throws Problem `not-a-backup`, `newer-form`. */
async function refuseForm(path: string): Promise<void> {
  const known = readMigrationFiles({ migrationsFolder })
  await looking(path, async (client) => {
    const has = await client.execute("select count(*) from sqlite_master where name = '__drizzle_migrations'")
    if (Number(has.rows[0]![0]) === 0) throw notOurs(path, 'without the tables of this program')
    const done = await client.execute(
      'select cast(hash as blob) from __drizzle_migrations order by created_at',
    )
    const hashes = done.rows.map((row) => textOrNull(row[0]))
    if (hashes.length > known.length)
      throw new Problem({
        kind: 'newer-form',
        thing: path,
        says: 'this database was written by a newer version of the program',
        remedy: 'Update the program first, or choose an older backup. Nothing was changed.',
      })
    if (hashes.length === 0 || hashes.some((hash, index) => hash !== known[index]!.hash))
      throw notOurs(path, 'with tables of another program')
    const form = await formOf(client)
    for (const [table, columns] of await formAfter(known.slice(0, hashes.length)))
      if (form.get(table) !== columns) throw damaged(path, `table ${table} is not as it was made`)
  })
}

/** What is damaged in a database that SQLite itself finds whole: runs and stored files, a line each. */
async function damageIn(db: Database): Promise<string[]> {
  const heads = await runHeads(db, undefined)
  const found: string[] = []
  for (let at = 0; at < heads.length; at += 50) {
    const breaks = await chainBreaks(
      db,
      heads.slice(at, at + 50).map(({ id }) => id),
    )
    found.push(
      ...breaks.flatMap(([id, brokenAt]) => (brokenAt === null ? [] : [`run ${id}, event ${brokenAt}`])),
    )
  }
  for (let after: number | null = 0; after !== null;) {
    const swept: SweptBlobs = await sweepSomeBlobs(db, after)
    found.push(...swept.altered.map((sha256) => `file ${sha256.slice(0, 12)}`))
    after = swept.next
  }
  return found
}

/**
 * Checks a copy of a backup before it takes the place of the database, brings it to this version's form, and ends its
 * sessions: a device that was signed out since then stays signed out.
 * @param form.despiteDamage accepts runs and files that are damaged within it; they stay named as damaged.
 * @param form.passwords password hashes of today, in the place of those of the backup.
 * @throws Problem `not-a-backup`, `newer-form`, `database-damaged`, `backup-damaged`.
 */
export async function prepareCandidate(
  path: string,
  form: { despiteDamage: boolean; passwords?: readonly { hash: string; at: number }[] },
): Promise<void> {
  await refuseForeign(path)
  await checkDatabase(path, 'integrity_check')
  await refuseForm(path)
  let found: string[]
  try {
    const { db, close } = await openDatabase(pathToFileURL(path).href)
    try {
      await db.delete(sessions)
      if (form.passwords) {
        await db.delete(passwords)
        for (const each of form.passwords) await db.insert(passwords).values(each)
      }
      found = await damageIn(db)
      // One file, so that nothing has to move with it.
      await db.$client.execute('PRAGMA journal_mode = DELETE')
    } finally {
      close()
    }
  } catch (error) {
    throw databaseTrouble(error) ?? error
  }
  if (found.length === 0 || form.despiteDamage) return
  throw new Problem({
    kind: 'backup-damaged',
    thing: path,
    says: 'something in this backup is damaged',
    found: found.slice(0, 5).join('; ') + (found.length > 5 ? `; and ${found.length - 5} more` : ''),
    remedy: 'Choose an older backup, or restore this one despite the damage: everything else in it is whole.',
  })
}
