import { durationOf, plainName, rowsOf, type Log } from '../log'
import { medianStep, rangeOf } from '../quality'

/** What a list says of a log. */
export interface LogSummary {
  rows: number
  seconds: number
  /** Rows a second; 0 where nothing tells. */
  hertz: number
  /** Lowest and highest figure; null where a channel has none. */
  channels: { name: string; unit: string; min: number | null; max: number | null }[]
}

/** What is kept of a log beside its bytes. */
export function summarizeLog(log: Log): LogSummary {
  const step = medianStep(log.seconds)
  return {
    rows: rowsOf(log),
    seconds: durationOf(log),
    hertz: step > 0 ? 1 / step : 0,
    channels: log.channels.map(({ name, unit, values }) => {
      const { min, max, figures } = rangeOf(values)
      return { name, unit, min: figures > 0 ? min : null, max: figures > 0 ? max : null }
    }),
  }
}

type ChannelRange = LogSummary['channels'][number]

/** Ranges of one log's channels, widened by those that another log has as well. */
export const joinRanges = (own: readonly ChannelRange[], others: readonly ChannelRange[]): ChannelRange[] =>
  own.map((channel) => {
    const other = others.find(({ name }) => plainName(name) === plainName(channel.name))
    const ends = [channel.min, channel.max, other?.min, other?.max].filter((end) => typeof end === 'number')
    return ends.length === 0 ? channel : { ...channel, min: Math.min(...ends), max: Math.max(...ends) }
  })
