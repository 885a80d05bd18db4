import type { Finding } from '../../../kernel'
import { durationOf } from '../../log'
import { presentChannels, type LogRule } from '../question'
import { rangeOf } from '../measures'

/** A log as long as this shows a temperature move, s. */
const slowSeconds = 300

/** PRACTICE K4: a channel with one constant value means port or gauge setting. Switches may well stay. */
export const stuck: LogRule = {
  id: 'stuck',
  judge(question) {
    return presentChannels(question).flatMap(({ agreed, channel }): Omit<Finding, 'rule'>[] => {
      const { min, max, figures } = rangeOf(channel.values)
      // A temperature rests within its step for minutes.
      const mayRest =
        agreed.role === 'switch' || (agreed.role === 'temperature' && durationOf(question.log) < slowSeconds)
      if (mayRest || figures < 2 || min !== max) return []
      const mixture = agreed.role === 'mixture'
      return [
        {
          level: mixture ? 'stop' : 'hold',
          says: `${agreed.name} shows ${min} all along.`,
          because: mixture
            ? 'A mixture that never moves is no measurement: the port or the gauge is set up wrongly.'
            : 'What is measured moves at least a little.',
          remedy: mixture
            ? 'Set the gauge’s output and the logger’s input to the same scale, and check it in free air.'
            : 'Look at the sensor’s plug. If it may rest here, use the log all the same and say why.',
          numbers: { value: min },
        },
      ]
    })
  },
}
