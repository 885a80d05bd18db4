import { groupedNumber } from '../../../kernel'
import type { LogRule } from '../question'

/** The clock of the log goes back. */
export const timeBack: LogRule = {
  id: 'time-back',
  judge({ log: { seconds } }) {
    let [times, first] = [0, 0]
    for (let row = 1; row < seconds.length; row++)
      if (seconds[row]! < seconds[row - 1]!) {
        if (times === 0) first = row
        times++
      }
    if (times === 0) return null
    return {
      level: 'stop',
      says: 'The time of the log goes back.',
      because: `${times === 1 ? 'Once' : `${groupedNumber(times)} times`}, first at row ${groupedNumber(first + 1)}: from ${seconds[first - 1]!.toFixed(2)} s to ${seconds[first]!.toFixed(2)} s.`,
      remedy: 'Two logs may have been joined. Cut the file there, or log again.',
      numbers: { times, row: first + 1 },
    }
  },
}
