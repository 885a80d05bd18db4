import * as v from 'valibot'
import { addressText, Problem } from '../../kernel'
import { tableBytes, TableDefinition, type Axis } from './table-definition'

/** A fault in a definition: the path of the field, and what is wrong with it. */
export interface DefinitionFault {
  at: string
  says: string
}

/** Faults that are listed; a file of another kind has one in every line. */
const maxFaults = 40

/**
 * Checks a definition from parsed JSON: its shape by the schema, then what a schema cannot say (ids used twice,
 * written-down breakpoints that do not rise, tables outside what a calibration may write).
 */
export function checkDefinitionDocument(document: unknown): {
  definition: TableDefinition | null
  faults: DefinitionFault[]
} {
  const parsed = v.safeParse(TableDefinition, document)
  if (!parsed.success) {
    const faults = parsed.issues
      .slice(0, maxFaults)
      .map((issue) => ({ at: v.getDotPath(issue) ?? 'the document', says: issue.message }))
    return { definition: null, faults }
  }
  const definition = parsed.output
  const faults: DefinitionFault[] = []
  const seen = new Set<string>()
  definition.tables.forEach((table, index) => {
    const at = `tables.${index}`
    if (seen.has(table.id)) faults.push({ at: `${at}.id`, says: `"${table.id}" is the id of another table` })
    seen.add(table.id)
    for (const side of ['x', 'y'] as const) {
      const axis = table[side]
      if (axis && 'values' in axis && !rises(axis))
        faults.push({ at: `${at}.${side}.values`, says: 'the breakpoints do not rise: sort them' })
    }
    const end = table.address + tableBytes(table)
    const inside = definition.regions.some(
      ({ use, address, length }) =>
        use === 'calibration' && address <= table.address && end <= address + length,
    )
    if (!inside)
      faults.push({
        at: `${at}.address`,
        says: `${addressText(table.address)}–${addressText(end - 1)} lies in no region of use "calibration"`,
      })
  })
  return faults.length === 0
    ? { definition, faults }
    : { definition: null, faults: faults.slice(0, maxFaults) }
}

const rises = (axis: Extract<Axis, { values: number[] }>) =>
  axis.values.every((value, index) => index === 0 || value > axis.values[index - 1]!)

/** A definition from the text of its file. @throws Problem `definition`, with the path of the first fault. */
export function readDefinition(text: string): TableDefinition {
  let document: unknown
  try {
    document = JSON.parse(text)
  } catch {
    throw new Problem({
      kind: 'definition',
      says: 'this file is no JSON',
      remedy: 'Choose the definition file that came with the image, or import its tables as CSV.',
    })
  }
  return readDefinitionDocument(document)
}

/** A definition from parsed JSON. @throws Problem `definition`, with the path of the first fault. */
export function readDefinitionDocument(document: unknown): TableDefinition {
  const { definition, faults } = checkDefinitionDocument(document)
  if (definition) return definition
  const [first] = faults
  const more = faults.length > 1 ? ` and ${faults.length - 1} more` : ''
  throw new Problem({
    kind: 'definition',
    place: { at: first!.at },
    says: `${first!.says}${more}`,
    remedy: 'Mend the field, or ask the calibrator for the definition that belongs to this image.',
  })
}
