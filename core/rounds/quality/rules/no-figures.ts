import { presentChannels, type LogRule } from '../question'
import { rangeOf } from '../measures'

/** Share of rows that must have a figure. */
const least = 0.5

/** A channel holds no figures. */
export const noFigures: LogRule = {
  id: 'no-figures',
  judge(question) {
    const rows = question.log.seconds.length
    const empty = presentChannels(question).filter(
      ({ channel }) => rangeOf(channel.values).figures < rows * least,
    )
    if (empty.length === 0) return null
    return {
      level: 'stop',
      says: `${empty.map(({ agreed }) => agreed.name).join(', ')}: most rows hold no figure.`,
      because: 'A channel without figures in half of the rows was not measured.',
      remedy: 'Look at the sensor’s plug and at the channel’s setting in the logger.',
      numbers: { channels: empty.length },
    }
  },
}
