import type { SnapshotLineRule } from '../family'
import type { Snapshot, SnapshotSource } from './snapshot'
import { isLasting } from './unit'

/** A line as it was read last: its value, where, and when (ms since 1970 UTC). */
export interface LastSaid {
  value: string
  source: SnapshotSource
  at: number
  /** True for what a label or a chip shows: it does not change with the firmware, and is read once. */
  lasts: boolean
}

/**
 * The form of a line as a grey hint: its example. Of a serial only the form is shown, for the example may be another unit's.
 */
export const hintOf = ({ field, example = '' }: Pick<SnapshotLineRule, 'field' | 'example'>): string =>
  field === 'serial' ? example.replace(/\d/g, '0') : example

/**
 * Of each line of a unit what was read last, for whoever reads its page again: nobody types a label twice (PRACTICE A1).
 * @param recorded in the order in which they were recorded, oldest first.
 */
export function lastSaid(recorded: readonly Snapshot[]): Map<string, LastSaid> {
  const said = new Map<string, LastSaid>()
  for (const page of recorded)
    for (const { field, value, source = page.source } of page.lines) {
      if (value.trim() === '') continue
      said.set(field, { value, source, at: page.at, lasts: isLasting(source) })
    }
  return said
}
