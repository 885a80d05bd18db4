import { chemistryFacts, type Charging, type Chemistry } from './chemistry'
import type { Stretch, SupplySetup } from './supply'

/** Whether a charger may be put on such a source at all: primary cells and what has no charge take none. */
export const isChargeable = (chemistry: Chemistry): boolean => chemistryFacts[chemistry].charging !== null

/** Volts at which a charger holds the whole battery; null where it is not charged. */
export function chargerVoltsOf({
  source,
}: {
  source: Pick<SupplySetup['source'], 'chemistry' | 'cells'>
}): number | null {
  const { charging } = chemistryFacts[source.chemistry]
  return charging && charging.cellVolts * source.cells
}

/** How far a chemistry may be charged, at what current and temperature. */
export interface ChargeLimit extends Charging {
  /** Amps of a charger at most: what the battery takes, and what is drawn past it all the time. */
  amps: number
  tooCold: boolean
  tooHot: boolean
}

/** What a charger on this battery may do in this run; null where it is not charged. */
export function chargeLimit(
  { source, loads }: Pick<SupplySetup, 'source' | 'loads'>,
  stretches: readonly Stretch[],
): ChargeLimit | null {
  const { charging } = chemistryFacts[source.chemistry]
  if (!charging) return null
  const others = loads.reduce((sum, { amps, off }) => sum + (off ? 0 : amps), 0)
  const drawn = others + Math.min(...stretches.map(({ unitAmps }) => unitAmps))
  const [min, max] = charging.celsius
  return {
    ...charging,
    amps: charging.ampsPerAh * source.capacityAh + (Number.isFinite(drawn) ? drawn : 0),
    tooCold: source.celsius < min,
    tooHot: source.celsius > max,
  }
}
