import { Problem } from '../../kernel'
import type { TableDefinitionDocument } from './table-definition'

/** Columns of a table list, as calibrators call them. */
const columns: Record<string, string> = {
  id: 'id',
  name: 'name',
  table: 'name',
  map: 'name',
  unit: 'unit',
  units: 'unit',
  address: 'address',
  start: 'address',
  type: 'type',
  'data type': 'type',
  order: 'order',
  'byte order': 'order',
  scale: 'scale',
  factor: 'scale',
  offset: 'offset',
  add: 'offset',
  decimals: 'decimals',
  min: 'min',
  max: 'max',
  x: 'x',
  'x axis': 'x',
  'x unit': 'xUnit',
  y: 'y',
  'y axis': 'y',
  'y unit': 'yUnit',
}

/** What a list of tables does not carry and a definition must. */
export interface DefinitionHead {
  name: string
  signature: { address: string; ascii: string }
  regions: TableDefinitionDocument['regions']
}

/**
 * A definition from rows of a table list: one row a table; an axis as its breakpoints with spaces between, and what
 * runs along it before a colon (`speed: 500 1000 1500`). Whether it is sound is for `checkDefinitionDocument`.
 * @throws Problem `definition`, with the row, where a row has no name or no address.
 */
export function definitionFromRows(
  rows: readonly Record<string, unknown>[],
  head: DefinitionHead,
): TableDefinitionDocument {
  const tables = rows.map((row, index) => {
    const cells: Record<string, string> = {}
    for (const [heading, value] of Object.entries(row)) {
      const key = columns[heading.trim().toLowerCase()]
      const said = typeof value === 'string' ? value.trim() : typeof value === 'number' ? String(value) : ''
      if (key && said !== '') cells[key] = said
    }
    const need = (key: 'name' | 'address') => {
      const value = cells[key]
      if (value !== undefined) return value
      throw new Problem({
        kind: 'definition',
        place: { at: `row ${index + 1}` },
        says: `it has no ${key}`,
        remedy: 'Each row needs a name and an address; take empty rows out.',
      })
    }
    const name = need('name')
    const x = axisOf(cells['x'], cells['xUnit'])
    const y = axisOf(cells['y'], cells['yUnit'])
    return {
      id: cells['id'] ?? `${slugOf(name)}-${index + 1}`,
      name,
      ...(cells['unit'] === undefined ? {} : { unit: cells['unit'] }),
      address: hexOf(need('address')),
      type: (cells['type'] ?? 'u8').toLowerCase() as 'u8',
      ...(cells['order'] === undefined ? {} : { order: cells['order'].toLowerCase() as 'little' }),
      ...numbers(cells, 'scale', 'offset', 'decimals', 'min', 'max'),
      ...(x ? { x } : {}),
      ...(y ? { y } : {}),
    }
  })
  return { format: 'bench-wake/definition', formatVersion: 1, ...head, tables }
}

const figure = (text: string) => Number(text.replace(',', '.'))
const numbers = (cells: Record<string, string>, ...keys: string[]) =>
  Object.fromEntries(keys.flatMap((key) => (cells[key] === undefined ? [] : [[key, figure(cells[key])]])))
const slugOf = (name: string) =>
  name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '') || 'table'
const hexOf = (text: string) => (/^\d+$/.test(text) ? `0x${Number(text).toString(16)}` : text)

function axisOf(said: string | undefined, unit = '') {
  if (said === undefined) return null
  const colon = said.indexOf(':')
  const name = colon > 0 ? said.slice(0, colon).trim() : 'axis'
  const values = said
    .slice(colon + 1)
    .split(/[\s;]+/)
    .filter(Boolean)
    .map(figure)
  return { name, unit, values }
}
