import { isProblem, type Clock } from '../../kernel'
import { isSilence } from '../../link'
import { figureIn } from '../definition'
import type { Log } from '../log'
import type { AgreedChannel } from '../quality'
import type { ChannelSource } from './channel-source'
import { maxHertz } from './plan-recording'

/** What is recorded, and for how long. */
export interface RecordingPlan {
  channels: readonly (AgreedChannel & { read: ChannelSource })[]
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
 * Reads the channels again and again, as often as the link allows, no more than a hundred times a second. A question that
 * stays without an answer, or is refused, is asked once more; then its place in the row stays empty.
 * @param ask gives the bytes of a data identifier. @throws Problem of the link where nothing answers any more.
 */
export async function recordChannels(
  ask: (identifier: number) => Promise<Uint8Array>,
  clock: Pick<Clock, 'now' | 'sleep'>,
  { channels, seconds, stopped, onRow }: RecordingPlan,
): Promise<Log> {
  const times: number[] = []
  const columns: number[][] = channels.map(() => [])
  const from = clock.now()
  let silentRows = 0
  let lost = 0
  while (!stopped() && clock.now() - from < seconds * 1000) {
    const at = clock.now()
    const row: number[] = []
    let silence: unknown
    for (const { read } of channels) {
      const bytes = await asked(ask, read.identifier).catch((error: unknown) => {
        if (isSilence(error)) silence = error
        else if (!isProblem(error, 'uds-refused')) throw error
        return null
      })
      if (!bytes) lost++
      row.push(bytes ? figureIn(bytes, read.at, read) : NaN)
      // Where one question met silence the rest of the row would wait as long again.
      if (silence) break
    }
    while (row.length < channels.length) {
      row.push(NaN)
      lost++
    }
    silentRows = row.every(Number.isNaN) ? silentRows + 1 : 0
    if (silentRows >= maxSilentRows && silence) throw silence
    times.push((at - from) / 1000)
    row.forEach((figure, column) => columns[column]!.push(figure))
    onRow?.(times.length, (at - from) / 1000, row)
    const rest = 1000 / maxHertz - (clock.now() - at)
    if (rest > 0) await clock.sleep(rest)
  }
  return {
    seconds: Float64Array.from(times),
    channels: channels.map(({ name, unit }, column) => ({
      name,
      unit,
      values: Float64Array.from(columns[column]!),
    })),
    bytes: 0,
    preamble: lost > 0 ? [`${lost} readings stayed without an answer`] : [],
    findings: [],
  }
}

async function asked(
  ask: (identifier: number) => Promise<Uint8Array>,
  identifier: number,
): Promise<Uint8Array> {
  try {
    return await ask(identifier)
  } catch (error) {
    if (!isProblem(error)) throw error
    return ask(identifier)
  }
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
