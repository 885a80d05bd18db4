import { createClient, type Client } from '@libsql/client'
import { drizzle, type LibSQLDatabase } from 'drizzle-orm/libsql'
import { migrate } from 'drizzle-orm/libsql/migrator'
import { readMigrationFiles } from 'drizzle-orm/migrator'
import { fileURLToPath } from 'node:url'
import { lockTryMs, patientClient } from './patience'
import * as schema from './schema'
import { checkTextOf, selectTextAsBytes } from './stored-text'

checkTextOf(schema)

export type Database = LibSQLDatabase<typeof schema> & { $client: Client }

const migrationsFolder = fileURLToPath(new URL('../migrations', import.meta.url))
/** A backup or a scanner that looks at the database holds it no longer than this, ms. */
const patienceMs = 15_000

/**
 * Connects to a database as it stands. A file is kept in write-ahead mode, with every commit on disk before it counts
 * (`synchronous = FULL`, which is what SQLite opens each connection with), because a wake's event must outlive the laptop.
 */
export async function connectDatabase(url: string): Promise<{ db: Database; close: () => void }> {
  // The time-out is one of the library's own settings, so that each connection of its pool has it.
  const client = patientClient(createClient({ url, timeout: lockTryMs }), patienceMs)
  if (url.startsWith('file:')) await client.execute('PRAGMA journal_mode = WAL')
  const db = drizzle(client, { schema, casing: 'snake_case' })
  selectTextAsBytes(db)
  return { db, close: () => client.close() }
}

/** Whether a database that holds something is of an earlier form than this version's. */
export async function needsUpdate(db: Database): Promise<boolean> {
  const { rows } = await db.$client.execute(
    "select name from sqlite_master where name = '__drizzle_migrations'",
  )
  if (rows.length === 0) return false
  const done = await db.$client.execute('select count(*) from __drizzle_migrations')
  return Number(done.rows[0]![0]) < readMigrationFiles({ migrationsFolder }).length
}

/** Connects, and brings the database to this version. */
export async function openDatabase(url: string): Promise<{ db: Database; close: () => void }> {
  const connected = await connectDatabase(url)
  await migrate(connected.db, { migrationsFolder })
  return connected
}
