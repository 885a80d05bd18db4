import type { Finding } from '@bench-wake/core/kernel'
import {
  agreedLog,
  alignBy,
  binFigures,
  channelNamed,
  columnEdges,
  columnsOf,
  CsvLogReader,
  errorOf,
  Extremes,
  logPicture,
  rangeOf,
  roundBreakpoints,
  rowAt,
  summarizeLog,
  type Aim,
  type CaseAgreement,
  type Condition,
  type Log,
  type LogSummary,
} from '@bench-wake/core/rounds'
import { answerDesk, sayProgress } from './answer-desk'

interface Held {
  log: Log
  extremes: Map<string, Extremes>
}
const held = new Map<string, Held>()

function holding(id: string): Held {
  const log = held.get(id)
  if (!log) throw new Error(`log ${id} was not opened`)
  return log
}

/** Everything that looks at a log's figures on a page: beside the page, so that it never waits. */
const acts = {
  /** Fetches a log and reads it as it comes, saying how far it is. */
  async open(
    id: string,
    url: string,
    agreement: CaseAgreement | null,
  ): Promise<LogSummary & { findings: Finding[] }> {
    const answer = await fetch(url)
    if (!answer.ok || !answer.body) throw new Error(((await answer.json()) as { detail: string }).detail)
    const totalBytes = Number(answer.headers.get('content-length') ?? 0)
    const reader = new CsvLogReader({ totalBytes })
    const body = answer.body.getReader()
    let taken = 0
    for (;;) {
      const { done, value } = await body.read()
      if (done || reader.stopped) break
      reader.push(value)
      taken += value.length
      if (totalBytes > 0) sayProgress(Math.min(1, taken / totalBytes))
    }
    const read = reader.finish()
    const log = agreement ? agreedLog(read, agreement) : read
    held.set(id, {
      log,
      extremes: new Map(log.channels.map(({ name, values }) => [name, new Extremes(values)])),
    })
    return { ...summarizeLog(log), findings: log.findings }
  },
  /** Lowest and highest figure of each channel on so many columns of the screen, two figures a column. */
  async columns(
    id: string,
    names: string[],
    from: number,
    to: number,
    columns: number,
  ): Promise<Float64Array[]> {
    const { log, extremes } = holding(id)
    const edges = columnEdges(log.seconds, from, to, columns)
    return names.map((name) => {
      // Of a channel that this log lacks there is nothing to draw.
      const own = extremes.get(channelNamed(log, name)?.name ?? '')
      return own ? columnsOf(own, edges) : new Float64Array(0)
    })
  },
  /** What every channel reads at a time: the row at or after it. */
  async at(
    id: string,
    second: number,
  ): Promise<{ second: number; figures: Record<string, number | null> } | null> {
    const { log } = holding(id)
    const row = Math.min(rowAt(log.seconds, second), log.seconds.length - 1)
    if (row < 0) return null
    return {
      second: log.seconds[row]!,
      figures: Object.fromEntries(
        log.channels.map(({ name, values }) => [name, Number.isNaN(values[row]!) ? null : values[row]!]),
      ),
    }
  },
  /** A channel, or the error to the aim, by the cells of a map; breakpoints are round where none are given. */
  async map(
    id: string,
    what: { channel: string } | { aim: Aim },
    x: { channel: string; points: number[] | null },
    y: { channel: string; points: number[] | null },
  ) {
    const { log } = holding(id)
    const values = 'aim' in what ? errorOf(log, what.aim) : channelNamed(log, what.channel)?.values
    const alongX = channelNamed(log, x.channel)
    const alongY = channelNamed(log, y.channel)
    if (!values || !alongX || !alongY) return null
    const points = (given: number[] | null, along: Float64Array) => {
      if (given) return given
      const { min, max } = rangeOf(along)
      return roundBreakpoints(min, max, 10)
    }
    const map = binFigures(
      values,
      { x: alongX.values, y: alongY.values },
      points(x.points, alongX.values),
      points(y.points, alongY.values),
    )
    return {
      x: [...map.x],
      y: [...map.y],
      count: [...map.count],
      mean: Array.from(map.mean, (each) => (Number.isNaN(each) ? null : each)),
      spread: Array.from(map.spread, (each) => (Number.isNaN(each) ? null : each)),
    }
  },
  /** Points of two channels against each other: every row of a short log, an even selection of a long one. */
  async scatter(id: string, x: string, y: string, max: number): Promise<[number, number][]> {
    const { log } = holding(id)
    const a = channelNamed(log, x)?.values
    const b = channelNamed(log, y)?.values
    if (!a || !b) return []
    const stride = Math.max(1, Math.ceil(a.length / max))
    const points: [number, number][] = []
    for (let row = 0; row < a.length; row += stride)
      if (!Number.isNaN(a[row]!) && !Number.isNaN(b[row]!)) points.push([a[row]!, b[row]!])
    return points
  },
  /** Seconds that the second log is moved by, so that both stand where a condition first held longest. */
  async align(first: string, second: string, condition: Omit<Condition, 'seconds'>): Promise<number | null> {
    return alignBy(holding(first).log, holding(second).log, condition)
  },
  async picture(id: string, names: string[], title: string): Promise<string> {
    return logPicture(holding(id).log, names, title)
  },
}
export type LogActs = typeof acts

answerDesk(acts)
