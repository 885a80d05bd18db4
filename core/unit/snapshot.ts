import { readTemplate, type Family, type ReadingPlace } from '../family'

/** Where a line was read. A label and a chip's marking are older than what the unit says of itself. */
export type SnapshotSource = ReadingPlace

/** A line of a unit’s page: the field and what it said. */
export interface SnapshotLine {
  /** `deviceIdentifier`, `hardware`, `serial`, `version.main`, … as the family's profile names it. */
  field: string
  label: string
  value: string
  /** Where this line was read, when not where the rest of the page was. */
  source?: SnapshotSource
}

/** Everything a unit said of itself at one moment (PRACTICE A1: all lines are kept). */
export interface Snapshot {
  /** Milliseconds since 1970 UTC. */
  at: number
  source: SnapshotSource
  lines: SnapshotLine[]
  /** True where the bootloader answered: it says less than the firmware, and no version. */
  inBootloader?: true
}

/**
 * Sorts the lines a unit said, or a page that a person pasted, into a snapshot by the family's own table: by the
 * line's form, else by its label ("Main firmware: 2.41", "Main firmware .... 2.41"). Lines that the family does
 * not know are kept too, under `other.<n>`, because what a unit says is never thrown away.
 */
export function readSnapshot(
  family: Family,
  said: readonly string[],
  at: number,
  source: SnapshotSource,
): Snapshot {
  const lines: SnapshotLine[] = []
  said
    .map((line) => line.trim())
    .filter(Boolean)
    .forEach((line, index) => {
      const known = family.snapshot.find(
        ({ field }) =>
          !lines.some((each) => each.field === field) && valueIn(family, field, line) !== undefined,
      )
      const value = known && valueIn(family, known.field, line)
      if (known && value !== undefined) lines.push({ field: known.field, label: known.label, value })
      else lines.push({ field: `other.${index}`, label: 'Other line', value: line })
    })
  const order = new Map(family.snapshot.map((rule, index) => [rule.field, index]))
  lines.sort((a, b) => (order.get(a.field) ?? 1e6) - (order.get(b.field) ?? 1e6))
  return { at, source, lines }
}

/** A page of text as it was copied from a menu, a terminal or a service program. */
export function readPage(family: Family, text: string, at: number, source: SnapshotSource): Snapshot {
  return readSnapshot(family, text.split(/\r\n|\r|\n/), at, source)
}

function valueIn(family: Family, field: string, line: string): string | undefined {
  const rule = family.snapshot.find((each) => each.field === field)!
  const formed = rule.reads && readTemplate(rule.reads, line)?.['value']
  if (formed) return formed
  if (!line.toLowerCase().startsWith(rule.label.toLowerCase())) return undefined
  // Behind the label a colon, an equals sign, a row of dots, a tab or two spaces; "Main firmware date" is another line.
  const rest = line.slice(rule.label.length)
  const separator = /^(?:\s*[:=]\s*|\s*\.{2,}\s*|\t\s*|\s{2,})/.exec(rest)
  const value = separator && rest.slice(separator[0].length).trim()
  return value || undefined
}

/** The value of a line, or undefined when the unit did not show it. */
export function lineOf(snapshot: Snapshot | undefined, field: string): string | undefined {
  return snapshot?.lines.find((line) => line.field === field)?.value
}
