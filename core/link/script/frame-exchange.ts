import { fillSlots, matchHead, readEither, type LinkStepOf } from '../../family'
import { equalBytes, isProblem } from '../../kernel'
import type { ScriptBench } from './bench'
import { takeData } from './exchange'
import { noAnswer, refused, shownText } from './failures'
import { brokenFrame, decodeFrame, encodeFrame, frameEnd, unstuff } from './frame'

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
  const { dialect } = bench
  if (!dialect) throw new RangeError('a frame step, and the link describes no frame')
  const payload = fillSlots(readEither({ bytes: step.bytes }), bench.slots)
  const patterns = bench.compiled(step.answer)
  const tries = dialect.form.tries ?? 3
  bench.lastSent = shownText(bench, payload, 24)
  for (let attempt = 1; ; attempt++) {
    const out = encodeFrame(dialect, payload, bench.sequence)
    await bench.stream.discard()
    await bench.stream.port.write(out)
    bench.tell({ at, says: 'sent', sent: out })
    try {
      const answer = await readFrame(bench, step.withinMs, at, out)
      for (const pattern of patterns) {
        const slots = matchHead(pattern, answer)
        if (!slots) continue
        if (pattern.means === 'refused' || pattern.means === 'again') {
          throw refused(bench, at, String(slots['reason'] ?? pattern.says), pattern.means === 'again')
        }
        bench.sequence++
        Object.assign(bench.slots, slots)
        takeData(bench, slots)
        bench.tell({ at, says: `${pattern.says} came`, heard: answer })
        return
      }
      throw refused(bench, at, shownText(bench, answer, 24), false)
    } catch (error) {
      const passing = ['no-answer', 'frame-broken', 'unit-refused-for-now'].some((kind) =>
        isProblem(error, kind),
      )
      if (!passing || attempt >= tries || bench.clock.now() >= bench.deadlineAt) throw error
      bench.retries++
    }
  }
}

/** The payload of the next whole frame. @throws Problem `no-answer`, `frame-broken`. */
async function readFrame(bench: ScriptBench, ms: number, at: string, sent: Uint8Array): Promise<Uint8Array> {
  const dialect = bench.dialect!
  const until = Math.min(bench.clock.now() + ms, bench.deadlineAt)
  const { form, delimiter, head, tail } = dialect
  const longest = head + tail + form.maxPayload
  let held: number[] = []
  let echo = form.echo ?? false
  for (;;) {
    const bytes = await bench.stream.some(until)
    if (!bytes || bench.clock.now() > until) throw noAnswer(bench, at, 'a frame', ms)
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
      bench.stream.giveBack(bytes.subarray(index + 1))
      const read = whole ? decodeFrame(dialect, whole) : { fault: 'an escape in it stands before nothing' }
      if ('fault' in read) throw brokenFrame(bench.thing, read.fault)
      return read.payload
    }
  }
}

const echoes = (whole: Uint8Array, sent: Uint8Array, delimited: boolean, escape: string): boolean => {
  if (!delimited) return equalBytes(whole, sent)
  const bare = unstuff(sent.subarray(1, -1), escape as 'slip' | 'hdlc')
  return bare !== null && equalBytes(whole, bare)
}
