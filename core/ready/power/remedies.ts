import { chargeLimit } from './charging'
import { supplyCourse, type Load, type Stretch, type SupplySetup } from './supply'

/** Chargers as they are sold, A (common practice): the answer is one that can be bought. */
export const chargerSizes = [1, 2, 3, 4, 5, 6, 8, 10, 15, 20, 25, 30, 40, 50, 60, 80, 100] as const

/**
 * The smallest charger that keeps the terminals at the floor through the run, A; null when none of those sold does
 * without forcing more into the battery than it takes, or when it may not be charged at all.
 * @param chargerVolts its voltage limit.
 */
export function smallestCharger(
  setup: SupplySetup,
  stretches: readonly Stretch[],
  floorVolts: number,
  chargerVolts: number,
): number | null {
  const holds = (amps: number) =>
    supplyCourse({ ...setup, charger: amps > 0 ? { amps, volts: chargerVolts } : null }, stretches)
      .lowestVolts >= floorVolts
  if (holds(0)) return 0
  const limit = chargeLimit(setup, stretches)
  if (!limit || limit.tooCold || limit.tooHot) return null
  return chargerSizes.find((amps) => amps <= limit.amps && holds(amps)) ?? null
}

/**
 * The shortest list of loads to shed so that the floor is held, in the order in which to pull them: the heaviest
 * first, and never more than needed. Null when even all of them do not do it.
 */
export function loadsToShed(
  setup: SupplySetup,
  stretches: readonly Stretch[],
  floorVolts: number,
): Load[] | null {
  const holds = (off: ReadonlySet<string>) =>
    supplyCourse(
      { ...setup, loads: setup.loads.map((load) => ({ ...load, off: load.off || off.has(load.id) })) },
      stretches,
    ).lowestVolts >= floorVolts
  if (holds(new Set())) return []
  // More load never means more volts, so the heaviest ones are the fewest.
  const on = setup.loads.filter(({ off, amps }) => !off && amps > 0).sort((a, b) => b.amps - a.amps)
  for (let count = 1; count <= on.length; count++) {
    const list = on.slice(0, count)
    if (!holds(new Set(list.map(({ id }) => id)))) continue
    // With the count known, the last may be a lighter one: nobody sheds more than is needed.
    const kept = list.slice(0, -1)
    const last = [...on.slice(count - 1)]
      .reverse()
      .find((load) => holds(new Set([...kept, load].map(({ id }) => id))))!
    return [...kept, last]
  }
  return null
}
