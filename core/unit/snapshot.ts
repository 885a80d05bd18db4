import { readTemplate, type Family } from '../family'

/** Where a line was read. A line on a label is older than one the unit says of itself. */
export type SnapshotSource = 'link' | 'menu' | 'boot-screen' | 'label' | 'app'

export interface SnapshotLine {
  /** `deviceIdentifier`, `hardware`, `serial`, `version.main`, … as the family's profile names it. */
  field: string
  label: string
  value: string
}

/** Everything a unit said of itself at one moment (PRACTICE A1: all lines are kept). */
export interface Snapshot {
  /** Milliseconds since 1970 UTC. */
  at: number
  source: SnapshotSource
  lines: SnapshotLine[]
}

/**
 * Sorts the lines a unit said into a snapshot by the family's own table. Lines that the family does not know
 * are kept too, under `other.<n>`, because what a unit says is never thrown away.
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
      for (const rule of family.snapshot) {
        const value = rule.reads ? readTemplate(rule.reads, line)?.['value'] : undefined
        if (value !== undefined) {
          lines.push({ field: rule.field, label: rule.label, value })
          return
        }
      }
      lines.push({ field: `other.${index}`, label: 'Other line', value: line })
    })
  const order = new Map(family.snapshot.map((rule, index) => [rule.field, index]))
  lines.sort((a, b) => (order.get(a.field) ?? 1e6) - (order.get(b.field) ?? 1e6))
  return { at, source, lines }
}

/** The value of a line, or undefined when the unit did not show it. */
export function lineOf(snapshot: Snapshot | undefined, field: string): string | undefined {
  return snapshot?.lines.find((line) => line.field === field)?.value
}
