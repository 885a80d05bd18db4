import { isEqual } from '../link'
import { conditionOf, type UnitCondition } from './condition'
import { type RunState } from './fold'
import { orderStepPersonMs } from './plan'
import type { Step, StepKind } from './step'

/** What hands do from end to end begins anew: nothing of it goes on in the middle. */
const byHandOnly: ReadonlySet<UnitCondition> = new Set(['chip-out', 'taking-files'])
/** Behind an erase these have nothing left to keep or to compare. */
const ofTheOriginal: ReadonlySet<StepKind> = new Set(['settings', 'backup', 'compare', 'dry-run'])
/** Once the check was equal and the restart begun, this is what is left. */
const proving: ReadonlySet<StepKind> = new Set([
  'power-up',
  'connect',
  'identify',
  'restart',
  'prove',
  'look',
  'faults',
])

/**
 * PRACTICE H6, H7: the plan of a run's next leg, made from where the unit is and not from where the job began. Behind a
 * write that broke off the unit is not powered down for an order of power, settings that are erased are not asked for
 * again, and what is written and checked is not written once more because a laptop went dark at the power cycle.
 * @param plan of the whole write.
 * @param before the run as its last leg left it.
 */
export function legPlan(plan: readonly Step[], before: RunState): Step[] {
  const condition = conditionOf(before)
  // A chip in a socket is changed with the mains off: its order is gone through every time.
  if (byHandOnly.has(condition) || condition === 'as-it-was' || condition === 'proved') return [...plan]
  const steps = plan.map((step) =>
    step.kind === 'power-up'
      ? { ...step, says: 'Power as it stood for the leg before', personMs: orderStepPersonMs }
      : step,
  )
  if (condition === 'in-bootloader') return steps
  if (condition === 'new-firmware-not-proved' && isChecked(before))
    return steps.filter(({ kind }) => proving.has(kind))
  return steps.filter((step) => !ofTheOriginal.has(step.kind) && !isWritten(step, before))
}

/** Of several components one that was checked already is only checked again: its memory kept it. */
const isWritten = ({ kind, piece }: Step, { pieces }: RunState) =>
  piece !== undefined && pieces[piece] === 'checked' && (kind === 'erase' || kind === 'write')

/** The check was equal, and no proof failed since: only the power cycle and the page are wanting. */
function isChecked({ verified, steps, outcome }: RunState): boolean {
  if (outcome === 'failed') return false
  // A leg that was itself only to prove has no check of its own.
  return verified !== null ? isEqual(verified) : !steps.some(({ kind }) => kind === 'write')
}

/** Whether the order of power was gone through for an earlier leg, and is only asked after now. */
export const powerStood = (before: RunState | null): boolean =>
  before !== null && conditionOf(before) !== 'as-it-was' && !byHandOnly.has(conditionOf(before))
