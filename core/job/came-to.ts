import { checkText, faultText, isEqual } from '../link'
import { conditionOf, type RunState } from '../run'

/** What a job came to, for whoever uses the unit next. */
export const endings = [
  'fit-for-use',
  'looked',
  'written-not-fit',
  'written-not-proved',
  'half-written',
  'not-done',
  'nothing-to-do',
] as const
/** What a run came to. */
export type CameTo = (typeof endings)[number]

/**
 * What a job came to (PRACTICE I3, J4). A proof says what is in the unit; whether it may be used is what was said after it:
 * one thing that is not well, and it is not fit for use, whatever version it shows.
 * @param last newest run of the job; null where none was started.
 * @param needed false where the answer was that nothing is to be done.
 */
export function cameTo(last: RunState | null, needed = true): CameTo {
  if (!last) return needed ? 'not-done' : 'nothing-to-do'
  if (last.outcome === 'done') return 'looked'
  switch (conditionOf(last)) {
    case 'proved':
      return notWell(last).length > 0 ? 'written-not-fit' : 'fit-for-use'
    case 'as-it-was':
    case 'in-bootloader':
      return 'not-done'
    case 'half-written':
    case 'between-components':
    case 'chip-out':
    case 'taking-files':
      return 'half-written'
    case 'written-not-verified':
    case 'new-firmware-not-proved':
      return 'written-not-proved'
  }
}

/** What was said after the proof to be not well. */
export const notWell = ({ aftercare }: Pick<RunState, 'aftercare'>): RunState['aftercare'] =>
  aftercare.filter(({ outcome }) => outcome === 'failed')

/** What stands in the record and on the screen. */
export const endingText: Record<CameTo, string> = {
  'fit-for-use': 'Proved and fit for use',
  looked: 'Done, nothing was written',
  'written-not-fit': 'Written, not fit for use',
  'written-not-proved': 'Written, not proved',
  'half-written': 'Half written, out of use',
  'not-done': 'Not done',
  'nothing-to-do': 'Nothing to do',
}

/** What a task that writes nothing found out, in a sentence; null for a run that has not come to that. */
export function foundOut(run: RunState): string | null {
  if (run.outcome !== 'done') return null
  if (run.facts.task === 'read-out') {
    const blank = run.backups.flatMap(({ findings }) =>
      findings.filter(({ rule }) => rule === 'backup-blank'),
    )
    const kept = run.backups.filter(({ findings }) => findings.every(({ rule }) => rule !== 'backup-blank'))
    const says = blank.map((finding) => finding.says)
    if (kept.length > 0) says.push(`Read out and kept: ${kept.map(({ name }) => name).join('; ')}.`)
    return says.length > 0 ? says.join(' ') : 'Nothing was read out.'
  }
  if (run.facts.task === 'check') {
    const check = run.heldAgainst
    if (!check) return 'Nothing was compared.'
    const name = run.facts.image?.name ?? 'the image'
    return isEqual(check)
      ? `It holds ${name}: ${checkText(check)}.`
      : `It does not hold ${name}: ${checkText(check)}.`
  }
  const none = faultText([])
  const { before, after, kept } = run.faults ?? { before: none, after: none }
  if (before === none) return 'It keeps no fault code.'
  const read = `Fault codes: ${before}.`
  if (kept) return `${read} They were left in the unit.`
  return after === none ? `${read} Cleared; none came back.` : `${read} Cleared; ${after} came back.`
}
