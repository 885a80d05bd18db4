import { addressText, asciiText, type Finding } from '../../kernel'
import { bytesAt, holdsRange, type MemoryMap } from '../../image'
import type { Axis, CalibrationTable, TableDefinition } from './table-definition'
import { breakpoints, tableValues } from './table-values'

const wrongOne = 'Ask the calibrator for the definition that belongs to this image. Write nothing until then.'

/**
 * Whether a definition and an image belong together (PRACTICE B10): the signature, then every table by what it may
 * hold and whether its axes rise. The wrong definition shows nonsense and writes harm, so each of these stops.
 */
export function checkDefinition(definition: TableDefinition, memory: MemoryMap): Finding[] {
  const signature = signatureFinding(definition, memory)
  if (signature.level === 'stop') return [signature]
  const outside: string[] = []
  const falling: string[] = []
  const wild: string[] = []
  for (const table of definition.tables) {
    const values = tableValues(memory, table)
    if (!values) {
      outside.push(`${table.name} at ${addressText(table.address)}`)
      continue
    }
    if (!risesIn(memory, table.x) || !risesIn(memory, table.y)) falling.push(table.name)
    const bad = values.cells.findIndex((cell) => !makesSense(cell, table))
    if (bad >= 0)
      wild.push(
        `${table.name}, cell ${bad + 1}: ${values.cells[bad]!.toFixed(table.decimals)} ${table.unit}`.trim(),
      )
  }
  const findings: Finding[] = [signature]
  const stop = (rule: string, what: string, list: string[]) => {
    if (list.length > 0)
      findings.push({
        rule,
        level: 'stop',
        says: `${list.length} of ${definition.tables.length} tables ${what}.`,
        because: `${list.slice(0, 4).join('; ')}${list.length > 4 ? `; ${list.length - 4} more` : ''}.`,
        remedy: wrongOne,
        numbers: { tables: list.length },
      })
  }
  stop('table-outside', 'lie outside the image', outside)
  stop('axis-falls', 'have breakpoints that do not rise', falling)
  stop('table-implausible', 'hold figures that make no sense', wild)
  if (findings.length === 1)
    findings.push({
      rule: 'tables-plausible',
      level: 'go',
      says: `All ${definition.tables.length} tables read sensibly.`,
      because: 'Every table lies in the image, axes rise, figures lie within their limits.',
    })
  return findings
}

function signatureFinding(definition: TableDefinition, memory: MemoryMap): Finding {
  const { address, ascii } = definition.signature
  const where = addressText(address)
  const rule = 'definition-signature'
  if (!holdsRange(memory, address, ascii.length))
    return {
      rule,
      level: 'stop',
      says: `The image holds nothing at ${where}, where ${definition.name} expects its signature.`,
      because: `The signature "${ascii}" belongs at ${where}.`,
      remedy: wrongOne,
    }
  const found = asciiText(bytesAt(memory, address, ascii.length, 0xff))
  if (found === ascii)
    return {
      rule,
      level: 'go',
      says: `The image carries the signature of ${definition.name}.`,
      because: `"${ascii}" stands at ${where}.`,
    }
  return {
    rule,
    level: 'stop',
    says: `${definition.name} is not the definition of this image.`,
    because: `At ${where} stands "${found}", not "${ascii}".`,
    remedy: wrongOne,
  }
}

const risesIn = (memory: MemoryMap, axis: Axis | undefined): boolean => {
  const points = breakpoints(memory, axis)
  if (!points) return false
  let last = -Infinity
  for (const point of points) {
    if (!(point > last)) return false
    last = point
  }
  return true
}

const makesSense = (cell: number, { min = -Infinity, max = Infinity }: CalibrationTable) =>
  Number.isFinite(cell) && cell >= min && cell <= max
