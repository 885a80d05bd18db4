import type { Finding } from '@bench-wake/core/kernel'
import type { LogSummary } from '@bench-wake/core/rounds'

/** What the rules said of a log when it was judged, and its error by the map's cells. */
export interface JudgedLog {
  summary: LogSummary
  findings: Finding[]
  /** Null where the case has no aim or the log not its channels; a cell without figures has count 0. */
  errors: { count: number[]; mean: (number | null)[]; spread: (number | null)[] } | null
}
