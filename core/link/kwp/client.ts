import { equalBytes, isProblem, Problem, type Clock, hexText } from '../../kernel'
import type { Transport } from '../isotp'
import { discardInput, readExactly, wireMs, type Port } from '../port'
import { decodeKwp, encodeKwp, kwpLength, longestKwp, usualShape, type KwpShape } from './frame'
import { readKeyBytes } from './key-bytes'
import { wakeFast, wakeSlowly } from './wake-up'

/** Who speaks with whom on the single wire, and how it is woken. */
export interface KwpForm {
  /** The controller's address, and ours. */
  target: number
  source: number
  wake: 'fast' | 'five-baud'
  /** How its messages look; what its key bytes say where nothing is said here. */
  shape?: KwpShape
  /** `standard` where it keeps the times of the standard and is not asked for quicker ones. */
  timing?: 'agreed' | 'standard'
}

/** Times of ISO 14230-2, clause 6, ms, until others are agreed on. */
export const kwpTimes = {
  /** Answer begins within P2. */
  answer: 50,
  /** Rest between answer and next request, P3. */
  rest: 55,
  /** Between two of the tester's bytes, P4. */
  byteGap: 5,
  /** Between two of the unit's bytes, P1. */
  unitByteGap: 20,
  /** An answer of a controller whose key bytes say so begins within this. */
  slowAnswer: 1000,
} as const

/** Messages to one controller on the single wire. */
export interface KwpTransport extends Transport {
  /** Wakes the controller and agrees on the quickest times. @throws Problem `kwp-no-wake`. */
  wake(): Promise<void>
}

/**
 * Messages over the single-wire line: tester and controller share one wire, so that we hear our own bytes; they must be
 * what we sent.
 * @param port open at 10 400 baud, 8N1.
 * @throws Problem `kwp-echo` when somebody else drives the line, `kwp-frame`.
 */
export function kwpTransport(port: Port, clock: Clock, form: KwpForm): KwpTransport {
  const { target, source } = form
  let byteGap: number = kwpTimes.byteGap
  let rest: number = kwpTimes.rest
  let shape = form.shape ?? usualShape
  let isSlow = false
  let quietFrom = 0

  const put = async (bytes: Uint8Array) => {
    const wait = quietFrom + rest - clock.now()
    if (wait > 0) await clock.sleep(wait)
    if (byteGap === 0) await port.write(bytes)
    else {
      for (const byte of bytes) {
        await port.write(Uint8Array.of(byte))
        await clock.sleep(byteGap)
      }
    }
    const echo = await readExactly(port, bytes.length, wireMs(bytes.length, port.settings) + 100)
    if (!echo || !equalBytes(echo, bytes)) {
      await discardInput(port, kwpTimes.unitByteGap)
      throw new Problem({
        kind: 'kwp-echo',
        thing: port.name,
        says: echo ? 'somebody else speaks on the line' : 'the line does not carry our own bytes back',
        remedy: echo
          ? 'Unplug every other tester.'
          : 'The adapter is not on the line: look at its connector and at the supply pin that feeds it.',
      })
    }
  }
  const take = async (timeoutMs: number): Promise<Uint8Array | null> => {
    let frame: Uint8Array = new Uint8Array(0)
    for (;;) {
      const due = kwpLength(frame)
      const byte = await port.read(
        due === null ? 1 : due - frame.length,
        frame.length === 0 ? timeoutMs : kwpTimes.unitByteGap + 5 + wireMs(1, port.settings),
      )
      if (!byte) {
        if (frame.length === 0) return null
        throw new Problem({
          kind: 'kwp-frame',
          thing: port.name,
          says: 'the message broke off',
          found: `${frame.length} bytes`,
          remedy: 'Ask again.',
        })
      }
      const more = new Uint8Array(frame.length + byte.length)
      more.set(frame)
      more.set(byte, frame.length)
      frame = more
      if (kwpLength(frame) === frame.length) {
        quietFrom = clock.now()
        return frame
      }
    }
  }
  const receive = async (timeoutMs: number): Promise<Uint8Array | null> => {
    const until = clock.now() + (isSlow ? Math.max(timeoutMs, 2 * kwpTimes.slowAnswer) : timeoutMs)
    for (;;) {
      const frame = await take(Math.max(0, until - clock.now()))
      if (!frame) return null
      const read = decodeKwp(frame)
      // Without addresses there is one controller alone on the line.
      if (read.target === undefined || (read.target === source && read.source === target)) return read.data
      if (clock.now() >= until) return null
    }
  }
  const send = (data: Uint8Array) => put(encodeKwp({ target, source, data }, shape))
  const ask = async (data: Uint8Array): Promise<Uint8Array> => {
    await send(data)
    const answer = await receive(300)
    if (answer?.[0] === data[0]! + 0x40 || answer?.[0] === 0x7f) return answer
    throw noWake(port.name, answer ? 'another answer' : 'silence')
  }
  /** What the controller said of its messages when it woke. */
  const hearKeys = (first: number | undefined, second: number | undefined) => {
    const told = readKeyBytes(first ?? 0, second ?? 0)
    shape = form.shape ?? told?.shape ?? usualShape
    isSlow = told?.isSlow ?? false
  }

  return {
    name: port.name,
    longest: () => longestKwp(shape),
    send,
    receive,
    clear: () => discardInput(port),
    async wake() {
      byteGap = kwpTimes.byteGap
      rest = kwpTimes.rest
      // The line must have rested 300 ms before it is woken (W5).
      await clock.sleep(300)
      await discardInput(port)
      try {
        if (form.wake === 'fast') {
          await wakeFast(port, clock)
          await discardInput(port)
          quietFrom = 0
          // Start of communication (clause 5.2.4.2): with addresses and without a length byte, whatever is agreed afterwards.
          shape = usualShape
          const [said, first, second] = await ask(Uint8Array.of(0x81))
          if (said !== 0xc1) throw noWake(port.name, 'a refusal')
          hearKeys(first, second)
        } else hearKeys(...(await keyBytes(port, clock, target)))
        if (form.timing === 'standard') return
        // Access timing parameters: set P2min 0, P2max 50, P3min 0, P3max 5 000, P4min 0 (clause 5.4).
        const [agreed] = await ask(Uint8Array.of(0x83, 0x03, 0, 2, 0, 20, 0))
        // One that keeps its times says so, and is spoken to by the standard's.
        if (agreed !== 0xc3) return
        byteGap = 0
        rest = 0
      } catch (error) {
        if (isProblem(error, 'kwp-frame')) throw noWake(port.name, 'noise')
        throw error
      }
    },
  }
}

/** Five baud: address out; 55 and two key bytes in; the second one's complement out; the address's complement in. */
async function keyBytes(port: Port, clock: Clock, address: number): Promise<[number, number]> {
  const byteMs = wireMs(1, port.settings)
  await wakeSlowly(port, clock, address)
  await discardInput(port)
  // W1: 60 to 300 ms until the 55; W2 and W3: 5 to 20 ms between the others.
  const sync = await port.read(1, 300 + byteMs)
  if (sync?.[0] !== 0x55) throw noWake(port.name, sync ? hexText(sync[0]!) : 'silence')
  const keys = await readExactly(port, 2, 50 + 2 * byteMs)
  if (!keys) throw noWake(port.name, 'no key bytes')
  // W4: 25 to 50 ms.
  await clock.sleep(30)
  const answer = Uint8Array.of(~keys[1]! & 255)
  await port.write(answer)
  const back = await readExactly(port, 2, 100 + 2 * byteMs)
  if (!back || back[0] !== answer[0] || back[1] !== (~address & 255))
    throw noWake(port.name, 'it did not confirm')
  return [keys[0]!, keys[1]!]
}

function noWake(thing: string, found: string): Problem {
  return new Problem({
    kind: 'kwp-no-wake',
    thing,
    says: 'the controller does not wake',
    found,
    remedy: 'Key off, count to ten, key on; then the line’s contact. Older units wake at five baud only.',
  })
}
