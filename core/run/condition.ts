import { groupedNumber, inSentence, asSentence } from '../kernel'
import type { PastLeg, PieceState, RunState } from './fold'
import type { Step } from './step'
import { writes } from './task'
import type { BodyOf } from './wake'

/* What a unit is after a run that was cut, failed or abandoned, and how it is gone on from there. */

/** What a unit most likely is after a run was cut, failed or abandoned (PRACTICE H7). */
export type UnitCondition =
  | 'as-it-was'
  | 'in-bootloader'
  | 'half-written'
  | 'between-components'
  | 'chip-out'
  | 'taking-files'
  | 'written-not-verified'
  | 'new-firmware-not-proved'
  | 'proved'

/** What the unit most likely is now, and what to do next. For a run that is over. */
export function conditionOf(state: RunState): UnitCondition {
  const reached = (kind: Step['kind']) =>
    state.steps.find((step) => step.kind === kind)?.startedAt !== undefined
  if (state.outcome === 'proved') return 'proved'
  // A task that writes nothing leaves the unit as it was, at the worst in its bootloader.
  if (!writes(state.facts))
    return reached('enter') && !isDone(state, 'restart') && state.outcome !== 'done'
      ? 'in-bootloader'
      : state.left
  if (reached('restart')) return 'new-firmware-not-proved'
  if (reached('swap')) return 'chip-out'
  if (reached('media')) return 'taking-files'
  if (reached('write') || reached('erase') || reached('verify')) return conditionOfPieces(state.pieces)
  // Before its own erase a leg leaves what the legs before it left.
  if (state.left !== 'as-it-was' && state.left !== 'in-bootloader') return state.left
  return reached('enter') ? 'in-bootloader' : 'as-it-was'
}

/** True for a run that did all that was asked. */
export const cameToItsEnd = ({ outcome }: Pick<RunState, 'outcome'>): boolean =>
  outcome === 'proved' || outcome === 'done'

/** A leg after which another was opened did not come to its end, whatever its record says. */
export const endOfLeg = (outcome: RunState['outcome']): PastLeg['outcome'] =>
  outcome === 'failed' || outcome === 'abandoned' ? outcome : 'cut'

const isDone = ({ steps }: RunState, kind: Step['kind']) =>
  steps.some((step) => step.kind === kind && step.state === 'done')

/** Conditions in which what each component holds is worth more than what the next leg would begin with. */
export const midway: ReadonlySet<UnitCondition> = new Set([
  'half-written',
  'between-components',
  'written-not-verified',
])
function conditionOfPieces(pieces: readonly PieceState[]): UnitCondition {
  if (pieces.includes('part')) return 'half-written'
  return pieces.includes('untouched') ? 'between-components' : 'written-not-verified'
}

/** What a run is about, component by component; without an image where nothing is written. */
export function piecesOf({
  component,
  image,
  also = [],
}: Pick<BodyOf<'run.opened'>, 'component' | 'image' | 'also'>) {
  return [{ component, ...(image ? { image } : {}) }, ...also]
}

const imageOf = ({ facts }: RunState, { piece = 0 }: Step) => piecesOf(facts)[piece]?.image
/** Names the component of a step, where the run is about several. */
const ofPiece = ({ facts }: RunState, { piece }: Step) =>
  piece === undefined ? '' : ` (${inSentence(piecesOf(facts)[piece]!.component.name)})`

/** What stopped a run, in a sentence; in the write it says at which byte. Null for one that nothing stopped. */
export function troubleAt(state: RunState): string | null {
  const broken = state.steps.find((step) => step.state === 'broken')
  const where =
    broken?.kind === 'write' || broken?.kind === 'verify'
      ? `${ofPiece(state, broken)} at byte ${groupedNumber(state.acknowledged)} of ${groupedNumber(imageOf(state, broken)?.bytes ?? 0)}`
      : ''
  const says = state.problem?.says ?? 'it failed'
  if (state.outcome === 'cut') return `Cut${broken ? ` in ${broken.kind}` : ''}${where}.`
  if (state.outcome === 'failed') return `${asSentence(says)}${where}.`
  if (state.outcome === 'abandoned') {
    const condition = conditionOf(state)
    return condition === 'as-it-was' || condition === 'in-bootloader'
      ? 'Stopped before the first byte. Nothing was written.'
      : `Abandoned${where}.`
  }
  if (state.outcome === 'damaged') return 'Its stored record is damaged, so it proves nothing.'
  return null
}

/**
 * Byte of the image from which a next leg may go on: what the unit has acknowledged of a write that broke off. Null when
 * there is nothing to go on from. Whether the loader can is another question.
 */
export function goesOnFrom(state: RunState): number | null {
  if (state.outcome === 'running' || state.outcome === 'damaged' || cameToItsEnd(state)) return null
  const piece = piecesOf(state.facts)[goesOnWith(state)]
  const whole = piece?.image?.bytes ?? 0
  return conditionOf(state) === 'half-written' && state.acknowledged > 0 && state.acknowledged < whole
    ? state.acknowledged
    : null
}

/** Which component a next leg goes on with: the one of which a part is in the unit; the first where there is none. */
export const goesOnWith = ({ pieces }: Pick<RunState, 'pieces'>): number =>
  Math.max(0, pieces.indexOf('part'))

/** What a person is told about a unit in that condition (PRACTICE H7; NIST SP 800-193, 4.4 recovery, clause from memory). */
export const guidance: Record<UnitCondition, { says: string; next: string; keepPowered: boolean }> = {
  'as-it-was': {
    says: 'The unit still runs what it ran before. Nothing was written.',
    next: 'Mend what is named above, then start again.',
    keepPowered: false,
  },
  'in-bootloader': {
    says: 'The unit sits in its bootloader. Its old firmware is still there.',
    next: 'Start again from here, or switch it off and on: it starts as before.',
    keepPowered: false,
  },
  'half-written': {
    says: 'The unit holds a part of the image and cannot start it. Its bootloader is still there.',
    next: 'Do not power down. Check plug and supply, then start again: it is found in its bootloader and written again, from the byte it had reached where that is possible, else from the beginning.',
    keepPowered: true,
  },
  'between-components': {
    says: 'Some of its components hold the new firmware, the others still the old. Its bootloader waits.',
    next: 'Do not power down. Start again from here: what is written is checked again, the rest is written.',
    keepPowered: true,
  },
  'chip-out': {
    says: 'The chip may be out of its socket, or the new one in it unproved. The old chip is kept.',
    next: 'Leave the mains off. Put the old chip back, pin 1 at the dot, or go on with the new one from the first step.',
    keepPowered: false,
  },
  'taking-files': {
    says: 'The unit may be in the middle of taking its files, or done and not proved.',
    next: 'Do not power down. Leave the card in until its screen rests, then start again: with the same card it searches once more.',
    keepPowered: true,
  },
  'written-not-verified': {
    says: 'The image is written, but its checksum was not confirmed.',
    next: 'Do not power down. Start again from here: it is found in its bootloader and written again.',
    keepPowered: true,
  },
  'new-firmware-not-proved': {
    says: 'The new firmware was started, but it was not proved.',
    next: 'Start again: the unit is read first, and you see what it says of itself.',
    keepPowered: false,
  },
  proved: { says: 'The unit says the new version itself.', next: 'Close the job.', keepPowered: false },
}
