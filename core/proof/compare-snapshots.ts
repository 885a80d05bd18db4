import type { Family } from '../family'
import type { Finding } from '../kernel'
import { lineOf, type Snapshot } from '../unit'

/** One line of a unit's page, before and after. */
export interface Compared {
  field: string
  label: string
  before?: string
  after?: string
  /** What an update should do to the line. */
  change: 'must' | 'must-not' | 'may'
  /** True when it did what it should; null when that cannot be told. */
  ok: boolean | null
}

/**
 * PRACTICE A1, I1: the same page before and after. Some lines must have changed, others must not.
 * A line that was not readable before (the unit sat in its bootloader) cannot be judged and is shown as not known.
 */
export function compareSnapshots(
  family: Pick<Family, 'snapshot'>,
  before: Snapshot | null,
  after: Snapshot,
): Compared[] {
  return family.snapshot.flatMap(({ field, label, change }) => {
    const was = before ? lineOf(before, field) : undefined
    const is = lineOf(after, field)
    if (was === undefined && is === undefined) return []
    const row: Compared = { field, label, change, ok: null }
    if (was !== undefined) row.before = was
    if (is !== undefined) row.after = is
    if (change === 'may') row.ok = true
    else if (was !== undefined && is !== undefined) row.ok = (was !== is) === (change === 'must')
    // What must not change and is not said any more has changed; a label beside a menu page simply shows other lines.
    else if (is === undefined && change === 'must-not' && before?.source === after.source) row.ok = false
    return [row]
  })
}

/**
 * The proof: the unit itself says the wanted version, and nothing else changed.
 * @param wanted the image's version; without one only the comparison is left.
 */
export function judgeProof(
  rows: readonly Compared[],
  componentId: string,
  wanted: string | undefined,
  after: Snapshot,
): Finding[] {
  const found = lineOf(after, `version.${componentId}`)
  const findings: Finding[] = []
  if (wanted === undefined) {
    findings.push({
      rule: 'version-proved',
      level: 'hold',
      says: 'The image has no version to compare with.',
      because: `The unit now says ${found ?? 'nothing'}.`,
      remedy: 'Compare by hand and say so in the record.',
    })
  } else {
    findings.push(
      found === wanted
        ? {
            rule: 'version-proved',
            level: 'go',
            says: `The unit says ${wanted} itself, after the power cycle.`,
            because: 'Read from the unit, not from the image.',
          }
        : {
            rule: 'version-proved',
            level: 'stop',
            says: `The unit says ${found ?? 'no version'}; it should say ${wanted}.`,
            because: 'Read from the unit after the power cycle.',
            remedy: 'Do not hand it back. Read it again; if it stays so, write again.',
          },
    )
  }
  for (const row of rows) {
    if (row.change === 'must-not' && row.ok === false) {
      findings.push({
        rule: 'unchanged-lines',
        level: 'stop',
        says: `${row.label} changed and should not have.`,
        because: `Before ${row.before ?? 'nothing'}, now ${row.after ?? 'nothing'}.`,
        remedy: 'Find out why before the unit goes back; keep both pages with the record.',
      })
    }
  }
  return findings
}
