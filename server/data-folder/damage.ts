import { readFamily } from '@bench-wake/core/family'
import { Problem } from '@bench-wake/core/kernel'
import { getTableConfig, type SQLiteTable } from 'drizzle-orm/sqlite-core'
import { eq, is, sql, Table } from 'drizzle-orm'
import type { Database } from '../db/open'
import * as schema from '../db/schema'
import { damagedTextOf, storedAs, textOrNull } from '../db/stored-text'
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

/** A table whose rows are looked through and set aside one by one. */
interface LookedThrough {
  name: string
  keys: string[]
  columns: { name: string; kind: ReturnType<typeof storedAs>; json: boolean; required: boolean }[]
}

const snake = (name: string) => name.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`)

/** Tables whose rows stay in their place: a chain or a digest says which of them are damaged, and a summary is made again. */
const inPlace: readonly unknown[] = [
  schema.wakeEvents,
  schema.blobs,
  schema.blobParts,
  schema.runSummaries,
  schema.damagedRows,
]

const tables: LookedThrough[] = Object.values(schema).flatMap((each) => {
  if (!is(each, Table) || inPlace.includes(each)) return []
  const { name, columns, primaryKeys } = getTableConfig(each as unknown as SQLiteTable)
  const keys = [
    ...columns.filter(({ primary }) => primary),
    ...primaryKeys.flatMap(({ columns: own }) => own),
  ].map((column) => snake(column.name))
  return {
    name,
    keys,
    columns: columns.map((column) => ({
      name: snake(column.name),
      kind: storedAs(column),
      json: column.columnType === 'SQLiteTextJson',
      required: column.notNull,
    })),
  }
})

/** A value as SQLite holds it: bytes for text and blobs, so that no damage stops the reading. */
type Stored = number | ArrayBuffer | null
type Row = Record<string, { type: string; value: Stored }>

const quoted = (name: string) => sql.raw(`"${name}"`)
const list = (names: readonly string[]) => sql.raw(names.map((name) => `"${name}"`).join(', '))

/** A value as a person reads it and as it is put back: text, number, or bytes in hexadecimal. */
function shown({ type, value }: Row[string]): string | number | null | { hex: string; text?: string } {
  if (!(value instanceof ArrayBuffer)) return value
  const hex = Buffer.from(value).toString('hex')
  if (type !== 'text') return { hex }
  return textOrNull(value) ?? { hex, text: damagedTextOf(value) }
}
const keyOf = (row: Row, keys: readonly string[]) =>
  keys.map((key) => damagedTextOf(row[key]!.value)).join(', ')

/** What a stored value of a column may be. An integer column may hold a fraction: times are taken to a part of a millisecond. */
const kinds: Record<ReturnType<typeof storedAs>, readonly string[]> = {
  text: ['text', 'null'],
  integer: ['integer', 'real', 'null'],
  real: ['real', 'integer', 'null'],
  blob: ['blob', 'null'],
}

/** Why a row cannot be read; null for one that can. */
function faultOf({ name: table, columns }: LookedThrough, row: Row): string | null {
  for (const { name, kind, json, required } of columns) {
    const { type, value } = row[name]!
    if (required && type === 'null') return `${name} is missing`
    if (!kinds[kind].includes(type)) return `${name} is not ${kind}`
    if (type !== 'text') continue
    const text = textOrNull(value)
    if (text === null) return `${name} is not text`
    const fault = json ? faultOfJson(table, text) : null
    if (fault !== null) return isJson(text) ? fault : `${name} is not JSON`
  }
  return null
}

const isJson = (text: string) => {
  try {
    JSON.parse(text)
    return true
  } catch {
    return false
  }
}

/** Why a JSON column of a table cannot be read; null where it can. */
function faultOfJson(table: string, text: string): string | null {
  try {
    const content: unknown = JSON.parse(text)
    if (table === 'families') readFamily(content)
    return null
  } catch (error) {
    return error instanceof Error ? error.message : String(error)
  }
}

/** Rows that are looked at in one go. */
const atOnce = 500

/** Every row that cannot be read, with its place in its table. */
async function* unreadable(
  db: Database,
): AsyncGenerator<{ table: LookedThrough; rowid: number; row: Row; why: string }> {
  for (const table of tables) {
    const selected = sql.join(
      table.columns.map(
        ({ name }) =>
          sql`typeof(${quoted(name)}), case when typeof(${quoted(name)}) in ('integer', 'real') then ${quoted(name)} else cast(${quoted(name)} as blob) end`,
      ),
      sql`, `,
    )
    for (let after = Number.MIN_SAFE_INTEGER; ;) {
      const { rows } = await db.run(
        sql`select rowid, ${selected} from ${quoted(table.name)} where rowid > ${after} order by rowid limit ${atOnce}`,
      )
      for (const values of rows) {
        after = Number(values[0])
        const row = Object.fromEntries(
          table.columns.map(({ name }, index): [string, Row[string]] => [
            name,
            { type: String(values[1 + 2 * index]), value: (values[2 + 2 * index] ?? null) as Stored },
          ]),
        )
        const why = faultOf(table, row)
        if (why !== null) yield { table, rowid: after, row, why }
      }
      if (rows.length < atOnce) break
    }
  }
}

/**
 * Sets rows aside that cannot be read, whole and with the reason, so that they stop no list and no start.
 * @returns how many.
 */
export async function setAside(db: Database): Promise<number> {
  let count = 0
  for await (const { table, rowid, row, why } of unreadable(db)) {
    count++
    await db.batch([
      db.insert(schema.damagedRows).values({
        at: Date.now(),
        fromTable: table.name,
        key: keyOf(row, table.keys),
        why,
        row: JSON.stringify(
          Object.fromEntries(Object.entries(row).map(([name, each]) => [name, shown(each)])),
        ),
      }),
      db.run(sql`delete from ${quoted(table.name)} where rowid = ${rowid}`),
    ])
  }
  return count
}

/** What was set aside, newest first. */
export async function listSetAside(db: Database): Promise<Damage[]> {
  const rows = await db.select().from(schema.damagedRows)
  return rows.map(({ id, at, fromTable, key, why }) => ({ id, at, table: fromTable, key, why })).toReversed()
}

/** A row that was set aside, as it was. */
export async function damagedRow(
  db: Database,
  id: number,
): Promise<{ table: string; key: string; why: string; row: Record<string, unknown> }> {
  const [found] = await db.select().from(schema.damagedRows).where(eq(schema.damagedRows.id, id))
  if (!found) throw notFound('row that was set aside', String(id))
  const { fromTable, key, why, row } = found
  return { table: fromTable, key, why, row: JSON.parse(row) as Record<string, unknown> }
}

/**
 * Puts a row back in its place, with what was mended in it.
 * @param mended texts by column, in the place of what stood there.
 * @throws Problem `not-found`; `twin` where its place is taken; `still-damaged` where it cannot be read still.
 */
export async function putBack(db: Database, id: number, mended: Record<string, string>): Promise<void> {
  const { table, key, row } = await damagedRow(db, id)
  const whole = new Map(Object.entries(row))
  for (const [column, text] of Object.entries(mended)) if (whole.has(column)) whole.set(column, text)
  for (const { name: column, kind, json } of tables.find(({ name }) => name === table)?.columns ?? []) {
    const value = whole.get(column) ?? null
    const fault =
      kind === 'text' && typeof value !== 'string' && value !== null
        ? 'it is not text'
        : json && typeof value === 'string'
          ? faultOfJson(table, value)
          : null
    if (fault === null) continue
    throw new Problem({
      kind: 'still-damaged',
      thing: `${table}, ${key}`,
      place: { at: column },
      says: 'this still cannot be read',
      found: fault,
      remedy: 'Correct the text at that place, or add it again from its source.',
    })
  }
  const columns = [...whole.keys()]
  const values = columns.map((column) => {
    const value = whole.get(column) as string | number | null | { hex: string }
    return sql`${value !== null && typeof value === 'object' ? Buffer.from(value.hex, 'hex') : value}`
  })
  const { rowsAffected } = await db.run(
    sql`insert into ${quoted(table)} (${list(columns)}) values (${sql.join(values, sql`, `)})
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
