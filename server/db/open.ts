import { createClient } from '@libsql/client'
import { drizzle, type LibSQLDatabase } from 'drizzle-orm/libsql'
import { migrate } from 'drizzle-orm/libsql/migrator'
import { fileURLToPath } from 'node:url'
import * as schema from './schema'

export type Database = LibSQLDatabase<typeof schema>

const migrationsFolder = fileURLToPath(new URL('../migrations', import.meta.url))

/**
 * Connects to a database as it stands. A file is kept in write-ahead mode with every commit on disk before it counts
 * (`synchronous = FULL`), because a wake's event must outlive the laptop.
 */
export async function connectDatabase(url: string): Promise<{ db: Database; close: () => void }> {
  const client = createClient({ url })
  if (url.startsWith('file:')) {
    await client.execute('PRAGMA journal_mode = WAL')
    await client.execute('PRAGMA synchronous = FULL')
    await client.execute('PRAGMA busy_timeout = 5000')
  }
  return { db: drizzle(client, { schema, casing: 'snake_case' }), close: () => client.close() }
}

/** Connects, and brings the database to this version. */
export async function openDatabase(url: string): Promise<{ db: Database; close: () => void }> {
  const connected = await connectDatabase(url)
  await migrate(connected.db, { migrationsFolder })
  return connected
}
