/**
 * PRACTICE D11: charger amps are amps at battery volts. What several inverter chargers draw from one generator, how
 * long a battery takes, and what is left for loads.
 */
export interface GeneratorForm {
  generatorWatts: number
  batteryVolts: number
  /** Charge current of each inverter, A at battery volts. */
  chargeAmps: readonly number[]
  /** Energy that is to go into the battery, Wh. */
  wattHours: number
  /** Share of the charger's input that reaches the battery, 0 to 1. */
  efficiency?: number
}

export function generatorShare({
  generatorWatts,
  batteryVolts,
  chargeAmps,
  wattHours,
  efficiency = 1,
}: GeneratorForm) {
  const chargeWatts = chargeAmps.reduce((sum, amps) => sum + amps * batteryVolts, 0)
  const drawnWatts = chargeWatts / efficiency
  const given = Math.min(drawnWatts, generatorWatts)
  return {
    /** Into the battery, W. */
    chargeWatts,
    /** From the generator, W. */
    drawnWatts,
    share: drawnWatts / generatorWatts,
    leftForLoadsWatts: Math.max(0, generatorWatts - drawnWatts),
    overWatts: Math.max(0, drawnWatts - generatorWatts),
    /** Null where nothing charges. */
    hoursToFull: given > 0 ? wattHours / (given * efficiency) : null,
  }
}
