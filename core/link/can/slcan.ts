import { asciiBytes, hexNumber, Problem, type Clock } from '../../kernel'
import type { Port } from '../port'
import type { CanFrame, CanPort } from './can-port'

/*
 * A CAN adapter behind a serial line, in the ASCII protocol of the Linux slcan line discipline (Linux kernel,
 * drivers/net/can/slcan): one letter, the identifier, the length and the data in hexadecimal, a carriage return.
 * `t4563112233` is identifier 456 with three bytes, `T12ABCDEF2AA55` one of 29 bits with two. `S6` sets 500 kbit/s,
 * `O` opens, `C` closes; the adapter answers with a carriage return, with `z` or `Z` before it to a frame, or with a
 * bell when it refuses.
 */
const CR = 0x0d
const BEL = 0x07

/** Bit rates by the digit after `S`. */
export const slcanRates = [
  10_000, 20_000, 50_000, 100_000, 125_000, 250_000, 500_000, 800_000, 1_000_000,
] as const

/** A frame as text, without the carriage return. */
export function encodeSlcan({ id, extended, data }: CanFrame): string {
  const head = extended ? `T${hexNumber(id, 8)}` : `t${hexNumber(id, 3)}`
  return `${head}${data.length}${[...data].map((byte) => hexNumber(byte, 2)).join('')}`
}

/** A frame from its text, or null when it is none: remote frames carry no data and are none here. */
export function decodeSlcan(text: string): CanFrame | null {
  const parts = /^(?:t([0-9A-F]{3})|T([0-9A-F]{8}))([0-8])((?:[0-9A-F]{2})*)$/i.exec(text)
  if (!parts) return null
  const [, short, long, length, digits = ''] = parts
  const id = parseInt(short ?? long!, 16)
  if (digits.length !== 2 * Number(length) || id > (long ? 0x1fffffff : 0x7ff)) return null
  const data = Uint8Array.from(digits.match(/../g) ?? [], (pair) => parseInt(pair, 16))
  return long ? { id, extended: true, data } : { id, data }
}

/** A CAN adapter that takes its orders as text. */
export interface SlcanPort extends CanPort {
  /** Sets the bit rate and joins the bus. @throws Problem `slcan-refused`, `slcan-silent`. */
  join(bitsPerSecond: number): Promise<void>
  leave(): Promise<void>
}

/**
 * The vehicle bus through such an adapter.
 * @param port open serial port; what comes in is split into frames and answers.
 * @param answerMs longest wait for the adapter's own answer.
 */
export function slcanPort(port: Port, clock: Pick<Clock, 'now'>, answerMs = 1000): SlcanPort {
  const frames: CanFrame[] = []
  const answers: ('done' | 'refused')[] = []
  let pending = ''

  /** Takes in what arrives within the time; true when something did. */
  const takeIn = async (timeoutMs: number): Promise<boolean> => {
    const bytes = await port.read(4096, timeoutMs)
    if (!bytes) return false
    for (const byte of bytes) {
      if (byte === BEL) {
        answers.push('refused')
        pending = ''
      } else if (byte === CR) {
        const frame = decodeSlcan(pending)
        if (frame) frames.push(frame)
        else if (pending === '' || pending === 'z' || pending === 'Z') answers.push('done')
        pending = ''
      } else if (pending.length < 32) pending += String.fromCharCode(byte)
    }
    return true
  }
  const command = async (text: string): Promise<void> => {
    answers.length = 0
    await port.write(asciiBytes(`${text}\r`))
    const until = clock.now() + answerMs
    while (answers.length === 0) {
      const left = until - clock.now()
      if (left <= 0 || !(await takeIn(left))) throw silent(port.name, text)
    }
    if (answers.shift() === 'refused') throw refused(port.name, text)
  }

  return {
    name: port.name,
    async join(bitsPerSecond) {
      const digit = slcanRates.indexOf(bitsPerSecond as (typeof slcanRates)[number])
      if (digit < 0) throw refused(port.name, `${bitsPerSecond} bit/s`)
      // An adapter that was left open refuses a new rate, so it is closed first; one that was closed may refuse that.
      await command('C').catch(() => {})
      await command(`S${digit}`)
      await command('O')
    },
    async leave() {
      await command('C')
    },
    send: (frame) => command(encodeSlcan(frame)),
    async receive(timeoutMs) {
      const until = clock.now() + timeoutMs
      while (frames.length === 0) {
        const left = Math.max(0, until - clock.now())
        if (!(await takeIn(left))) return null
        // A stream of bytes that are no frames must not hold the caller past its time.
        if (frames.length === 0 && clock.now() > until) return null
      }
      return frames.shift()!
    },
  }
}

function refused(thing: string, found: string): Problem {
  return new Problem({
    kind: 'slcan-refused',
    thing,
    says: 'the adapter refuses the command',
    found,
    remedy:
      'Look whether this bit rate is one it knows; unplug the adapter, count to five, plug it in again.',
  })
}

function silent(thing: string, found: string): Problem {
  return new Problem({
    kind: 'slcan-silent',
    thing,
    says: 'the adapter does not say that the frame went out',
    found,
    remedy:
      'Nobody acknowledges on the bus: key on, connector home, termination, and is it the right bit rate?',
  })
}
