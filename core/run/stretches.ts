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

/** The same for a family whose steps this program does not plan yet: a write of that length, with the unit idle around it. */
export function stretchesOfWrite(power: Family['power'], writeMs: number): Stretch[] {
  const { idle, write } = power.amps
  return [
    { name: 'enter', ms: 60_000, unitAmps: idle },
    { name: 'write', ms: writeMs, unitAmps: write },
    { name: 'prove', ms: 60_000, unitAmps: idle },
  ]
}
