import { scenarios } from '../../core/run/scenarios.test-support'
import { faultsOf, simulateRun, type FaultKind } from '../../core/run/simulate-run.test-support'
import { nextTurn } from '../../server/host-time'
import type { Bench, Figure } from './figure'

/** Simulated runs, each with one or two legs that go wrong. */
const count = 10_000

/** Whole runs over every link with seeded faults: nothing proved that is not so, nothing lost, everything brought home. */
export const simulatedRuns: Bench = {
  name: 'simulated-runs',
  async measure() {
    const wrong: string[] = []
    const by = new Map<FaultKind, { runs: number; legs: number }>()
    let proved = 0
    let legs = 0
    const began = performance.now()
    for (let seed = 1; seed <= count; seed++) {
      const scenario = scenarios[seed % scenarios.length]!
      const faults = faultsOf(seed)
      try {
        const simulated = await simulateRun(scenario, faults, seed, nextTurn)
        legs += simulated.legs
        if (simulated.proved) proved++
        else wrong.push(`${scenario.unitId}, seed ${seed}: ${faults.join(', ')} not brought home`)
        const tally = by.get(faults[0]!) ?? { runs: 0, legs: 0 }
        by.set(faults[0]!, { runs: tally.runs + 1, legs: tally.legs + simulated.legs })
      } catch (error) {
        wrong.push(error instanceof Error ? error.message : String(error))
      }
    }
    for (const line of wrong.slice(0, 20)) console.log(`  ${line}`)
    const figures: Figure[] = [
      {
        name: `${count} runs with faults: proved in the end, memory held against the image each time`,
        value: proved,
        unit: 'runs',
        reference: count,
        ratio: proved / count,
        wanted: 'all of them, none proved wrongly, no event lost',
        holds: wrong.length === 0 && proved === count,
      },
      { name: 'legs a run', value: legs / count, unit: 'legs' },
      { name: 'one run', value: (performance.now() - began) / count, unit: 'ms' },
    ]
    for (const [kind, tally] of by) {
      figures.push({
        name: `first fault ${kind}: ${tally.runs} runs`,
        value: tally.legs / tally.runs,
        unit: 'legs',
      })
    }
    return figures
  },
}
