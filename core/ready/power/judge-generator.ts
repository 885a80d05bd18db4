import * as v from 'valibot'
import type { Family } from '../../family'
import type { Finding } from '../../kernel'
import { judgeGeneratorShare } from '../sums/generator'
import { judgeFrequency, judgeThresholds } from '../sums/thresholds'

const figure = (max: number) => v.pipe(v.number(), v.finite(), v.minValue(0), v.maxValue(max))

/** What a person says of a generator that feeds the unit's charger. */
export const GeneratorSay = v.strictObject({
  watts: v.pipe(figure(1e7), v.gtValue(0)),
  /** Charge current of every inverter on it, A at battery volts; each counts. */
  chargeAmps: v.pipe(v.array(figure(5000)), v.minLength(1), v.maxLength(8)),
  /** Share of its input that the charger brings into the battery, above 0 to 1. */
  efficiency: v.exactOptional(v.pipe(figure(1), v.gtValue(0))),
  /** Measured at the input. */
  hertz: v.exactOptional(v.nullable(figure(1000))),
  /** The generator starts below this and stops above that, V. */
  startVolts: v.exactOptional(v.nullable(figure(1000))),
  stopVolts: v.exactOptional(v.nullable(figure(1000))),
})
export type GeneratorSay = v.InferOutput<typeof GeneratorSay>

/**
 * PRACTICE D11: an inverter on a generator, by the same functions as the calculators. Nothing to say where no generator
 * feeds it; what the profile or the person leaves out is not judged.
 */
export function judgeGenerator(power: Family['power'], say: GeneratorSay | null | undefined): Finding[] {
  if (!say) return []
  const { inverter } = power
  const efficiency = say.efficiency ?? inverter?.chargerEfficiency
  const findings = [
    judgeGeneratorShare({
      generatorWatts: say.watts,
      batteryVolts: power.nominalVolts,
      chargeAmps: say.chargeAmps,
      wattHours: 0,
      ...(efficiency === undefined ? {} : { efficiency }),
    }),
  ]
  if (typeof say.startVolts === 'number' && typeof say.stopVolts === 'number') {
    findings.push(
      ...judgeThresholds({
        startVolts: say.startVolts,
        stopVolts: say.stopVolts,
        floorVolts: power.floorVolts,
      }),
    )
  }
  if (inverter) {
    findings.push(
      typeof say.hertz === 'number'
        ? judgeFrequency(say.hertz, inverter.systemHertz)
        : {
            rule: 'frequency-window',
            level: 'hold',
            says: 'The generator’s frequency is not measured.',
            because: `The input is made for ${inverter.systemHertz} Hz.`,
            remedy: 'Measure it at the input, with the charger drawing, and type the hertz.',
          },
    )
  }
  return findings
}
