import { fixedText } from '../../kernel'
import type { Finding } from '../../kernel'
import { chargeLimit } from './charging'
import { chemistryFacts } from './chemistry'
import { freshSupply } from './fresh-supply'
import type { Stretch, SupplySetup } from './supply'

/**
 * Whether the charger that was put on may be on this source: primary cells are never charged, and the others neither with
 * more current nor at a temperature than they take. Null where no charger is on.
 */
export function judgeCharger(setup: SupplySetup, stretches: readonly Stretch[]): Finding | null {
  const { source, charger } = setup
  if (!charger || charger.amps <= 0) return null
  const rule = 'charger-fits'
  const { name } = chemistryFacts[source.chemistry]
  const limit = chargeLimit(setup, stretches)
  if (!limit) {
    return {
      rule,
      level: 'stop',
      says: `${name} ${source.chemistry === 'alkaline' ? 'are' : 'is'} never put on a charger.`,
      because:
        source.chemistry === 'alkaline'
          ? 'Primary cells leak or burst when they are charged.'
          : 'It has no cells that take a charge.',
      remedy: `Take the charger off. ${freshSupply(source.chemistry)}`,
      numbers: { chargerAmps: charger.amps },
    }
  }
  const [min, max] = limit.celsius
  const numbers = { chargerAmps: charger.amps, maxAmps: limit.amps, celsius: source.celsius }
  if (limit.tooCold || limit.tooHot) {
    return {
      rule,
      level: 'stop',
      says: `The battery is at ${source.celsius} °C: too ${limit.tooCold ? 'cold' : 'hot'} to be charged.`,
      because: `${name}: from ${min} to ${max} °C.`,
      remedy: limit.tooCold ? 'Warm it up first, or take another battery.' : 'Let it cool first.',
      numbers,
    }
  }
  if (charger.amps > limit.amps) {
    return {
      rule,
      level: 'stop',
      says: `A charger of ${charger.amps} A is more than this battery takes.`,
      because: `${name} of ${source.capacityAh} Ah takes ${fixedText(limit.ampsPerAh * source.capacityAh, 1)} A; with what is drawn all the time, ${fixedText(limit.amps, 1)} A.`,
      remedy: `Set the charger to ${Math.floor(limit.amps * 10) / 10} A or less, or take a smaller one.`,
      numbers,
    }
  }
  return {
    rule,
    level: 'go',
    says: `The battery takes a charger of ${charger.amps} A.`,
    because: `${name}: at most ${fixedText(limit.amps, 1)} A here, from ${min} to ${max} °C.`,
    numbers,
  }
}
