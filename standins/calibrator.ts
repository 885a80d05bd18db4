import { applicationRegions, componentOf, type Family } from '@bench-wake/core/family'
import type { MemoryMap } from '@bench-wake/core/image'
import { asciiBytes, crc32 } from '@bench-wake/core/kernel'
import {
  cellOf,
  tableShape,
  tableValues,
  cellBytes,
  type Binned,
  type CalibrationTable,
} from '@bench-wake/core/rounds'

/** Share of an error that one answer takes away: careful calibrators do not take all at once. */
const gain = 0.55
/** Figures below which a cell is left alone. */
const fewest = 5

/**
 * A calibrator's answer: the table less what the logs showed to be too much, cell by cell. Cells that no log reached stay
 * as they are; a figure that does not fit its type stays too.
 * @param errors measured less wanted, in the table's unit, over the table's own edges.
 */
export function tuneTable(memory: MemoryMap, table: CalibrationTable, errors: Binned): MemoryMap {
  const values = tableValues(memory, table)
  const { columns, rows } = tableShape(table)
  if (!values || errors.count.length !== columns * rows) return memory
  const size = cellBytes[table.type]
  return memory.map(({ address, bytes }) => {
    const from = table.address - address
    if (from < 0 || from + columns * rows * size > bytes.length) return { address, bytes }
    const changed = Uint8Array.from(bytes)
    values.cells.forEach((figure, cell) => {
      if (errors.count[cell]! < fewest) return
      const { min = -Infinity, max = Infinity } = table
      const wanted = Math.min(max, Math.max(min, figure - gain * errors.mean[cell]!))
      const written = cellOf(wanted, table)
      if (written) changed.set(written, from + cell * size)
    })
    return { address, bytes: changed }
  })
}

/** An image with its version, date and checksum set anew, as a calibrator's program leaves it. */
export function relabel(
  family: Family,
  componentId: string,
  memory: MemoryMap,
  said: { version: string; buildTime: number },
): MemoryMap {
  const component = componentOf(family, componentId)
  const { identity } = component
  const start = applicationRegions(component)[0]!.address
  return memory.map(({ address, bytes }) => {
    if (!identity?.address || address !== start) return { address, bytes }
    const own = Uint8Array.from(bytes)
    const view = new DataView(own.buffer)
    for (const rule of identity.fields) {
      const at = identity.address + rule.offset - start
      if (rule.field === 'version' && rule.type === 'ascii') {
        own.fill(0, at, at + rule.length!)
        own.set(asciiBytes(said.version).subarray(0, rule.length), at)
      }
      if (rule.field === 'buildTime') view.setUint32(at, said.buildTime, rule.type.endsWith('le'))
    }
    if (identity.integrity) view.setUint32(own.length - 4, crc32(own.subarray(0, -4)), true)
    return { address, bytes: own }
  })
}

/** `4.1.1` is followed by `4.1.2`; a version that ends in no number by itself with `.1`. */
export const nextVersion = (version: string): string =>
  /\d+$/.test(version) ? version.replace(/\d+$/, (last) => String(Number(last) + 1)) : `${version}.1`
