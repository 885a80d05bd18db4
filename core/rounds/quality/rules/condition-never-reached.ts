import { durationText, type Finding } from '../../../kernel'
import { channelNamed } from '../../log'
import type { LogRule } from '../question'
import { rangeOf, timeWhile } from '../measures'

/** A condition that the log was made for never came. */
export const conditionNeverReached: LogRule = {
  id: 'condition-never-reached',
  judge({ log, kind }) {
    return kind.conditions.flatMap(
      ({ channel: name, min = -Infinity, max = Infinity, seconds }): Omit<Finding, 'rule'>[] => {
        const channel = channelNamed(log, name)
        const wanted = `${name} ${rangeText(min, max)} for ${durationText(seconds * 1000)}`
        if (!channel)
          return [
            {
              level: 'stop',
              says: `Nothing shows whether ${kind.name.toLowerCase()} was reached: ${name} is not in the log.`,
              because: `Asked for: ${wanted}.`,
              remedy: 'Put the channel on the list, and log again.',
            },
          ]
        const there = timeWhile(log, (row) => channel.values[row]! >= min && channel.values[row]! <= max)
        // A sum of many small steps falls short by rounding alone.
        if (there.seconds >= seconds - 1e-6) return []
        const range = rangeOf(channel.values)
        return [
          {
            level: 'stop',
            says: `${kind.name} was not held: ${name} was ${rangeText(min, max)} for ${there.seconds === 0 ? 'no time' : durationText(there.seconds * 1000)}.`,
            because: `Asked for: ${wanted}. It went from ${round(range.min)} to ${round(range.max)}.`,
            remedy: kind.asks || 'Log again, and hold it for as long as is asked.',
            numbers: { seconds: there.seconds, wanted: seconds },
          },
        ]
      },
    )
  },
}

const round = (figure: number) => Number(figure.toPrecision(4))
const rangeText = (min: number, max: number) =>
  max === Infinity
    ? `at ${min} or more`
    : min === -Infinity
      ? `at ${max} or less`
      : `between ${min} and ${max}`
