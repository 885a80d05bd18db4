import type { Finding } from '../../../kernel'
import { presentChannels, type LogRule } from '../question'

/** Share of the rows at a sensor's end from which the log tells nothing of what was beyond. */
const maxShare = 0.1

/** A channel stands at the end of its range. */
export const atRail: LogRule = {
  id: 'at-rail',
  judge(question) {
    return presentChannels(question).flatMap(({ agreed, channel }): Omit<Finding, 'rule'>[] => {
      const { min = -Infinity, max = Infinity } = agreed
      let [low, high] = [0, 0]
      for (const value of channel.values) {
        if (value <= min) low++
        else if (value >= max) high++
      }
      const share = Math.max(low, high) / Math.max(1, channel.values.length)
      if (share <= maxShare) return []
      const end = low > high ? min : max
      return [
        {
          level: 'hold',
          says: `${agreed.name} stands at its end, ${end} ${agreed.unit}`.trim() + ', for too long.',
          because: `${Math.round(share * 100)} % of the rows. What was beyond, the sensor cannot show.`,
          remedy: 'Look at the sensor and its range. If the unit really was there, say so to the calibrator.',
          numbers: { share },
        },
      ]
    })
  },
}
