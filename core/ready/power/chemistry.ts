import { supplyKinds } from '../../family'

/*
 * Sources of supply by chemistry: volts at rest against state of charge. Per-cell tables for 25 °C; a battery of n
 * cells is n times that. Figures from memory of makers' data sheets and textbooks as a class, not of one product;
 * lead-acid after the rest-voltage tables in use in the trade (12.7 V full, 12.4 V at three quarters, 12.2 V half,
 * 12.0 V quarter, 11.8 V flat for six cells).
 */

/** Kinds of source that the model knows. */
export const chemistries = supplyKinds
/** A kind of source. */
export type Chemistry = (typeof chemistries)[number]

/** What is known of a chemistry: volts of a cell by charge, and how it may be charged. */
export interface ChemistryFacts {
  name: string
  /** Volts of one cell at rest, from empty to full in equal steps; null for a source that has no charge. */
  restVolts: readonly number[] | null
  /** Change of a cell's rest volts for each degree above 25 °C, V/K. */
  voltsPerKelvin: number
  /** Peukert's exponent; 1 has no rate effect. */
  peukert: number
  /** Hours of the discharge that the printed capacity means. */
  ratedHours: number
  /** Share of the printed capacity that is there at a temperature, linear between the points (°C, share). */
  cold: readonly (readonly [celsius: number, share: number])[]
  /**
   * Ohms of a cell times its ampere-hours when warm and full, over minutes: a run lasts longer than the first instant,
   * and the slow drop that follows the ohmic one is then there too, about twice as large (from memory). Larger cells have less.
   */
  ohmAmpereHours: number
  /** How it takes a charge; null for primary cells, which are never charged, and for what has no charge. */
  charging: Charging | null
}

/** A charge that does no harm; as a class of cells and not of one product, from memory of makers' data sheets. */
export interface Charging {
  /** Volts of a cell at which a charger holds it. */
  cellVolts: number
  /** Amps into the battery for each ampere-hour of its printed capacity, at most. */
  ampsPerAh: number
  /** Cell temperatures between which it may be charged, °C. */
  celsius: readonly [min: number, max: number]
}

const warm = [
  [-20, 0.5],
  [0, 0.8],
  [25, 1],
] as const

/** Figures by chemistry; sources stand beside them. */
export const chemistryFacts: Record<Chemistry, ChemistryFacts> = {
  'lead-acid': {
    name: 'Lead-acid, flooded',
    restVolts: [1.967, 2.0, 2.033, 2.067, 2.117],
    voltsPerKelvin: 0.0002,
    peukert: 1.2,
    ratedHours: 20,
    cold: warm,
    ohmAmpereHours: 0.18,
    charging: { cellVolts: 2.4, ampsPerAh: 0.25, celsius: [-20, 50] },
  },
  agm: {
    name: 'Lead-acid, AGM',
    restVolts: [1.975, 2.017, 2.055, 2.095, 2.14],
    voltsPerKelvin: 0.0002,
    peukert: 1.1,
    ratedHours: 20,
    cold: warm,
    ohmAmpereHours: 0.12,
    charging: { cellVolts: 2.4, ampsPerAh: 0.3, celsius: [-20, 50] },
  },
  lfp: {
    name: 'Lithium iron phosphate',
    restVolts: [2.8, 3.2, 3.25, 3.28, 3.3, 3.3, 3.32, 3.33, 3.35, 3.38, 3.45],
    voltsPerKelvin: 0.0001,
    peukert: 1.05,
    ratedHours: 5,
    cold: [
      [-20, 0.6],
      [0, 0.85],
      [25, 1],
    ],
    ohmAmpereHours: 0.06,
    charging: { cellVolts: 3.55, ampsPerAh: 0.5, celsius: [0, 45] },
  },
  nmc: {
    name: 'Lithium nickel manganese cobalt',
    restVolts: [3.0, 3.45, 3.55, 3.6, 3.65, 3.7, 3.77, 3.85, 3.95, 4.05, 4.2],
    voltsPerKelvin: 0.0001,
    peukert: 1.05,
    ratedHours: 5,
    cold: [
      [-20, 0.6],
      [0, 0.85],
      [25, 1],
    ],
    ohmAmpereHours: 0.06,
    charging: { cellVolts: 4.2, ampsPerAh: 0.5, celsius: [0, 45] },
  },
  alkaline: {
    name: 'Alkaline cells',
    restVolts: [0.9, 1.1, 1.2, 1.27, 1.34, 1.42, 1.6],
    voltsPerKelvin: 0.0003,
    peukert: 1.3,
    ratedHours: 50,
    cold: [
      [-20, 0.3],
      [0, 0.65],
      [25, 1],
    ],
    ohmAmpereHours: 0.4,
    charging: null,
  },
  nimh: {
    name: 'Nickel metal hydride',
    restVolts: [1.1, 1.2, 1.23, 1.25, 1.27, 1.3, 1.4],
    voltsPerKelvin: -0.0004,
    peukert: 1.1,
    ratedHours: 5,
    cold: [
      [-20, 0.5],
      [0, 0.85],
      [25, 1],
    ],
    ohmAmpereHours: 0.1,
    charging: { cellVolts: 1.45, ampsPerAh: 0.5, celsius: [0, 45] },
  },
  bench: {
    name: 'Bench supply',
    restVolts: null,
    voltsPerKelvin: 0,
    peukert: 1,
    ratedHours: 1,
    cold: warm,
    ohmAmpereHours: 0,
    charging: null,
  },
  mains: {
    name: 'Mains through the unit’s own supply',
    restVolts: null,
    voltsPerKelvin: 0,
    peukert: 1,
    ratedHours: 1,
    cold: warm,
    ohmAmpereHours: 0,
    charging: null,
  },
}

/** Volts of one cell at rest. @param charge 0 to 1. @returns null for a source without charge. */
export function cellRestVolts(chemistry: Chemistry, charge: number, celsius: number): number | null {
  const { restVolts, voltsPerKelvin } = chemistryFacts[chemistry]
  if (!restVolts) return null
  return between(restVolts, charge) + voltsPerKelvin * (celsius - 25)
}

/** State of charge whose rest volts these are, 0 to 1; where the curve is flat, the middle of the flat part. */
export function chargeAtRest(chemistry: Chemistry, cellVolts: number, celsius: number): number | null {
  const { restVolts, voltsPerKelvin } = chemistryFacts[chemistry]
  if (!restVolts) return null
  const volts = cellVolts - voltsPerKelvin * (celsius - 25)
  let [low, high] = [0, 1]
  for (let step = 0; step < 40; step++) {
    const middle = (low + high) / 2
    if (between(restVolts, middle) < volts) low = middle
    else high = middle
  }
  const first = high
  ;[low, high] = [0, 1]
  for (let step = 0; step < 40; step++) {
    const middle = (low + high) / 2
    if (between(restVolts, middle) <= volts) low = middle
    else high = middle
  }
  return (first + low) / 2
}

/** Share of the printed capacity at a temperature. */
export function coldShare(chemistry: Chemistry, celsius: number): number {
  const { cold } = chemistryFacts[chemistry]
  const first = cold[0]!
  if (celsius <= first[0]) return first[1]
  for (let at = 1; at < cold.length; at++) {
    const [before, after] = [cold[at - 1]!, cold[at]!]
    if (celsius <= after[0])
      return before[1] + ((celsius - before[0]) / (after[0] - before[0])) * (after[1] - before[1])
  }
  return cold[cold.length - 1]![1]
}

/** Straight between the points of a table that lie in equal steps from 0 to 1. */
function between(table: readonly number[], place: number): number {
  const at = Math.min(1, Math.max(0, place)) * (table.length - 1)
  const index = Math.min(table.length - 2, Math.floor(at))
  return table[index]! + (at - index) * (table[index + 1]! - table[index]!)
}
