import type { Family } from '../family'
import { inSentence, type Finding } from '../kernel'
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

/** What was written: lines of other parts, and those of the same version written again, have no reason to change. */
export interface Written extends Pick<ProofQuestion, 'componentId' | 'wanted'> {
  /** What the image was built with: the unit has to say the same after it, whatever it said before (PRACTICE B9). */
  options?: string | undefined
}

/**
 * PRACTICE A1, I1: the same page before and after. Some lines must have changed, others must not.
 * A line that was not readable before (the unit sat in its bootloader) cannot be judged and is shown as not known.
 * @param written what the second page is the proof of, component by component; null where nothing was written, and nothing that an update changes
 *   may have changed; two pages by themselves are compared by the profile alone.
 */
export function compareSnapshots(
  family: Pick<Family, 'snapshot'>,
  before: Snapshot | null,
  after: Snapshot,
  written?: readonly Written[] | null,
): Compared[] {
  /** Parts that hold another version now, by what was asked for. */
  const renewed = (written ?? []).filter(
    ({ componentId, wanted }) =>
      wanted === undefined || before === null || lineOf(before, `version.${componentId}`) !== wanted,
  )
  return family.snapshot.flatMap(({ field, label, change: usual }) => {
    const change =
      usual === 'must' && written === null
        ? 'must-not'
        : usual === 'must' && written && !renewed.some(({ componentId }) => isAbout(field, componentId))
          ? 'may'
          : usual
    const was = before ? lineOf(before, field) : undefined
    const is = lineOf(after, field)
    if (was === undefined && is === undefined) return []
    const row: Compared = { field, label, change, ok: null }
    if (was !== undefined) row.before = was
    if (is !== undefined) row.after = is
    const options = written?.find(({ componentId }) => field === `options.${componentId}`)?.options
    if (is !== undefined && options !== undefined) row.ok = is === options
    else if (change === 'may') row.ok = true
    else if (was !== undefined && is !== undefined) row.ok = (was !== is) === (change === 'must')
    // What must not change and is not said any more has changed; a label beside a menu page simply shows other lines.
    else if (is === undefined && change === 'must-not' && before?.source === after.source) row.ok = false
    return [row]
  })
}

/** What a proof is about: one component. */
export interface ProofQuestion {
  componentId: string
  /** Its name, where others were written with it. */
  name?: string
  /** The image's version; without one only the comparison is left. */
  wanted: string | undefined
  after: Snapshot
}

/**
 * The proof: the unit itself says the wanted version, what had to change has changed, and nothing else has.
 * A line that had to change and did not (an unchanged build time) holds the closing until a named person says why; one
 * that must not and did stops it.
 */
export function judgeProof(
  rows: readonly Compared[],
  asked: ProofQuestion | readonly ProofQuestion[],
): Finding[] {
  const each = 'componentId' in asked ? [asked] : asked
  return [...each.map(judgeVersion), ...judgeLines(rows)]
}

/** What a page says after a task that wrote nothing: the same as before. */
export function judgeUnchanged(rows: readonly Compared[]): Finding[] {
  const against = judgeLines(rows)
  if (against.length > 0) return against
  const compared = rows.filter(({ ok, change }) => ok === true && change === 'must-not').length
  return [
    compared > 0
      ? {
          rule: 'unchanged-lines',
          level: 'go',
          says: 'The unit says what it said before.',
          because: `${compared} lines that may not change are the same.`,
        }
      : {
          rule: 'unchanged-lines',
          level: 'note',
          says: 'Nothing could be compared with the page before.',
          because: 'Neither page says a line that the other says too.',
          remedy: 'Look at the unit itself: does it do what it did before?',
        },
  ]
}

function judgeVersion({ componentId, name, wanted, after }: ProofQuestion): Finding {
  const rule = 'version-proved'
  const found = lineOf(after, `version.${componentId}`)
  const sentence = (says: string) => (name === undefined ? says : `${name}: ${inSentence(says)}`)
  if (wanted === undefined) {
    return {
      rule,
      level: 'hold',
      says: sentence('The image has no version to compare with.'),
      because: `The unit now says ${found ?? 'nothing'}.`,
      remedy: 'Compare by hand, and say with the closing word what you saw.',
    }
  }
  return found === wanted
    ? {
        rule,
        level: 'go',
        says: sentence(`The unit says ${wanted} itself, after the power cycle.`),
        because: 'Read from the unit, not from the image.',
      }
    : {
        rule,
        level: 'stop',
        says: sentence(`The unit says ${found ?? 'no version'}; it should say ${wanted}.`),
        because: 'Read from the unit after the power cycle.',
        remedy: 'Do not hand it back. Read it again; if it stays so, write again.',
      }
}

function judgeLines(rows: readonly Compared[]): Finding[] {
  const findings: Finding[] = []
  for (const { label, before, after, change, ok } of rows) {
    if (ok !== false) continue
    if (change === 'must-not') {
      findings.push({
        rule: 'unchanged-lines',
        level: 'stop',
        says: `${label} changed and should not have.`,
        because: `Before ${before ?? 'nothing'}, now ${after ?? 'nothing'}.`,
        remedy: 'Find out why before the unit goes back; keep both pages with the record.',
      })
    } else if (change === 'must') {
      findings.push({
        rule: 'changed-lines',
        level: 'hold',
        says: `${label} should have changed and did not.`,
        because: `Before and now ${after ?? 'nothing'}.`,
        remedy: 'Read the unit again. If it stays so, say with the closing word why it may.',
      })
    }
  }
  return findings
}

/** A line of another component says nothing about this one; a line without a component is about the whole unit. */
const isAbout = (field: string, componentId: string) => {
  const dot = field.indexOf('.')
  return dot === -1 || field.slice(dot + 1) === componentId
}

/** What of a proof still wants a named person's word before the job is closed. */
export const proofHolds = (findings: readonly Finding[]): Finding[] =>
  findings.filter(({ level }) => level === 'hold')
