import { durationText, fixedText, type Finding } from '../../kernel'
import { ampereHours } from './ampere-hours'
import { chemistryFacts, coldShare } from './chemistry'
import { freshSupply } from './fresh-supply'
import { supplyCourse, type Stretch, type SupplySetup } from './supply'

/** More than this share of what is in the battery is too much for one run (common practice). */
const wantedShare = 0.8

/**
 * What a run takes out of a battery against what is in it, by Peukert and the cold; null for a source without charge, or
 * where the charger carries all of it.
 */
export function judgeChargeUsed(setup: SupplySetup, stretches: readonly Stretch[]): Finding | null {
  const { source } = setup
  const facts = chemistryFacts[source.chemistry]
  if (!facts.restVolts) return null
  const { points } = supplyCourse(setup, stretches)
  const first = points[0]!
  const hours = stretches.reduce((sum, { ms }) => sum + ms, 0) / 3_600_000
  // Amp-hours out of the battery over the run, each stretch by its mean current.
  let takenAh = 0
  for (let at = 1; at < points.length; at++) {
    const [from, to] = [points[at - 1]!, points[at]!]
    takenAh += (Math.max(0, from.batteryAmps) * (to.at - from.at)) / 3_600_000
  }
  if (takenAh <= 0 || hours <= 0) return null
  const { usableAh } = ampereHours({
    capacityAh: source.capacityAh * coldShare(source.chemistry, source.celsius),
    charge: first.charge,
    amps: takenAh / hours,
    ratedHours: facts.ratedHours,
    peukert: facts.peukert,
  })
  const share = usableAh > 0 ? takenAh / usableAh : Infinity
  const level = share > 1 ? 'stop' : share > wantedShare ? 'hold' : 'go'
  return {
    rule: 'charge-used',
    level,
    says:
      level === 'stop'
        ? `The run wants ${fixedText(takenAh, 1)} Ah; ${fixedText(usableAh, 1)} Ah are in the battery.`
        : `The run takes ${fixedText(takenAh, 1)} Ah of the ${fixedText(usableAh, 1)} Ah in the battery.`,
    because: `${durationText(hours * 3_600_000)} at ${fixedText(takenAh / hours, 1)} A, ${source.celsius} °C, ${Math.round(first.charge * 100)} % charged.`,
    ...(level === 'go' ? {} : { remedy: freshSupply(source.chemistry) }),
    numbers: { takenAh, usableAh },
  }
}
