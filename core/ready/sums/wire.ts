import { awgSquareMillimetres } from '../../kernel'

/**
 * Resistivity of annealed copper at 20 °C, ohm·mm²/m: 1/58, the International Annealed Copper Standard of IEC 60028
 * (1925), clause on standard values; temperature coefficient at 20 °C 0.00393 per kelvin, from the same.
 */
export const copperOhmSquareMillimetresPerMetre = 1 / 58
export const copperPerKelvin = 0.00393

export interface LeadForm {
  /** One way; the current goes there and back. */
  metres: number
  squareMillimetres: number
  amps: number
  celsius?: number
  /** Plugs, clamps and fuse holders together, ohm. */
  contactOhms?: number
}

/** Resistance of a lead, there and back, and what a current loses in it. Ohm's law. */
export function leadDrop({ metres, squareMillimetres, amps, celsius = 20, contactOhms = 0 }: LeadForm) {
  const perMetre =
    (copperOhmSquareMillimetresPerMetre / squareMillimetres) * (1 + copperPerKelvin * (celsius - 20))
  const ohms = 2 * metres * perMetre + contactOhms
  return { ohms, dropVolts: ohms * amps, lostWatts: ohms * amps ** 2, ohmsPerKilometre: perMetre * 1000 }
}

/** Gauge whose cross-section comes nearest, as a whole number of AWG (ASTM B258); 0 is 1/0, −3 is 4/0. */
export function nearestAwg(squareMillimetres: number): number {
  let best = 40
  for (let gauge = -3; gauge <= 40; gauge++) {
    const off = (each: number) => Math.abs(Math.log(awgSquareMillimetres(each) / squareMillimetres))
    if (off(gauge) < off(best)) best = gauge
  }
  return best
}
