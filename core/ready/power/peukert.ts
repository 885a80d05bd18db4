/**
 * Ampere-hours that count against the printed capacity for each hour of a current: Peukert 1897,
 * t = H (C / (I H))^k, written as consumption: I_eff = (C / H) (I H / C)^k, C printed capacity over H hours.
 * Below the rated current nothing is gained.
 */
export function countedAmps(amps: number, capacityAh: number, ratedHours: number, exponent: number): number {
  const rated = capacityAh / ratedHours
  if (amps <= rated) return amps
  return rated * (amps / rated) ** exponent
}

/** Hours until a full battery is flat at a steady current (Peukert 1897). */
export function peukertHours(amps: number, capacityAh: number, ratedHours: number, exponent: number): number {
  return capacityAh / countedAmps(amps, capacityAh, ratedHours, exponent)
}
