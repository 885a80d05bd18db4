import { isProblem, type Clock } from '../../kernel'
import { isSilence, type DataStream } from '../../link'
import { figureIn } from '../definition'
import type { SendRate } from '../quality'
import { isBytes, type ByteSource, type ReadChannel } from './channel-source'

/** A row that was read: when, ms of the clock, and the figures in the order of their channels, NaN where there is none. */
export interface Row {
  at: number
  figures: number[]
  /** Why the rest of the row is empty: nobody answered. */
  silence?: unknown
}

/** Gives row after row of the unit's own channels. @throws Problem of the link. */
export type RowSource = () => Promise<Row>

/** What a unit or a device shows, by the name of its lines. */
export type ShownLines = ReadonlyMap<string, string>

/** Ways in which a link gives figures; each absent where it does not. */
export interface LiveLink {
  /** Bytes of a data identifier. */
  ask?(identifier: number): Promise<Uint8Array>
  /** What the unit shows now. */
  show?(): Promise<ShownLines>
}

/** The first figure of a text: `0.98`, `12,41 V`, `lambda -0.5`; NaN where it has none. */
export function figureOfText(text: string | undefined): number {
  const [found] = /[-+]?(?:\d+(?:[.,]\d+)?|[.,]\d+)(?:e[-+]?\d+)?/i.exec(text ?? '') ?? []
  return found === undefined ? NaN : Number(found.replace(',', '.'))
}

/** A line's text as a figure. */
export const figureOfLine = (
  lines: ShownLines,
  name: string,
  { scale, offset }: { scale: number; offset: number },
): number => figureOfText(lines.get(name)) * scale + offset

/**
 * Asks for one channel after the other. A question that stays without an answer, or is refused, is asked once more; then its
 * place in the row stays empty.
 */
export function askedRows(
  { ask, show }: LiveLink,
  clock: Pick<Clock, 'now'>,
  channels: readonly ReadChannel[],
): RowSource {
  return async () => {
    const at = clock.now()
    const figures: number[] = []
    let shown: ShownLines | null | undefined
    let silence: unknown
    const answerOf = async <T>(question: () => Promise<T>): Promise<T | null> => {
      try {
        return await twice(question)
      } catch (error) {
        if (isSilence(error)) silence = error
        else if (!isProblem(error, 'uds-refused') && !isProblem(error, 'unit-refused')) throw error
        return null
      }
    }
    for (const { read } of channels) {
      if (isBytes(read)) {
        const bytes = ask ? await answerOf(() => ask(read.identifier)) : null
        figures.push(bytes ? figureIn(bytes, read.at, read) : NaN)
      } else if ('line' in read) {
        // One look tells every line of it.
        if (shown === undefined) shown = show ? await answerOf(show) : null
        figures.push(shown ? figureOfLine(shown, read.line, read) : NaN)
      } else figures.push(NaN)
      // Where one question met silence the rest of the row would wait as long again.
      if (silence) break
    }
    while (figures.length < channels.length) figures.push(NaN)
    return { at, figures, ...(silence === undefined ? {} : { silence }) }
  }
}

async function twice<T>(question: () => Promise<T>): Promise<T> {
  try {
    return await question()
  } catch (error) {
    if (!isProblem(error)) throw error
    return question()
  }
}

/** The unit's time between two messages of each rate, ms. */
export type RatePeriods = Partial<Record<SendRate, number>>

/** A figure is taken for the row as long as it is no older than so many of its periods. */
const heldPeriods = 1.5

/**
 * Rows of what the unit sends by itself: one with each message of the quickest channel, the others as they came last. A
 * figure that is older than its rate allows is none.
 */
export function sentRows(
  stream: Pick<DataStream, 'next'>,
  clock: Pick<Clock, 'now'>,
  channels: readonly ReadChannel[],
  periods: RatePeriods,
): RowSource {
  const sources = channels.map(({ read }) => (isBytes(read) ? read : null))
  const periodOf = ({ rate }: ByteSource) => periods[rate!]!
  const [first, ...others] = sources.filter((source) => source !== null)
  const pace = others.reduce(
    (quickest, each) => (periodOf(each) < periodOf(quickest) ? each : quickest),
    first!,
  )
  const waitMs = 5 * Math.max(...sources.map((source) => (source ? periodOf(source) : 0)))
  const came = new Map<number, { at: number; bytes: Uint8Array }>()
  return async () => {
    for (;;) {
      const message = await stream.next(waitMs).catch((error: unknown) => {
        if (isSilence(error)) return { silence: error }
        throw error
      })
      const at = clock.now()
      if ('silence' in message) return { at, figures: channels.map(() => NaN), silence: message.silence }
      came.set(message.identifier, { at, bytes: message.bytes })
      if (message.identifier !== pace.identifier) continue
      const figures = sources.map((source) => {
        const last = source && came.get(source.identifier)
        return last && at - last.at <= heldPeriods * periodOf(source)
          ? figureIn(last.bytes, source.at, source)
          : NaN
      })
      return { at, figures }
    }
  }
}
