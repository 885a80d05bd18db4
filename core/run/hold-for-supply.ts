import { fixedText, Problem } from '../kernel'
import type { StepContext } from './step-context'
import { voltsAtLastByte } from './supply-trend'

/** Fewer readings tell no way: the step when the load came on is still among them. */
const minReadings = 8

/** What a run asks of its supply before it changes anything. */
export interface SupplySight {
  /** Reads it now; null when nobody measures, or the meter does not answer. */
  measure(): Promise<number | null>
  readings(): readonly { at: number; volts: number }[]
}

/**
 * PRACTICE D: before erase and write the supply is measured once more; below the floor, or on its way there by the last
 * byte, the run waits for the person and changes nothing. After the first byte it can only warn.
 * Where no meter answers, the person measures once more, right before the first change of a leg.
 * @param byHand what was asked of the person in this leg already.
 * @throws Problem `supply-low` when the person stops there.
 */
export async function holdForSupply(
  bench: StepContext,
  supply: SupplySight,
  byHand: { asked: boolean },
): Promise<void> {
  const { family, ask, clock, step, planned } = bench
  const floor = family.power.floorVolts
  for (let time = 1; ; time++) {
    const volts = await supply.measure()
    if (volts === null) return measureByHand(bench, byHand)
    const readings = supply.readings()
    const due =
      time === 1 && readings.length >= minReadings
        ? voltsAtLastByte(readings, clock.now() + planned(step))
        : null
    const low = volts < floor ? volts : due !== null && due < floor ? due : null
    if (low === null) return
    const at = volts < floor ? 'reads' : 'is on its way to'
    const says = `The supply ${at} ${fixedText(low, 2)} V; the floor is ${fixedText(floor, 2)} V.`
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
      expected: `at least ${fixedText(floor, 2)} V`,
      found: `${fixedText(low, 2)} V`,
      remedy: 'Leave the unit powered, bring the supply up, then go on with this run.',
    })
  }
}

/** Volts that were typed an hour ago say nothing of now (PRACTICE D1); whoever released the measurement by name is not asked. */
async function measureByHand(
  { family, ask, releases }: StepContext,
  byHand: { asked: boolean },
): Promise<void> {
  if (byHand.asked || releases.some(({ rule }) => measuring.has(rule))) return
  byHand.asked = true
  const { floorVolts: floor, ceilingVolts: ceiling } = family.power
  const answer = await ask({
    id: 'supply-by-hand',
    says: `Nothing measures the supply. Measure it now ${family.power.measure?.at ?? 'at the unit’s terminals'}: it has to read ${fixedText(floor, 2)} V or more, and not above ${fixedText(ceiling, 2)} V.`,
    answers: [
      { id: 'holds', says: `It reads ${fixedText(floor, 2)} V or more` },
      { id: 'stop', says: 'It does not: stop here' },
    ],
  })
  if (answer !== 'stop') return
  throw new Problem({
    kind: 'supply-low',
    says: 'the supply does not read what the unit needs',
    expected: `from ${fixedText(floor, 2)} to ${fixedText(ceiling, 2)} V`,
    remedy: 'Leave the unit powered, bring the supply up, then go on with this run.',
  })
}

/** Rules of the bench that say that nobody has measured. */
const measuring: ReadonlySet<string> = new Set(['supply-measured', 'supply-described'])
