import { addressText, bytesText, type Finding } from '../../kernel'
import type { MemoryMap, Segment } from '../../image'
import { cellBytes, tableBytes, type CalibrationTable, type TableDefinition } from './table-definition'
import { tableValues, type TableValues } from './table-values'

/** A table that reads otherwise than before. */
export interface TableChange {
  table: CalibrationTable
  before: TableValues
  after: TableValues
  /** Cells that differ. */
  cells: number
  /** Largest steps down and up, in the table's unit; null where only its axes moved. */
  largest: { down: number; up: number } | null
}

/** What one revision changes against the one before. */
export interface RevisionChanges {
  /** Bytes that differ, those that only one image holds too. */
  bytes: number
  tables: TableChange[]
  /** Bytes of the calibration that differ and that no table names. */
  unnamedBytes: number
  findings: Finding[]
}

/**
 * What a revision changes: bytes, tables, and whether it stays where a calibration may write. A byte elsewhere is
 * another program under a calibration's name, and stops.
 */
export function compareRevisions(
  definition: TableDefinition,
  before: MemoryMap,
  after: MemoryMap,
): RevisionChanges {
  const named = namedRanges(definition)
  let [bytes, unnamedBytes, outsideBytes] = [0, 0, 0]
  let firstOutside: number | undefined
  eachDifference(before, after, (address) => {
    bytes++
    const region = definition.regions.find((each) => holds(each, address))
    if (!region) {
      outsideBytes++
      firstOutside = Math.min(firstOutside ?? Infinity, address)
    } else if (region.use === 'calibration' && !named.some((range) => holds(range, address))) unnamedBytes++
  })
  const tables = definition.tables.flatMap((table) => changeOf(table, before, after) ?? [])
  const findings: Finding[] = []
  if (bytes === 0)
    findings.push({
      rule: 'revision-same',
      level: 'hold',
      says: 'This revision holds the same bytes as the one before.',
      because: 'No byte differs.',
      remedy: 'Ask the calibrator whether the right file was sent.',
    })
  else if (firstOutside !== undefined)
    findings.push({
      rule: 'calibration-only',
      level: 'stop',
      says: 'This revision changes more than the calibration.',
      because: `${bytesText(outsideBytes)} differ outside of it, the first at ${addressText(firstOutside)}.`,
      remedy:
        'Ask the calibrator for a revision of the same program, or update the program first, as a job of its own.',
      numbers: { bytes: outsideBytes },
    })
  else
    findings.push({
      rule: 'calibration-only',
      level: 'go',
      says: 'Only the calibration differs from the revision before.',
      because: `${bytesText(bytes)} differ, in ${tables.length} ${tables.length === 1 ? 'table' : 'tables'}.`,
      numbers: { bytes },
    })
  if (unnamedBytes > 0)
    findings.push({
      rule: 'unnamed-change',
      level: 'note',
      says: `${bytesText(unnamedBytes)} of the calibration changed that no table names.`,
      because: 'The definition does not say what they are.',
      remedy: 'Ask the calibrator what they do.',
      numbers: { bytes: unnamedBytes },
    })
  return { bytes, tables, unnamedBytes, findings }
}

interface Range {
  address: number
  length: number
}
const holds = ({ address, length }: Range, at: number) => address <= at && at < address + length

/** Where the bytes of tables lie, and those of axes that are read from the image. */
function namedRanges({ tables }: TableDefinition): Range[] {
  return tables.flatMap((table) => [
    { address: table.address, length: tableBytes(table) },
    ...[table.x, table.y].flatMap((axis) =>
      axis && 'address' in axis
        ? [{ address: axis.address, length: axis.length * cellBytes[axis.type] }]
        : [],
    ),
  ])
}

function changeOf(table: CalibrationTable, first: MemoryMap, second: MemoryMap): TableChange | null {
  const before = tableValues(first, table)
  const after = tableValues(second, table)
  if (!before || !after) return null
  let [cells, down, up] = [0, 0, 0]
  before.cells.forEach((cell, index) => {
    const step = after.cells[index]! - cell
    if (step === 0) return
    cells++
    down = Math.min(down, step)
    up = Math.max(up, step)
  })
  const moved = !sameFigures(before.x, after.x) || !sameFigures(before.y, after.y)
  if (cells === 0 && !moved) return null
  return { table, before, after, cells, largest: cells === 0 ? null : { down, up } }
}

const sameFigures = (a: readonly number[], b: readonly number[]) =>
  a.every((value, index) => value === b[index])

/** Every address whose byte differs, or that only one of the two sets; each once, in no order. */
function eachDifference(before: MemoryMap, after: MemoryMap, visit: (address: number) => void): void {
  for (const segment of before)
    eachByte(segment, after, (address, mine, other) => {
      if (mine !== other) visit(address)
    })
  for (const segment of after)
    eachByte(segment, before, (address, _mine, other) => {
      if (other === undefined) visit(address)
    })
}

function eachByte(
  { address: start, bytes }: Segment,
  others: MemoryMap,
  visit: (address: number, mine: number, other: number | undefined) => void,
): void {
  let next = 0
  for (let index = 0; index < bytes.length; index++) {
    const address = start + index
    while (next < others.length && others[next]!.address + others[next]!.bytes.length <= address) next++
    const other = others[next]
    const there = other !== undefined && other.address <= address
    visit(address, bytes[index]!, there ? other.bytes[address - other.address] : undefined)
  }
}
