import { Problem } from '../kernel'
import type { Bench } from './bench'
import { voltsAtLastByte } from './supply-trend'

/** Fewer readings tell no way: the step when the load came on is still among them. */
const leastReadings = 8

/** What a run asks of its supply before it changes anything. */
export interface SupplySight {
  /** Reads it now; null when nobody measures, or the meter does not answer. */
  measure(): Promise<number | null>
  readings(): readonly { at: number; volts: number }[]
}

/**
 * PRACTICE D: before erase and write the supply is measured once more; below the floor, or on its way there by the last
 * byte, the run waits for the person and changes nothing. Behind the first byte it can only warn.
 * @throws Problem `supply-low` when the person stops there.
 */
export async function holdForSupply(bench: Bench, supply: SupplySight): Promise<void> {
  const { family, ask, clock, step, planned } = bench
  const floor = family.power.floorVolts
  for (let time = 1; ; time++) {
    const volts = await supply.measure()
    if (volts === null) return
    const readings = supply.readings()
    const due =
      time === 1 && readings.length >= leastReadings
        ? voltsAtLastByte(readings, clock.now() + planned(step))
        : null
    const low = volts < floor ? volts : due !== null && due < floor ? due : null
    if (low === null) return
    const at = volts < floor ? 'reads' : 'is on its way to'
    const says = `The supply ${at} ${low.toFixed(2)} V; the floor is ${floor.toFixed(2)} V.`
    const answer = await ask({
      id: 'supply-low',
      says: `${says} Nothing of this step is done yet. Put a charger on it, or take loads off, then measure again.`,
      answers: [
        { id: 'again', says: 'Measure again' },
        { id: 'stop', says: 'Stop here' },
      ],
    })
    if (answer === 'again') continue
    throw new Problem({
      kind: 'supply-low',
      says: says.replace(/\.$/, '').replace(/^The/, 'the'),
      expected: `at least ${floor.toFixed(2)} V`,
      found: `${low.toFixed(2)} V`,
      remedy: 'Leave the unit powered, bring the supply up, then go on with this run.',
    })
  }
}
