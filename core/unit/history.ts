import type { Snapshot } from './snapshot'

/** A version that a part had for a while. */
export interface VersionStretch {
  version: string
  /** ms since 1970; the end is where the next version was first known, or now. */
  from: number
  to: number
}

/** What is known of a unit over the years: versions by part, and when it kept fault codes. */
export interface UnitHistory {
  parts: { field: string; label: string; stretches: VersionStretch[] }[]
  faults: { at: number; text: string }[]
}

/** What a line of fault codes says where there are none. */
const noFaults = /^(none|no|0|ok|-)?$/i

/**
 * Versions and fault codes as the pages of a unit showed them, page after page as they were recorded. A version is taken to
 * have stood from the page that first showed it, or from the end of the write that lies before that page.
 * @param recorded pages in the order in which they were recorded, oldest first.
 * @param writes ends of writes, ms since 1970.
 * @param now where the last stretch ends.
 */
export function unitHistory(
  recorded: readonly Snapshot[],
  writes: readonly number[],
  now: number,
): UnitHistory {
  const parts = new Map<string, UnitHistory['parts'][number]>()
  const faults: UnitHistory['faults'] = []
  let before = -Infinity
  for (const { at, lines } of recorded) {
    for (const { field, label, value } of lines) {
      const text = value.trim()
      if (field === 'faults' && !noFaults.test(text)) faults.push({ at, text })
      if (!field.startsWith('version.') || text === '') continue
      const part = parts.get(field) ?? { field, label, stretches: [] }
      parts.set(field, part)
      const last = part.stretches.at(-1)
      if (last?.version === text) continue
      const written = Math.max(-Infinity, ...writes.filter((end) => end > before && end <= at))
      // A clock that was set back makes no stretch that ends before it begins.
      const from = Math.max(last?.from ?? -Infinity, Number.isFinite(written) ? written : at)
      if (last) last.to = from
      part.stretches.push({ version: text, from, to: Math.max(from, now) })
    }
    before = Math.max(before, at)
  }
  return { parts: [...parts.values()], faults }
}
