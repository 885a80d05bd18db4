import type { Finding } from '../../../kernel'
import { presentChannels, type LogRule } from '../question'

/** A narrow-band probe rests at its two ends and hardly ever between them (common practice). */
const atEnds = 0.7

/** PRACTICE K4: a narrow-band reading is not enough where the mixture is tuned. */
export const narrowBand: LogRule = {
  id: 'narrow-band',
  judge(question) {
    return presentChannels(question).flatMap(({ agreed, channel }): Omit<Finding, 'rule'>[] => {
      if (agreed.role !== 'mixture') return []
      let [figures, low, high, beyond] = [0, 0, 0, 0]
      for (const value of channel.values) {
        if (Number.isNaN(value)) continue
        figures++
        if (value < 0 || value > 1.1) beyond++
        else if (value <= 0.2) low++
        else if (value >= 0.7) high++
      }
      // Lambda of a warm engine stays above 0.6: readings near nothing are volts of a probe that only switches.
      if (figures === 0 || beyond > figures * 0.02 || low < figures * 0.1) return []
      if (low + high < figures * atEnds) return []
      return [
        {
          level: 'stop',
          says: `${agreed.name} comes from a narrow-band probe.`,
          because: `${Math.round((low / figures) * 100)} % of the readings lie below 0.2 and ${Math.round((high / figures) * 100)} % above 0.7: it only says richer or leaner than one.`,
          remedy: 'Fit the wideband gauge and log its reading.',
          numbers: { low: low / figures, high: high / figures },
        },
      ]
    })
  },
}
