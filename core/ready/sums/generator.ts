import { fixedText, voltsText, type Finding } from '../../kernel'

/** Share of its input that a charger brings into the battery where nobody said one (from memory: 85 to 93 %). */
export const usualChargerEfficiency = 0.9

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
  /** Share of the charger's input that reaches the battery, above 0 to 1. */
  efficiency?: number
}

/** What a generator gives to a battery: the current it can carry and the hours it takes, losses counted. */
export function generatorShare({
  generatorWatts,
  batteryVolts,
  chargeAmps,
  wattHours,
  efficiency = usualChargerEfficiency,
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

/** More than this share of a generator leaves nothing for a load that starts (common practice). */
const wantedShare = 0.8

/** PRACTICE D11: whether one generator carries all chargers that draw on it. */
export function judgeGeneratorShare(form: GeneratorForm): Finding {
  const { chargeWatts, drawnWatts, overWatts, share, leftForLoadsWatts, hoursToFull } = generatorShare(form)
  const amps = form.chargeAmps.reduce((sum, each) => sum + each, 0)
  const level = overWatts > 0 ? 'stop' : share > wantedShare ? 'hold' : 'go'
  return {
    rule: 'generator-share',
    level,
    says:
      level === 'stop'
        ? `Charging alone is ${fixedText(overWatts, 0)} W too much for the generator.`
        : `Charging takes ${Math.round(share * 100)} % of the generator.`,
    because: `${fixedText(amps, 1)} A at ${voltsText(form.batteryVolts)} is ${fixedText(chargeWatts, 0)} W into the battery, ${fixedText(drawnWatts, 0)} W out of the generator.`,
    ...(level === 'go' ? {} : { remedy: 'Lower the charge current of one, or charge one after the other.' }),
    numbers: {
      chargeWatts,
      drawnWatts,
      overWatts,
      leftForLoadsWatts,
      ...(hoursToFull === null ? {} : { hoursToFull }),
    },
  }
}
