import { fixedText, voltsText } from '../../../kernel'
import { presentChannels, type LogRule } from '../question'
import { timeWhile } from '../measures'

/** How long a dip may last: a starter's inrush is shorter (common practice). */
const briefSeconds = 0.2

/** The supply went below its limit. */
export const supplySagging: LogRule = {
  id: 'supply-sagging',
  judge(question) {
    const { log, floorVolts } = question
    const supply = presentChannels(question).find(({ agreed }) => agreed.role === 'supply')
    if (!supply || floorVolts === null) return null
    const { values } = supply.channel
    const below = timeWhile(log, (row) => values[row]! < floorVolts)
    // A sum of many small steps runs over by rounding alone.
    if (below.longest <= briefSeconds + 1e-6) return null
    let lowest = Infinity
    for (const value of values) if (value < lowest) lowest = value
    return {
      level: 'hold',
      says: `The supply sagged to ${voltsText(lowest)} in the log.`,
      because: `Below ${voltsText(floorVolts)} for ${fixedText(below.longest, 1)} s on end, from ${fixedText(below.longestFrom, 1)} s on. What was measured then belongs to a unit short of voltage.`,
      remedy: 'Charge the battery or join the charger, and log again.',
      numbers: { lowestVolts: lowest, seconds: below.longest },
    }
  },
}
