import type { CareItem, Family } from '../family'
import type { RunState } from './fold'

/** One thing that is due behind the proof, with what was said of it. */
export interface Care extends CareItem {
  said: RunState['aftercare'][number] | null
}

/** What is due behind a proved run, in order, with what became of each (PRACTICE I2, I3, J1, J2). */
export function careOf(family: Pick<Family, 'aftercare' | 'backup'>, state: RunState): Care[] {
  return (family.aftercare ?? []).map((item) => ({
    ...item,
    said: state.aftercare.find(({ item: id }) => id === item.id) ?? null,
  }))
}

/** What still keeps the job from being closed: nothing said of it, or not well and without a word on why. */
export const careLeft = (care: readonly Care[]): Care[] =>
  care.filter(({ said }) => !said || (said.outcome === 'failed' && !said.note?.trim()))
