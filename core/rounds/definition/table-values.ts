import { bytesAt, holdsRange, type MemoryMap } from '../../image'
import { cellBytes, tableShape, type Axis, type CalibrationTable, type CellType } from './table-definition'

/** A table as figures. */
export interface TableValues {
  /** Breakpoints of the columns, in the axis's unit; one column without an axis reads `[0]`. */
  x: number[]
  y: number[]
  /** Row after row, in the table's unit. */
  cells: Float64Array
}

interface Stored {
  address: number
  type: CellType
  order: 'little' | 'big'
  scale: number
  offset: number
}

/** The figures of a table in an image; null where the image does not hold all of its bytes, or those of an axis. */
export function tableValues(memory: MemoryMap, table: CalibrationTable): TableValues | null {
  const { columns, rows } = tableShape(table)
  const cells = figuresAt(memory, table, columns * rows)
  const x = breakpoints(memory, table.x)
  const y = breakpoints(memory, table.y)
  return cells && x && y ? { x: [...x], y: [...y], cells } : null
}

/** Breakpoints of an axis: written down, or from the image; null where its bytes are not in the image. */
export function breakpoints(
  memory: MemoryMap,
  axis: Axis | undefined,
): (ArrayLike<number> & Iterable<number>) | null {
  if (!axis) return [0]
  return 'values' in axis ? axis.values : figuresAt(memory, axis, axis.length)
}

/** `count` figures from an address on: raw × scale + offset, in IEEE 754 or two's complement. */
function figuresAt(memory: MemoryMap, stored: Stored, count: number): Float64Array | null {
  const size = cellBytes[stored.type]
  if (!holdsRange(memory, stored.address, count * size)) return null
  const bytes = bytesAt(memory, stored.address, count * size, 0xff)
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const figures = new Float64Array(count)
  for (let index = 0; index < count; index++)
    figures[index] = rawAt(view, index * size, stored) * stored.scale + stored.offset
  return figures
}

/** The figure that stands at a place of some bytes; NaN where they end before it does. */
export function figureIn(bytes: Uint8Array, at: number, stored: Omit<Stored, 'address'>): number {
  if (at + cellBytes[stored.type] > bytes.length) return NaN
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  return rawAt(view, at, stored) * stored.scale + stored.offset
}

/**
 * The bytes of one figure, for whoever writes a table.
 * @returns null where the figure does not fit its type.
 */
export function cellOf(figure: number, stored: Omit<Stored, 'address'>): Uint8Array | null {
  const raw = (figure - stored.offset) / stored.scale
  const bytes = new Uint8Array(cellBytes[stored.type])
  const view = new DataView(bytes.buffer)
  const little = stored.order === 'little'
  if (stored.type === 'f32') {
    view.setFloat32(0, raw, little)
    return Number.isFinite(view.getFloat32(0, little)) ? bytes : null
  }
  const whole = Math.round(raw)
  switch (stored.type) {
    case 'u8':
      view.setUint8(0, whole)
      break
    case 'i8':
      view.setInt8(0, whole)
      break
    case 'u16':
      view.setUint16(0, whole, little)
      break
    case 'i16':
      view.setInt16(0, whole, little)
      break
    case 'u32':
      view.setUint32(0, whole, little)
      break
    case 'i32':
      view.setInt32(0, whole, little)
      break
  }
  return rawAt(view, 0, stored) === whole ? bytes : null
}

function rawAt(view: DataView, at: number, { type, order }: Pick<Stored, 'type' | 'order'>): number {
  const little = order === 'little'
  switch (type) {
    case 'u8':
      return view.getUint8(at)
    case 'i8':
      return view.getInt8(at)
    case 'u16':
      return view.getUint16(at, little)
    case 'i16':
      return view.getInt16(at, little)
    case 'u32':
      return view.getUint32(at, little)
    case 'i32':
      return view.getInt32(at, little)
    case 'f32':
      return view.getFloat32(at, little)
  }
}
