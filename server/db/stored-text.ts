import { Column, getTableColumns, is, sql, Table } from 'drizzle-orm'
import { isUtf8 } from 'node:buffer'

/*
 * The SQLite library ends the whole process when a text column holds a byte that is not UTF-8: one flipped bit on the disk
 * would stop every start. So text is read as bytes and checked before it becomes a string.
 */

/** A stored text that is not UTF-8. */
export class TextDamaged extends Error {
  constructor() {
    super('the stored text is not UTF-8')
    this.name = 'TextDamaged'
  }
}

/** Stored bytes as text. @param value what the driver returns for `cast(… as blob)`. @throws TextDamaged. */
export function textOf(value: unknown): string {
  if (!(value instanceof ArrayBuffer || ArrayBuffer.isView(value))) return value as string
  const bytes =
    value instanceof ArrayBuffer
      ? Buffer.from(value)
      : Buffer.from(value.buffer, value.byteOffset, value.byteLength)
  if (!isUtf8(bytes)) throw new TextDamaged()
  return bytes.toString('utf8')
}

/** Stored bytes as text, with U+FFFD for what is not UTF-8: for columns whose damage the chain finds. */
export const damagedTextOf = (value: unknown): string =>
  value instanceof ArrayBuffer ? Buffer.from(value).toString('utf8') : String(value)

/** Stored bytes as text; null where they are not UTF-8. */
export function textOrNull(value: unknown): string | null {
  try {
    return textOf(value)
  } catch {
    return null
  }
}

/** For expressions: `sql`…`.mapWith(storedText)` over `cast(… as blob)`. */
export const storedText = { mapFromDriverValue: textOf }

const isText = (column: Column) =>
  column.columnType === 'SQLiteText' || column.columnType === 'SQLiteTextJson'

/** What a column holds, by its kind in the schema. */
export const storedAs = (column: Column): 'text' | 'integer' | 'real' | 'blob' =>
  isText(column)
    ? 'text'
    : column.columnType === 'SQLiteBlobBuffer'
      ? 'blob'
      : column.columnType === 'SQLiteReal'
        ? 'real'
        : 'integer'

/** A damaged row header can turn any column into text, so every column is read as the kind it was declared. */
const castOf = (column: Column) => {
  const kind = storedAs(column)
  return sql`cast(${column} as ${sql.raw(kind === 'text' ? 'blob' : kind)})`
}

/** Makes every text column of these tables accept bytes and check them. Call once for each column. */
export function checkTextOf(schema: Record<string, unknown>): void {
  for (const table of Object.values(schema)) {
    if (!is(table, Table)) continue
    for (const column of Object.values(getTableColumns(table))) {
      if (!isText(column)) continue
      const read = column.mapFromDriverValue.bind(column)
      column.mapFromDriverValue = (value) => read(textOf(value))
    }
  }
}

interface Selected {
  field: unknown
}
interface Dialect {
  buildSelection(fields: Selected[], options?: { isSingleTable?: boolean }): unknown
}
interface Query {
  _prepare(oneTime?: boolean): unknown
}
type Select = (...fields: unknown[]) => { from(table: unknown): Query }
interface Selecting {
  dialect: Dialect
  select: Select
  selectDistinct: Select
}

/**
 * Makes a connection select every column as its declared kind, and text as bytes. Only the outermost selection of a query is
 * changed: within a query a text must still compare with a text.
 */
export function selectTextAsBytes(db: object): void {
  const own = db as unknown as Selecting
  const { dialect } = own
  /** Set while the outermost selection of a query is built: inner ones are built before or after it. */
  let outermost = false
  const build = dialect.buildSelection.bind(dialect)
  dialect.buildSelection = (fields, options) => {
    if (!outermost) return build(fields, options)
    outermost = false
    return build(
      fields.map(({ field, ...selected }) => ({
        ...selected,
        field: is(field, Column) ? castOf(field) : field,
      })),
      options,
    )
  }
  for (const method of ['select', 'selectDistinct'] as const) {
    const select = own[method].bind(db)
    own[method] = (...fields) => {
      const builder = select(...fields)
      const from = builder.from.bind(builder)
      builder.from = (table) => {
        const query = from(table)
        const prepare = query._prepare.bind(query)
        query._prepare = (oneTime) => {
          outermost = true
          try {
            return prepare(oneTime)
          } finally {
            outermost = false
          }
        }
        return query
      }
      return builder
    }
  }
}
