import { awgSquareMillimetres, fixedText, voltsText, type Finding } from '../../kernel'

/**
 * Resistivity of annealed copper at 20 °C, ohm·mm²/m: 1/58, the International Annealed Copper Standard of IEC 60028
 * (1925), clause on standard values; temperature coefficient at 20 °C 0.00393 per kelvin, from the same.
 */
export const copperOhmSquareMillimetresPerMetre = 1 / 58
/** How much the resistance of copper rises, for each kelvin above 20 °C. */
export const copperPerKelvin = 0.00393

/** A lead, there and back. */
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

/** A lead that takes more than this share of the floor away is too long or too thin (common practice: 3 %). */
const wantedShare = 0.03

/** What a lead takes from the unit at the run's highest current, against the floor it has to stand above. */
export function judgeLead(form: LeadForm, floorVolts: number): Finding {
  const { dropVolts, ohms } = leadDrop(form)
  const allowed = floorVolts * wantedShare
  const over = dropVolts > allowed
  const contacts = form.contactOhms ?? 0
  const left = allowed / form.amps - contacts
  // Rounded up: a lead of the size that is written has to do. Its contacts stay as they are.
  const wanted = Math.ceil(((form.squareMillimetres * (ohms - contacts)) / left) * 10 - 1e-9) / 10
  const remedy =
    left > 0
      ? `Take a shorter lead, or one of ${fixedText(wanted, 1)} mm² or more.`
      : 'Its contacts alone take more: clean or renew them, and measure again.'
  return {
    rule: 'lead-drop',
    level: over ? 'hold' : 'go',
    says: `The lead takes ${voltsText(dropVolts)} at ${fixedText(form.amps, 1)} A.`,
    because: `${form.metres} m of ${fixedText(form.squareMillimetres, 2)} mm², there and back ${fixedText(ohms * 1000, 0)} mohm; ${voltsText(allowed)} is 3 % of the floor.`,
    ...(over ? { remedy } : {}),
    numbers: { dropVolts, leadOhms: ohms, allowedVolts: allowed },
  }
}
