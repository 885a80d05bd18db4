import type { LogRule } from '../question'
import { medianStep } from '../measures'

/** Fewer rows a second than what is looked for needs. */
export const rateTooLow: LogRule = {
  id: 'rate-too-low',
  judge({ log, kind }) {
    const step = medianStep(log.seconds)
    if (step === 0) return null
    const hertz = 1 / step
    // Steps of a real clock are never round: a hundredth below is the same rate.
    if (hertz >= kind.minHertz * 0.99) return null
    return {
      level: 'stop',
      says: `The log is too slow for ${kind.name.toLowerCase()}.`,
      because: `${hertz.toPrecision(3)} rows a second; ${kind.minHertz} are asked for.`,
      remedy: 'Log fewer channels, or choose a faster rate in the logger.',
      numbers: { hertz, minHertz: kind.minHertz },
    }
  },
}
