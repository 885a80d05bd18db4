import { bytesText, groupedNumber } from '../../../kernel'
import { rowsOf } from '../../log'
import type { LogRule } from '../question'

/** A log of a kilobyte is a failed log (PRACTICE K4, common practice). */
export const failedLogBytes = 1024
/** Rows below which nothing can be said of anything. */
const fewestRows = 20

/** The file is so small that nothing can be in it. */
export const tooSmall: LogRule = {
  id: 'too-small',
  judge({ log }) {
    const rows = rowsOf(log)
    if (log.bytes > failedLogBytes && rows >= fewestRows) return null
    return {
      level: 'stop',
      says: 'This log failed: there is next to nothing in it.',
      because: `${bytesText(log.bytes)}, ${groupedNumber(rows)} ${rows === 1 ? 'row' : 'rows'}. A log of a kilobyte is a failed log.`,
      remedy: 'Look at the logger’s light or screen while it records, and log again.',
      numbers: { bytes: log.bytes, rows },
    }
  },
}
