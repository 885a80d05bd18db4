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
