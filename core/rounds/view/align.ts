import { channelNamed, type Log } from '../log'
import { timeWhile, type Condition } from '../quality'

/**
 * By how much a second log is moved so that both stand where a condition first held longest: seconds that are added to
 * the second log's time. Null where one of them never reached it.
 */
export function alignBy(first: Log, second: Log, condition: Omit<Condition, 'seconds'>): number | null {
  const [a, b] = [first, second].map((log) => longestFrom(log, condition))
  return a === null || b === null ? null : a! - b!
}

function longestFrom(
  log: Log,
  { channel: name, min = -Infinity, max = Infinity }: Omit<Condition, 'seconds'>,
) {
  const channel = channelNamed(log, name)
  if (!channel) return null
  const there = timeWhile(log, (row) => channel.values[row]! >= min && channel.values[row]! <= max)
  return there.longest > 0 ? there.longestFrom : null
}
