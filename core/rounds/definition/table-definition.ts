import * as v from 'valibot'
import { hexadecimal, text } from '../../family'

/*
 * A calibration image is bytes; only its definition says that sixteen of them at 0x31200 are ignition angles over
 * speed. The calibrator sends both. The wrong definition reads nonsense as figures and writes it as harm (PRACTICE
 * B10), so a definition carries what it can be checked by: a signature, what each table may hold, and where a
 * calibration may write at all.
 */

/** How one number lies in the image. */
export const cellTypes = ['u8', 'i8', 'u16', 'i16', 'u32', 'i32', 'f32'] as const
export type CellType = (typeof cellTypes)[number]

/** Bytes of one number. */
export const cellBytes: Readonly<Record<CellType, number>> = {
  u8: 1,
  i8: 1,
  u16: 2,
  i16: 2,
  u32: 4,
  i32: 4,
  f32: 4,
}

const count = (max: number, says: string) =>
  v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(max), v.description(says))
const figure = (says: string) => v.pipe(v.number(), v.finite(), v.description(says))

const stored = {
  type: v.picklist(cellTypes),
  order: v.optional(v.pipe(v.picklist(['little', 'big']), v.description('Order of its bytes')), 'little'),
  scale: v.optional(figure('The figure is raw × scale + offset'), 1),
  offset: v.optional(figure('Added after scaling'), 0),
}

/** One edge of a table: written down here, or read from the image. */
export const Axis = v.union([
  v.strictObject({
    name: text('What runs along it: speed, load'),
    unit: v.optional(v.string(), ''),
    values: v.pipe(v.array(figure('A breakpoint')), v.minLength(1), v.maxLength(256)),
  }),
  v.strictObject({
    name: text('What runs along it'),
    unit: v.optional(v.string(), ''),
    address: hexadecimal('Where its breakpoints begin'),
    length: count(256, 'How many breakpoints'),
    ...stored,
  }),
])
export type Axis = v.InferOutput<typeof Axis>

/** A table of an image: where it lies and how its cells are read. */
export const CalibrationTable = v.pipe(
  v.strictObject({
    id: text('A short name, used once'),
    name: text('As the calibrator calls it'),
    unit: v.optional(v.string(), ''),
    address: hexadecimal('Where its first cell lies'),
    ...stored,
    decimals: v.optional(v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(6)), 1),
    min: v.exactOptional(figure('Lowest figure that makes sense')),
    max: v.exactOptional(figure('Highest figure that makes sense')),
    /** Columns run along x; a single figure has neither axis. */
    x: v.exactOptional(Axis),
    /** Rows run along y; cells lie row after row. */
    y: v.exactOptional(Axis),
  }),
  v.check(({ x, y }) => !(y && !x), 'A table with rows names its columns too: give x'),
  v.check(
    ({ min, max }) => min === undefined || max === undefined || min <= max,
    'min lies above max: change one of them',
  ),
)
export type CalibrationTable = v.InferOutput<typeof CalibrationTable>

/** What a calibration may write: its tables, and what follows from them. */
export const WritableRegion = v.strictObject({
  use: v.pipe(
    v.picklist(['calibration', 'label', 'checksum']),
    v.description('label: version and date; checksum: computed over the rest'),
  ),
  address: hexadecimal('Where it begins'),
  length: hexadecimal('Its bytes'),
})
export type WritableRegion = v.InferOutput<typeof WritableRegion>

/** Tables of an image, and by what it is told that they are this image’s. */
export const TableDefinition = v.strictObject({
  format: v.literal('bench-wake/definition'),
  formatVersion: v.literal(1),
  name: text('As the calibrator calls it, with its version'),
  /** Bytes that an image of this layout holds. */
  signature: v.strictObject({
    address: hexadecimal('Where the bytes lie'),
    ascii: v.pipe(v.string(), v.minLength(2), v.maxLength(64), v.description('Text that stands there')),
  }),
  regions: v.pipe(v.array(WritableRegion), v.minLength(1), v.maxLength(64)),
  tables: v.pipe(v.array(CalibrationTable), v.minLength(1), v.maxLength(2000)),
})
export type TableDefinition = v.InferOutput<typeof TableDefinition>
/** As it lies in a file, before it was read. */
export type TableDefinitionDocument = v.InferInput<typeof TableDefinition>

/** Breakpoints along an axis. */
export const axisLength = (axis: Axis | undefined): number =>
  axis === undefined ? 1 : 'values' in axis ? axis.values.length : axis.length

/** Columns and rows of a table. */
export const tableShape = ({ x, y }: CalibrationTable): { columns: number; rows: number } => ({
  columns: axisLength(x),
  rows: axisLength(y),
})

/** Bytes that its cells take. */
export function tableBytes(table: CalibrationTable): number {
  const { columns, rows } = tableShape(table)
  return columns * rows * cellBytes[table.type]
}
