import type { Finding } from '@bench-wake/core/kernel'
import type { MemoryMap } from '@bench-wake/core/image'
import {
  tableValues,
  type Aim,
  type Binned,
  type CalibrationTable,
  type RevisionChanges,
  type TableDefinition,
  type TableValues,
} from '@bench-wake/core/rounds'

/** One edge of a map, ready to be written beside it. */
export interface MapEdge {
  name: string
  unit: string
  points: number[]
}

export interface ImageTable {
  id: string
  name: string
  unit: string
  decimals: number
  x: MapEdge
  y: MapEdge
  /** Row after row; null where the image holds no figure. */
  cells: (number | null)[]
}

export interface ChangedTable extends Omit<ImageTable, 'cells'> {
  before: (number | null)[]
  after: (number | null)[]
  /** Cells that differ. */
  cells: number
  largest: { down: number; up: number } | null
}

/** What a round's image changes, as it goes over the wire. */
export interface RoundChanges {
  bytes: number
  unnamedBytes: number
  tables: ChangedTable[]
  findings: Finding[]
}

/** The error of a round by the map's cells. */
export interface RoundMap {
  x: MapEdge
  y: MapEdge
  count: number[]
  mean: (number | null)[]
  spread: (number | null)[]
}

export const changesAnswer = ({ bytes, unnamedBytes, tables, findings }: RevisionChanges): RoundChanges => ({
  bytes,
  unnamedBytes,
  findings,
  tables: tables.map(({ table, before, after, cells, largest }) => ({
    ...headOf(table, after),
    before: plain(before.cells),
    after: plain(after.cells),
    cells,
    largest,
  })),
})

export const mapAnswer = ({ x, y }: Aim, map: Binned): RoundMap => ({
  x: { name: x.channel, unit: '', points: [...map.x] },
  y: { name: y.channel, unit: '', points: [...map.y] },
  count: [...map.count],
  mean: plain(map.mean),
  spread: plain(map.spread),
})

/** Every table of an image; those that it does not hold are left out. */
export const tablesAnswer = (definition: TableDefinition, memory: MemoryMap): ImageTable[] =>
  definition.tables.flatMap((table) => {
    const values = tableValues(memory, table)
    return values ? [{ ...headOf(table, values), cells: plain(values.cells) }] : []
  })

const headOf = (table: CalibrationTable, { x, y }: TableValues) => ({
  id: table.id,
  name: table.name,
  unit: table.unit,
  decimals: table.decimals,
  x: { name: table.x?.name ?? '', unit: table.x?.unit ?? '', points: x },
  y: { name: table.y?.name ?? '', unit: table.y?.unit ?? '', points: y },
})

/** JSON has no word for "not a number". */
const plain = (figures: Float64Array): (number | null)[] =>
  Array.from(figures, (figure) => (Number.isFinite(figure) ? figure : null))
