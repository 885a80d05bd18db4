import type { Family } from '../family'
import type { Stretch } from '../ready'
import type { Step } from './step'

/** What a run draws from the supply, step after step: the plan's times with the family's amps. */
export function stretchesOf(power: Family['power'], plan: readonly Step[]): Stretch[] {
  const { idle, erase, write } = power.amps
  return plan.map(({ kind, predictedMs, personMs }) => ({
    name: kind,
    ms: predictedMs + personMs,
    unitAmps: kind === 'erase' ? erase : kind === 'write' ? write : idle,
  }))
}
