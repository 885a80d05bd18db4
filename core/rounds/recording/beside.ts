import * as v from 'valibot'
import { LineSettings } from '../../family'
import { isProblem, Problem, type Clock } from '../../kernel'
import { askedLineScript, PageScript } from '../../link'
import { figureOfLine, type ShownLines } from './row-source'
import type { ReadChannel } from './channel-source'

/** A second device beside the unit that is logged, on a serial line of its own: a wideband reading (PRACTICE K3). */
export const BesideDevice = v.strictObject({
  name: v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(80)),
  line: LineSettings,
  script: PageScript,
})
export type BesideDevice = v.InferOutput<typeof BesideDevice>

/** Reads what is written down of a second device. @throws Problem `beside-device` that names the first faulty field. */
export function readBesideDevice(document: unknown): BesideDevice {
  const { success, output, issues } = v.safeParse(BesideDevice, document)
  if (success) return output
  const [first] = issues
  throw new Problem({
    kind: 'beside-device',
    place: { at: `agreement.beside.${v.getDotPath(first) ?? ''}`.replace(/\.$/, '') },
    says: first.received === 'undefined' ? 'it is missing' : first.message,
    remedy: 'Put this right and save it again.',
  })
}

/** A second device to begin with: one that says its line by itself. */
export const beginBeside = (): BesideDevice => ({
  name: 'Wideband',
  line: { baudRate: 9600, dataBits: 8, parity: 'none', stopBits: 1 },
  script: askedLineScript({ sends: '', lineEnd: '\r', answer: '{lambda}', withinMs: 1000 }),
})

/** What a device showed at a moment of the clock, ms. */
export interface Shown {
  at: number
  lines: ShownLines
}

/** A device that does not answer is asked again after this long, ms. */
const silentRestMs = 250
/** It is asked no more often than this, ms. */
const minStepMs = 10

/** Asks a device again and again beside whatever else goes on. */
export class BesideWatch {
  readonly shown: Shown[] = []
  #over = false
  readonly #done: Promise<void>

  /** @param ask what it shows now. @throws nothing: what went wrong shows as figures that are missing. */
  constructor(ask: () => Promise<ShownLines>, clock: Pick<Clock, 'now' | 'sleep'>) {
    this.#done = this.#watch(ask, clock)
  }

  latest(): ShownLines | null {
    return this.shown.at(-1)?.lines ?? null
  }

  /** Resolves when the question that is under way is over. */
  async end(): Promise<void> {
    this.#over = true
    await this.#done
  }

  async #watch(ask: () => Promise<ShownLines>, clock: Pick<Clock, 'now' | 'sleep'>): Promise<void> {
    while (!this.#over) {
      const from = clock.now()
      try {
        const lines = await ask()
        this.shown.push({ at: clock.now(), lines })
        await clock.sleep(minStepMs - (clock.now() - from))
      } catch (error) {
        if (!isProblem(error)) throw error
        // Its cable is off: it is not asked any more, and the log says which rows have no figure of it.
        if (error.facts.kind.startsWith('port-')) return
        await clock.sleep(silentRestMs)
      }
    }
  }
}

/** Two readings further apart than this many usual steps have nothing between them. */
const maxSteps = 3
/** Readings closer than this always belong together, ms. */
const closeMs = 300

/**
 * A channel of a second device at the times of the rows: in proportion between the readings before and behind, and none
 * where they are further apart than three usual steps, or where there is none on one side close by.
 * @param times of the rows, ms, rising.
 */
export function joinByTime(
  times: readonly number[],
  shown: readonly Shown[],
  { read }: ReadChannel,
): number[] {
  if (!('beside' in read)) throw new TypeError('the channel is the unit’s own')
  const readings = shown
    .map(({ at, lines }) => ({ at, figure: figureOfLine(lines, read.beside, read) }))
    .filter(({ figure }) => !Number.isNaN(figure))
  const steps = readings.slice(1).map(({ at }, index) => at - readings[index]!.at)
  const usual = steps.sort((a, b) => a - b)[steps.length >> 1] ?? 0
  const maxMs = Math.max(closeMs, maxSteps * usual)
  let next = 0
  return times.map((time) => {
    while (next < readings.length && readings[next]!.at < time) next++
    const [before, behind] = [readings[next - 1], readings[next]]
    if (behind?.at === time) return behind.figure
    if (before && behind) {
      if (behind.at - before.at > maxMs) return NaN
      return before.figure + ((behind.figure - before.figure) * (time - before.at)) / (behind.at - before.at)
    }
    const only = before ?? behind
    return only && Math.abs(only.at - time) <= maxMs / 2 ? only.figure : NaN
  })
}
