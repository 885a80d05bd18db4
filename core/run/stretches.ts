import type { Family } from '../family'
import type { Stretch } from '../ready'
import type { TimedStep } from './learned'
import type { Step } from './step'

/** What a run draws from the supply, step after step: the plan's times, as they were learned, with the family's amps. */
export function stretchesOf(power: Family['power'], plan: readonly (Step | TimedStep)[]): Stretch[] {
  const { idle, erase, write } = power.amps
  return plan.map((step) => ({
    name: step.kind,
    ms: 'likelyMs' in step ? step.likelyMs : step.predictedMs + step.personMs,
    unitAmps: step.kind === 'erase' ? erase : step.kind === 'write' ? write : idle,
  }))
}
