import type { Clock } from '../../kernel'
import type { Log } from '../log'
import { joinByTime, type BesideWatch } from './beside'
import { isOwn, type ReadChannel } from './channel-source'
import { maxHertz } from './plan-recording'
import { figureOfLine, type RowSource } from './row-source'

/** What is recorded, and for how long. */
export interface RecordingPlan {
  channels: readonly ReadChannel[]
  /** Ends by itself after this long. */
  seconds: number
  /** Asked before each row. */
  stopped(): boolean
  /** Told after each row: how many there are, seconds since the first, and what was read. */
  onRow?(rows: number, second: number, figures: readonly number[]): void
}

/** Rows without any answer after which the unit is taken to be gone. */
const maxSilentRows = 5

/**
 * Reads row after row, as often as they come, no more than a hundred times a second.
 * @param next rows of the unit's own channels, in their order. @throws Problem of the link where nothing answers any more.
 * @param beside a second device, whose channels are joined to the rows by time; absent where no channel is of one.
 */
export async function recordChannels(
  next: RowSource,
  clock: Pick<Clock, 'now' | 'sleep'>,
  { channels, seconds, stopped, onRow }: RecordingPlan,
  beside?: Pick<BesideWatch, 'shown' | 'latest'>,
): Promise<Log> {
  const own = channels.filter(({ read }) => isOwn(read))
  const times: number[] = []
  const columns: number[][] = own.map(() => [])
  const from = clock.now()
  let silentRows = 0
  let lost = 0
  while (!stopped() && clock.now() - from < seconds * 1000) {
    const began = clock.now()
    const { at, figures, silence } = await next()
    lost += figures.filter(Number.isNaN).length
    silentRows = figures.every(Number.isNaN) ? silentRows + 1 : 0
    if (silentRows >= maxSilentRows && silence) throw silence
    times.push(at)
    figures.forEach((figure, column) => columns[column]!.push(figure))
    onRow?.(times.length, (at - from) / 1000, rowNow(channels, figures, beside))
    const rest = 1000 / maxHertz - (clock.now() - began)
    if (rest > 0) await clock.sleep(rest)
  }
  let without = 0
  const values = channels.map((channel) => {
    if (isOwn(channel.read)) return columns[own.indexOf(channel)]!
    const joined = joinByTime(times, beside?.shown ?? [], channel)
    without += joined.filter(Number.isNaN).length
    return joined
  })
  return {
    seconds: Float64Array.from(times, (at) => (at - from) / 1000),
    channels: channels.map(({ name, unit }, column) => ({
      name,
      unit,
      values: Float64Array.from(values[column]!),
    })),
    bytes: 0,
    preamble: [
      ...(lost > 0 ? [`${lost} readings stayed without an answer`] : []),
      ...(without > 0 ? [`${without} readings of the second device are missing at their time`] : []),
    ],
    findings: [],
  }
}

/** The row as it is seen while it is recorded: of a second device what it showed last. */
function rowNow(
  channels: readonly ReadChannel[],
  figures: readonly number[],
  beside: Pick<BesideWatch, 'latest'> | undefined,
): number[] {
  const lines = beside?.latest()
  let column = 0
  return channels.map(({ read }) => {
    if (!('beside' in read)) return figures[column++]!
    return lines ? figureOfLine(lines, read.beside, read) : NaN
  })
}

/** A log as CSV (RFC 4180), for whoever it is sent to: points, seconds, units in the heading. */
export function logCsv({ seconds, channels, preamble }: Log): string {
  const field = (text: string) => (/[",\r\n]/.test(text) ? `"${text.replace(/"/g, '""')}"` : text)
  const heading = ['Time [s]', ...channels.map(({ name, unit }) => (unit ? `${name} [${unit}]` : name))]
  const figure = (value: number) => (Number.isNaN(value) ? '' : String(Number(value.toPrecision(9))))
  const lines = [...preamble.map(field), heading.map(field).join(',')]
  for (let row = 0; row < seconds.length; row++)
    lines.push([seconds[row]!.toFixed(4), ...channels.map(({ values }) => figure(values[row]!))].join(','))
  return `${lines.join('\r\n')}\r\n`
}

/** How evenly rows followed each other: the usual step and the one of a hundred that was longest, ms. */
export function rowJitter(seconds: Float64Array): { medianMs: number; p99Ms: number } {
  const steps = Float64Array.from(
    { length: Math.max(0, seconds.length - 1) },
    (_, row) => (seconds[row + 1]! - seconds[row]!) * 1000,
  ).sort()
  const at = (share: number) => steps[Math.min(steps.length - 1, Math.floor(steps.length * share))] ?? 0
  return { medianMs: at(0.5), p99Ms: at(0.99) }
}
