import { readFamily } from '@bench-wake/core/family'
import { isProblem, Problem } from '@bench-wake/core/kernel'
import { WakeEvent } from '@bench-wake/core/run'
import { getTableConfig, type SQLiteTable } from 'drizzle-orm/sqlite-core'
import { eq, is, sql, Table } from 'drizzle-orm'
import * as v from 'valibot'
import type { Database } from '../db/open'
import * as schema from '../db/schema'
import { notFound } from '../problem'

/** A row that cannot be read. */
export interface Damage {
  /** The number it was set aside under; absent where it stands in its place, because a record is never taken apart. */
  id?: number
  at?: number
  table: string
  key: string
  why: string
}

interface JsonColumn {
  table: string
  column: string
  keys: string[]
}

const snake = (name: string) => name.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`)

/** Every column that holds JSON, with what its rows are known by. */
const jsonColumns: JsonColumn[] = Object.values(schema).flatMap((each) => {
  if (!is(each, Table)) return []
  const { name, columns, primaryKeys } = getTableConfig(each as unknown as SQLiteTable)
  const keys = [
    ...columns.filter(({ primary }) => primary),
    ...primaryKeys.flatMap(({ columns: own }) => own),
  ].map((column) => snake(column.name))
  return columns
    .filter(({ columnType }) => columnType === 'SQLiteTextJson')
    .map((column) => ({ table: name, column: snake(column.name), keys }))
})

/** In its place in the chain an event that is none says where the record broke; elsewhere it would be a gap without a word. */
const keptInPlace = 'wake_events'

type Row = Record<string, unknown>

const identifiers = (names: readonly string[]) => sql.raw(names.map((name) => `"${name}"`).join(', '))
const keyOf = (row: Row, keys: readonly string[]) => keys.map((key) => String(row[key])).join(', ')

/** Rows whose JSON is none, and profiles that are none. */
async function unreadable(
  db: Database,
  columns: readonly JsonColumn[] = jsonColumns,
): Promise<{ column: JsonColumn; row: Row; why: string }[]> {
  const found: { column: JsonColumn; row: Row; why: string }[] = []
  for (const column of columns) {
    const own = sql.raw(`"${column.column}"`)
    const { rows } = await db.run(
      sql`select * from ${identifiers([column.table])} where ${own} is not null and not json_valid(${own})`,
    )
    for (const row of rows) found.push({ column, row, why: `${column.column} is not JSON` })
  }
  const families = jsonColumns.find(({ table }) => table === 'families')!
  const { rows } = await db.run(sql`select * from families where json_valid(document)`)
  for (const row of rows) {
    try {
      readFamily(JSON.parse(String(row['document'])))
    } catch (error) {
      if (!isProblem(error)) throw error
      found.push({ column: families, row, why: error.message })
    }
  }
  return found
}

/**
 * Sets rows aside that cannot be read, whole and with the reason, so that they take no list and no start with them.
 * @returns how many.
 */
export async function setAside(db: Database): Promise<number> {
  // A long record is not read through at each start for what stays in its place anyway.
  const found = await unreadable(
    db,
    jsonColumns.filter(({ table }) => table !== keptInPlace),
  )
  const seen = new Set<string>()
  for (const { column, row, why } of found) {
    const key = keyOf(row, column.keys)
    if (seen.has(`${column.table} ${key}`)) continue
    seen.add(`${column.table} ${key}`)
    const where = sql.join(
      column.keys.map((name) => sql`${identifiers([name])} = ${row[name]}`),
      sql` and `,
    )
    await db.batch([
      db.insert(schema.damagedRows).values({
        at: Date.now(),
        fromTable: column.table,
        key,
        why,
        row: JSON.stringify(row, (_, value: unknown) =>
          value instanceof ArrayBuffer ? { hex: Buffer.from(value).toString('hex') } : value,
        ),
      }),
      db.run(sql`delete from ${identifiers([column.table])} where ${where}`),
    ])
  }
  return seen.size
}

/** What was set aside, and the events of wakes that cannot be read; newest first. */
export async function listDamage(db: Database): Promise<Damage[]> {
  const aside = await db.select().from(schema.damagedRows)
  const { rows } = await db.run(sql`select run_id, seq, at, prev, hash, body as text from wake_events
    where not json_valid(body) or json_extract(body, '$.type') is null or type <> json_extract(body, '$.type')
    or type not in ${knownTypes}`)
  return [
    ...aside.map(({ id, at, fromTable, key, why }) => ({ id, at, table: fromTable, key, why })).toReversed(),
    ...rows.map((row) => ({
      table: keptInPlace,
      key: `run ${String(row['run_id'])}, event ${String(row['seq'])}`,
      why: 'this event cannot be read',
    })),
  ]
}

const eventTypes = (
  WakeEvent.entries.body.options as { entries: { type: v.LiteralSchema<string, undefined> } }[]
).map(({ entries }) => entries.type.literal)
const knownTypes = sql.raw(`(${eventTypes.map((type) => `'${type}'`).join(', ')})`)

/** A row that was set aside, as it was. */
export async function damagedRow(
  db: Database,
  id: number,
): Promise<{ table: string; key: string; why: string; row: Row }> {
  const [found] = await db.select().from(schema.damagedRows).where(eq(schema.damagedRows.id, id))
  if (!found) throw notFound('row that was set aside', String(id))
  const { fromTable, key, why, row } = found
  return { table: fromTable, key, why, row: JSON.parse(row) as Row }
}

/**
 * Puts a row back in its place, with what was mended in it.
 * @param mended texts by column, in the place of what stood there.
 * @throws Problem `not-found`; `twin` where its place is taken; `still-damaged` where it cannot be read still.
 */
export async function putBack(db: Database, id: number, mended: Record<string, string>): Promise<void> {
  const { table, key, row } = await damagedRow(db, id)
  const own = jsonColumns.filter((column) => column.table === table)
  const whole = new Map(Object.entries(row))
  for (const [column, text] of Object.entries(mended)) if (whole.has(column)) whole.set(column, text)
  for (const { column } of own) {
    const text = whole.get(column)
    if (typeof text !== 'string') continue
    try {
      const content: unknown = JSON.parse(text)
      if (table === 'families') readFamily(content)
    } catch (error) {
      throw new Problem({
        kind: 'still-damaged',
        thing: `${table}, ${key}`,
        place: { at: column },
        says: 'this still cannot be read',
        found: error instanceof Error ? error.message : String(error),
        remedy: 'Mend the text at that place, or bring it in anew where it came from.',
      })
    }
  }
  const columns = [...whole.keys()]
  const values = columns.map((column) => {
    const value = whole.get(column) as string | number | null | { hex: string }
    return sql`${value !== null && typeof value === 'object' ? Buffer.from(value.hex, 'hex') : value}`
  })
  const { rowsAffected } = await db.run(
    sql`insert into ${identifiers([table])} (${identifiers(columns)}) values (${sql.join(values, sql`, `)})
      on conflict do nothing`,
  )
  if (rowsAffected === 0) {
    throw new Problem({
      kind: 'twin',
      thing: `${table}, ${key}`,
      says: 'its place is taken by another row meanwhile',
      remedy: 'Save this one, and keep the one that is there.',
    })
  }
  await db.delete(schema.damagedRows).where(eq(schema.damagedRows.id, id))
}

/** Forgets a row that was set aside, for good. @throws Problem `not-found`. */
export async function dropDamaged(db: Database, id: number): Promise<void> {
  await damagedRow(db, id)
  await db.delete(schema.damagedRows).where(eq(schema.damagedRows.id, id))
}
