import type { LinkStepOf } from '../../family'
import {
  fillSlots,
  Matcher,
  readEither,
  readText,
  type Compiled,
  type Found,
  type SlotValue,
} from '../../family'
import { asciiText, concatBytes } from '../../kernel'
import type { ScriptBench } from './bench'
import { heardText, noAnswer, refused, shownText } from './failures'

/* Sending, and waiting for an answer. */

/** A text with its slots filled. */
export const slotText = (text: string, bench: ScriptBench): string =>
  asciiText(fillSlots(readText(text), bench.slots))

/** Waits no longer than the operation may last. */
export function pause(bench: ScriptBench, ms: number): Promise<void> {
  return ms <= 0
    ? Promise.resolve()
    : bench.clock.sleep(Math.min(ms, Math.max(0, bench.deadlineAt - bench.clock.now())))
}

/**
 * Sends what the step says.
 * @throws Problem where an echo does not come.
 */
export async function send(step: LinkStepOf<'send'>, bench: ScriptBench, at: string): Promise<void> {
  const bytes = fillSlots(readEither(step as { text?: string; bytes?: string }), bench.slots)
  const { port } = bench.stream
  bench.lastSent = shownText(bench, bytes, 40)
  bench.stream.forget()
  if (step.characterPauseMs || step.echoWithinMs) {
    for (const byte of bytes) {
      await port.write(Uint8Array.of(byte))
      if (step.echoWithinMs) await awaitEcho(byte, step.echoWithinMs, bench, at)
      await pause(bench, step.characterPauseMs ?? 0)
    }
  } else await port.write(bytes)
  bench.tell({ at, says: 'sent', sent: bytes })
}

async function awaitEcho(byte: number, ms: number, bench: ScriptBench, at: string): Promise<void> {
  const until = Math.min(bench.clock.now() + ms, bench.deadlineAt)
  for (;;) {
    const bytes = await bench.stream.some(until)
    if (!bytes) throw noAnswer(bench, at, `the echo of ${heardText(Uint8Array.of(byte))}`, ms)
    const found = bytes.indexOf(byte)
    if (found < 0) continue
    bench.stream.giveBack(bytes.subarray(found + 1))
    return
  }
}

/** What is awaited, in words. */
export const awaitedText = (patterns: readonly Compiled[]) =>
  patterns
    .filter(({ means }) => means === 'go')
    .map(({ says }) => says)
    .join(' or ')

/**
 * Waits for one of several patterns. Busy and progress are told and waited on: the whole wait has one deadline, so that a
 * unit that chatters cannot hold it.
 * @param silenceMs longest silence within the wait.
 * @returns the match that goes on; null when the time was over, or nothing came for so long.
 * @throws Problem `unit-refused`, `unit-refused-for-now`.
 */
export async function awaitOne(
  patterns: readonly Compiled[],
  ms: number,
  bench: ScriptBench,
  at: string,
  silenceMs = Infinity,
): Promise<(Found & { before: Uint8Array }) | null> {
  const until = Math.min(bench.clock.now() + ms, bench.deadlineAt)
  let matcher = new Matcher(patterns)
  let fed: Uint8Array[] = []
  for (;;) {
    const bytes = await bench.stream.some(Math.min(until, bench.clock.now() + silenceMs))
    if (!bytes) return null
    let used = false
    for (let index = 0; index < bytes.length && !used; index++) {
      const found = matcher.feed(bytes[index]!)
      if (!found) continue
      Object.assign(bench.slots, found.slots)
      const before = concatBytes([...fed, bytes.subarray(0, index + 1)]).subarray(0, found.start)
      bench.stream.giveBack(bytes.subarray(index + 1))
      const { means } = found.pattern
      if (means === 'refused' || means === 'again') {
        const { reason } = found.slots
        throw refused(
          bench,
          at,
          reason === undefined ? found.pattern.says : String(reason),
          means === 'again',
        )
      }
      bench.tell({ at, says: `${found.pattern.says} came`, heard: bench.stream.heard() })
      if (means === 'go') return { ...found, before }
      if (means === 'progress') {
        const { done, total } = found.slots
        await bench.report({
          done: Number(done),
          total: Number(total),
          unit: 'sectors',
          retries: bench.retries,
        })
      }
      matcher = new Matcher(patterns)
      fed = []
      used = true
    }
    // What was fed is the text before the match; no more of it is kept than a page.
    if (!used && fed.reduce((sum, { length }) => sum + length, 0) < 65_536) fed.push(bytes)
    if (bench.clock.now() > until) return null
  }
}

/**
 * Awaits one of several texts.
 * @throws Problem where none comes in time, or one that refuses.
 */
export async function expect(step: LinkStepOf<'expect'>, bench: ScriptBench, at: string): Promise<void> {
  const patterns = bench.compiled(step.patterns)
  const before = bench.clock.now()
  const found = await awaitOne(patterns, step.withinMs, bench, at, step.silenceMs)
  if (!found) throw noAnswer(bench, at, awaitedText(patterns), bench.clock.now() - before)
  takeData(bench, found.slots)
}

/** What a unit gives out under the name `data` is what was asked for. */
export function takeData(bench: ScriptBench, { data }: Readonly<Record<string, SlotValue>>): void {
  if (bench.into && data instanceof Uint8Array) put(bench, data)
}

/** Puts what was read where it belongs; what lies beyond the piece is left out. */
export function put(bench: ScriptBench, data: Uint8Array, offset?: number): void {
  const { into, piece, range } = bench
  if (!into || !piece || !range) return
  const at = piece.address - range.address + (offset ?? bench.filled)
  const end = piece.address - range.address + piece.length
  into.set(data.subarray(0, Math.max(0, end - at)), at)
  bench.filled = Math.max(bench.filled, at + data.length - (piece.address - range.address))
}

/**
 * Takes lines until a text that ends them.
 * @throws Problem where it does not come in time.
 */
export async function page(step: LinkStepOf<'page'>, bench: ScriptBench, at: string): Promise<void> {
  const patterns = bench.compiled(step.until)
  const found = await awaitOne(patterns, step.withinMs, bench, at)
  if (!found) throw noAnswer(bench, at, awaitedText(patterns), step.withinMs)
  const lines = asciiText(found.before)
    .split(/[\r\n]+/)
    .map((line) => line.trim())
    .filter((line) => line !== '')
  // The first line may be the command as the unit echoes it.
  const echo = bench.lastSent.replace(/^"|(\\r|\\n)*"$/g, '')
  if (echo !== '' && lines[0]?.endsWith(echo)) lines.shift()
  bench.lines.push(...lines)
}

/** Waits as long as an answer may take, and lets go what comes: what is sent next is not answered by it. */
export async function quiet(bench: ScriptBench, ms: number): Promise<void> {
  await bench.stream.discard()
  const until = Math.min(bench.clock.now() + ms, bench.deadlineAt)
  while (bench.clock.now() < until && (await bench.stream.some(until))) {
    // An answer to a piece that goes out again.
  }
  bench.stream.forget()
}
