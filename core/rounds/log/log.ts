import type { Finding } from '../../kernel'

/** One thing that was measured over a log. */
export interface LogChannel {
  name: string
  /** As the file gives it; empty where it gives none. */
  unit: string
  /** One figure a row; NaN where the row has none. */
  values: Float64Array
}

/** A log as typed columns, whatever file or link it came from. */
export interface Log {
  /** Seconds from the first row; rises unless the file's own clock went back. */
  seconds: Float64Array
  channels: LogChannel[]
  /** Bytes of the file, or of what was recorded. */
  bytes: number
  /** Lines that stood before the heading. */
  preamble: string[]
  /** What reading it showed: lines that were left out, where reading ended. */
  findings: Finding[]
}

/** Rows of a log. */
export const rowsOf = ({ seconds }: Log): number => seconds.length

/** From the first row to the last, s. */
export const durationOf = ({ seconds }: Log): number =>
  seconds.length < 2 ? 0 : seconds[seconds.length - 1]! - seconds[0]!

/** A channel by its name, whatever its capitals, blanks and marks; undefined where there is none. */
export function channelNamed(
  log: Pick<Log, 'channels'>,
  ...names: readonly string[]
): LogChannel | undefined {
  for (const name of names) {
    const wanted = plainName(name)
    const found = log.channels.find((channel) => plainName(channel.name) === wanted)
    if (found) return found
  }
  return undefined
}

/** `Motor-Speed ` and `motor speed` are one name. */
export const plainName = (name: string): string => name.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, '')
