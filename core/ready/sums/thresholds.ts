import type { Finding } from '../../kernel'

/** Voltages of a generator’s automatics, which must stand in an order. */
export interface ThresholdForm {
  /** The generator starts below this, V. */
  startVolts: number
  /** And stops above this, V. */
  stopVolts: number
  /** The unit does not start below this, V. */
  floorVolts: number
}

/** PRACTICE D11: start below stop, and neither below the floor, or the unit does not start. */
export function judgeThresholds({ startVolts, stopVolts, floorVolts }: ThresholdForm): Finding[] {
  const findings: Finding[] = []
  const numbers = { startVolts, stopVolts, floorVolts }
  if (startVolts >= stopVolts) {
    findings.push({
      rule: 'threshold-order',
      level: 'stop',
      says: `The start threshold, ${startVolts} V, does not lie below the stop threshold, ${stopVolts} V.`,
      because: 'A generator that stops where it starts never runs.',
      remedy: `Set start below ${stopVolts} V.`,
      numbers,
    })
  }
  const low = Math.min(startVolts, stopVolts)
  if (low < floorVolts) {
    findings.push({
      rule: 'threshold-floor',
      level: 'stop',
      says: `A threshold lies below the floor: ${low} V under ${floorVolts} V.`,
      because: 'Below its floor the unit does not start at all.',
      remedy: `Set both to ${floorVolts} V or more.`,
      numbers,
    })
  }
  if (findings.length === 0) {
    findings.push({
      rule: 'threshold-order',
      level: 'go',
      says: `Start ${startVolts} V, stop ${stopVolts} V, floor ${floorVolts} V: in order.`,
      because: 'Stop above start, start not below the floor.',
      numbers,
    })
  }
  return findings
}

/** Inverter inputs of 60 Hz systems take 58 to 63 Hz (PRACTICE D11, common practice); others in proportion: 48.33 to 52.5 Hz at 50. */
const window60 = [58, 63] as const
/** Between which frequencies a system is looked on as sound, Hz, in proportion to 50. */
export const frequencyWindow = (systemHertz: number) =>
  [(window60[0] * systemHertz) / 60, (window60[1] * systemHertz) / 60] as const

/** Whether a measured frequency lies in the window of its system. */
export function judgeFrequency(hertz: number, system: 50 | 60): Finding {
  const [min, max] = frequencyWindow(system)
  const shown = `${Number(min.toFixed(2))} to ${Number(max.toFixed(2))} Hz`
  const inside = hertz >= min && hertz <= max
  return {
    rule: 'frequency-window',
    level: inside ? 'go' : 'stop',
    says: inside
      ? `${hertz} Hz lies within ${shown}.`
      : `${hertz} Hz lies outside ${shown}: the input does not take it.`,
    because: `A ${system} Hz system.`,
    ...(inside
      ? {}
      : {
          remedy:
            hertz < min ? 'Raise the generator’s speed; look at its load.' : 'Lower the generator’s speed.',
        }),
    numbers: { hertz, minHertz: min, maxHertz: max },
  }
}
