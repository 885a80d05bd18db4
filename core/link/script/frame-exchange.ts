import { fillSlots, matchHead, readEither, type LinkStepOf } from '../../family'
import { equalBytes, isProblem } from '../../kernel'
import type { ScriptBench } from './bench'
import { quiet, takeData } from './exchange'
import { noAnswer, refused, shownText } from './failures'
import { brokenFrame, decodeFrame, encodeFrame, frameEnd, numberOnWire, unstuff } from './frame'

/* One exchange of a framed dialect, with its repeats. */

/**
 * Sends a frame and takes the one that answers it.
 * @throws Problem where none comes, or one that refuses.
 */
export async function exchangeFrame(
  step: LinkStepOf<'frame'>,
  bench: ScriptBench,
  at: string,
): Promise<void> {
  const tries = dialectOf(bench).form.tries ?? 3
  await bench.stream.discard()
  for (let attempt = 1; ; attempt++) {
    const before = bench.sequence
    const out = await frameOut(step, bench, at)
    try {
      return await answerFrame(step, bench, at, out)
    } catch (error) {
      // It goes out again as it was: its number too.
      bench.sequence = before
      const passing = ['no-answer', 'frame-broken', 'unit-refused-for-now'].some((kind) =>
        isProblem(error, kind),
      )
      if (!passing || attempt >= tries || bench.clock.now() >= bench.deadlineAt) throw error
      bench.retries++
      // An answer that is only late would be taken for that to the next frame.
      if (isProblem(error, 'no-answer')) await quiet(bench, step.withinMs)
      else await bench.stream.discard()
    }
  }
}

function dialectOf({ dialect }: ScriptBench): NonNullable<ScriptBench['dialect']> {
  if (!dialect) throw new RangeError('a frame step, and the link describes no frame')
  return dialect
}

/** A frame that went out: its bytes, and its number. */
export interface FrameOut {
  bytes: Uint8Array
  sequence: number
}

/** Sends a frame with the next number. */
export async function frameOut(step: LinkStepOf<'frame'>, bench: ScriptBench, at: string): Promise<FrameOut> {
  const payload = fillSlots(readEither({ bytes: step.bytes }), bench.slots)
  bench.lastSent = shownText(bench, payload, 24)
  const sequence = bench.sequence++
  const bytes = encodeFrame(dialectOf(bench), payload, sequence)
  await bench.stream.port.write(bytes)
  bench.tell({ at, says: 'sent', sent: bytes })
  return { bytes, sequence }
}

/**
 * Takes the frame that answers one that went out.
 * @param severalUnderWay an answer with the number of another frame is let go.
 * @throws Problem `no-answer`, `frame-broken`, `unit-refused`, `unit-refused-for-now`.
 */
export async function answerFrame(
  step: LinkStepOf<'frame'>,
  bench: ScriptBench,
  at: string,
  out: FrameOut,
  severalUnderWay = false,
): Promise<void> {
  const patterns = bench.compiled(step.answer)
  const due = severalUnderWay ? numberOnWire(dialectOf(bench), out.sequence) : null
  const answer = await readFrame(bench, step.withinMs, at, out.bytes, due)
  for (const pattern of patterns) {
    const slots = matchHead(pattern, answer)
    if (!slots) continue
    if (pattern.means === 'refused' || pattern.means === 'again') {
      throw refused(bench, at, String(slots['reason'] ?? pattern.says), pattern.means === 'again')
    }
    Object.assign(bench.slots, slots)
    takeData(bench, slots)
    bench.tell({ at, says: `${pattern.says} came`, heard: answer })
    return
  }
  throw refused(bench, at, shownText(bench, answer, 24), false)
}

/** The payload of the next whole frame, or of the next with a number that is due. @throws Problem `no-answer`, `frame-broken`. */
async function readFrame(
  bench: ScriptBench,
  ms: number,
  at: string,
  sent: Uint8Array,
  due: number | null,
): Promise<Uint8Array> {
  const dialect = bench.dialect!
  const until = Math.min(bench.clock.now() + ms, bench.deadlineAt)
  const { form, delimiter, head, tail } = dialect
  const longest = head + tail + form.maxPayload
  let held: number[] = []
  let echo = form.echo ?? false
  for (;;) {
    const bytes = await bench.stream.some(until)
    if (!bytes) throw noAnswer(bench, at, 'a frame', ms)
    for (const [index, byte] of bytes.entries()) {
      let whole: Uint8Array | null
      if (delimiter !== null) {
        if (byte !== delimiter) {
          // Twice the longest at most: every byte may be stuffed.
          if (held.length < 2 * longest + 2) held.push(byte)
          continue
        }
        if (held.length === 0) continue
        whole = unstuff(Uint8Array.from(held), form.escape as 'slip' | 'hdlc')
        held = []
      } else {
        held.push(byte)
        let end = frameEnd(dialect, Uint8Array.from(held))
        // No frame begins here: from the next byte on.
        while (end === -1 && held.length > 0) {
          held.shift()
          end = frameEnd(dialect, Uint8Array.from(held))
        }
        if (end === null || held.length < end) continue
        whole = Uint8Array.from(held)
        held = []
      }
      if (echo && whole && echoes(whole, sent, delimiter !== null, form.escape)) {
        echo = false
        continue
      }
      const read = whole ? decodeFrame(dialect, whole) : { fault: 'an escape in it stands before nothing' }
      if ('payload' in read && due !== null && read.sequence !== due) continue
      bench.stream.giveBack(bytes.subarray(index + 1))
      if ('fault' in read) throw brokenFrame(bench.thing, read.fault)
      return read.payload
    }
    // A frame that lay there already counts, however late it is read; talk that is none does not hold the step.
    if (bench.clock.now() > until) throw noAnswer(bench, at, 'a frame', ms)
  }
}

const echoes = (whole: Uint8Array, sent: Uint8Array, delimited: boolean, escape: string): boolean => {
  if (!delimited) return equalBytes(whole, sent)
  const bare = unstuff(sent.subarray(1, -1), escape as 'slip' | 'hdlc')
  return bare !== null && equalBytes(whole, bare)
}
