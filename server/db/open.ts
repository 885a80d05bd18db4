import { createClient, type Client } from '@libsql/client'
import { drizzle, type LibSQLDatabase } from 'drizzle-orm/libsql'
import { migrate } from 'drizzle-orm/libsql/migrator'
import { readMigrationFiles } from 'drizzle-orm/migrator'
import { fileURLToPath } from 'node:url'
import { lockTryMs, patientClient, statements } from './patience'
import * as schema from './schema'
import { checkTextOf, selectTextAsBytes } from './stored-text'

checkTextOf(schema)

export type Database = LibSQLDatabase<typeof schema> & { $client: Client }

export const migrationsFolder = fileURLToPath(new URL('../migrations', import.meta.url))
/** Marks a file as a database of this program (sqlite.org/pragma.html, application_id): "BWk1". */
export const applicationId = 0x42_57_6b_31

/** A backup or a scanner that looks at the database holds it no longer than this, ms. */
const patienceMs = 15_000

export interface ConnectedDatabase {
  db: Database
  close(): void
  /** Refuses every statement from now on: its file is gone, and nothing may be acknowledged any more. */
  refuse(error: Error): void
}

/** A client that refuses statements once there is a reason to. */
function refusable(client: Client, reason: () => Error | undefined): Client {
  return new Proxy(client, {
    get(target, name) {
      const member: unknown = Reflect.get(target, name, target)
      if (typeof member !== 'function') return member
      const own = (member as (...args: unknown[]) => unknown).bind(target)
      if (!statements.includes(String(name))) return own
      return async (...args: unknown[]) => {
        const before = reason()
        if (before) throw before
        const answer = await own(...args)
        // Gone while it was under way.
        const after = reason()
        if (after) throw after
        return answer
      }
    },
  })
}

/**
 * Connects to a database as it stands. A file is kept in write-ahead mode, with every commit on disk before it counts
 * (`synchronous = FULL`, which is what SQLite opens each connection with), because a wake's event must outlive the laptop.
 */
export async function connectDatabase(url: string): Promise<ConnectedDatabase> {
  // The time-out is one of the library's own settings, so that each connection of its pool has it.
  let refused: Error | undefined
  const client = refusable(
    patientClient(createClient({ url, timeout: lockTryMs }), patienceMs),
    () => refused,
  )
  if (url.startsWith('file:')) await client.execute('PRAGMA journal_mode = WAL')
  const db = drizzle(client, { schema, casing: 'snake_case' })
  selectTextAsBytes(db)
  return {
    db,
    close: () => client.close(),
    refuse(error) {
      refused = error
    },
  }
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
export async function openDatabase(url: string): Promise<ConnectedDatabase> {
  const connected = await connectDatabase(url)
  await migrate(connected.db, { migrationsFolder })
  if (url.startsWith('file:')) {
    const { rows } = await connected.db.$client.execute('PRAGMA application_id')
    if (Number(rows[0]![0]) !== applicationId)
      await connected.db.$client.execute(`PRAGMA application_id = ${applicationId}`)
  }
  return connected
}
