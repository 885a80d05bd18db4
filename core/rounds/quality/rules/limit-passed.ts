import { fixedText } from '../../../kernel'
import type { Finding } from '../../../kernel'
import { channelNamed } from '../../log'
import type { LogRule } from '../question'
import { timeWhile } from '../measures'

/** Knock, a lean mixture under load, a temperature: what ends a pull and must not be repeated. */
export const limitPassed: LogRule = {
  id: 'limit-passed',
  judge({ log, limits }) {
    return limits.flatMap((limit): Omit<Finding, 'rule'>[] => {
      const channel = channelNamed(log, limit.channel)
      const load = limit.when && channelNamed(log, limit.when.channel)
      const { min = -Infinity, max = Infinity } = limit
      const where = limit.when ? ` while ${limit.when.channel} was at ${limit.when.min} or more` : ''
      if (!channel || (limit.when && !load))
        return [
          {
            level: 'hold',
            says: `Nobody watched for this: ${limit.says.charAt(0).toLowerCase()}${limit.says.slice(1)}.`,
            because: `${channel ? limit.when!.channel : limit.channel} is not in the log.`,
            remedy: 'Put the channel on the list before anything is driven at load.',
          },
        ]
      const { values } = channel
      const past = timeWhile(
        log,
        (row) =>
          (values[row]! < min || values[row]! > max) && (!load || load.values[row]! >= limit.when!.min),
      )
      if (past.longest === 0 || past.longest < limit.seconds - 1e-6) return []
      let worst = NaN
      for (let row = 0; row < values.length; row++) {
        if (load && !(load.values[row]! >= limit.when!.min)) continue
        if (values[row]! < min && !(worst <= values[row]!)) worst = values[row]!
        if (values[row]! > max && !(worst >= values[row]!)) worst = values[row]!
      }
      return [
        {
          level: 'stop',
          says: `${limit.says}. Do not repeat this pull.`,
          because: `${limit.channel} was ${worst < min ? `below ${min}` : `above ${max}`}${where}, for ${fixedText(past.longest, 1)} s from ${fixedText(past.longestFrom, 1)} s on; the worst is ${Number(worst.toPrecision(4))}.`,
          remedy: 'Send this log to the calibrator as it is. Drive no load until a revision answers it.',
          numbers: { worst, seconds: past.longest, at: past.longestFrom },
        },
      ]
    })
  },
}
