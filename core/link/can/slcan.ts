import { asciiBytes, hexNumber, Problem, type Clock } from '../../kernel'
import type { Port } from '../port'
import type { CanFrame, CanPort } from './can-port'

/*
 * A CAN adapter behind a serial line, in the ASCII protocol of the Linux slcan line discipline (Linux kernel,
 * drivers/net/can/slcan): one letter, the identifier, the length and the data in hexadecimal, a carriage return.
 * `t4563112233` is identifier 456 with three bytes, `T12ABCDEF2AA55` one of 29 bits with two. `S6` sets 500 kbit/s,
 * `O` opens, `C` closes; the adapter answers with a carriage return, with `z` or `Z` before it to a frame, or with a
 * bell when it refuses. Some put a time stamp behind a frame, four digits of milliseconds. `sb256000` tells the state of
 * its controller (a active, w warning, p passive, b off the bus) with its two error counters, `e1a` errors on the wire,
 * a letter each (states and errors as the kernel's driver reads them, from memory).
 */
const CR = 0x0d
const BEL = 0x07

/** Digits of a time stamp behind a frame. */
const stampDigits = 4

/** Bit rates by the digit after `S`. */
export const slcanRates = [
  10_000, 20_000, 50_000, 100_000, 125_000, 250_000, 500_000, 800_000, 1_000_000,
] as const

/** A frame as text, without the carriage return. */
export function encodeSlcan({ id, extended, data }: CanFrame): string {
  const head = extended ? `T${hexNumber(id, 8)}` : `t${hexNumber(id, 3)}`
  return `${head}${data.length}${[...data].map((byte) => hexNumber(byte, 2)).join('')}`
}

/** A frame from its text, or null when it is none: remote frames carry no data and are none here. A time stamp is left out. */
export function decodeSlcan(text: string): CanFrame | null {
  const parts = /^(?:t([0-9A-F]{3})|T([0-9A-F]{8}))([0-8])((?:[0-9A-F]{2})*)$/i.exec(text)
  if (!parts) return null
  const [, short, long, length, behind = ''] = parts
  const id = parseInt(short ?? long!, 16)
  const own = 2 * Number(length)
  const digits = behind.slice(0, own)
  const isStamped = behind.length === own + stampDigits
  if ((behind.length !== own && !isStamped) || id > (long ? 0x1fffffff : 0x7ff)) return null
  const data = Uint8Array.from(digits.match(/../g) ?? [], (pair) => parseInt(pair, 16))
  return long ? { id, extended: true, data } : { id, data }
}

/** How an adapter's controller stands on the bus (ISO 11898-1, 12.1.4): each later one sends or hears less. */
export type BusState = 'active' | 'warning' | 'passive' | 'off'

/** What an adapter says of the bus by itself. */
export type BusNotice = { state: BusState } | { errors: string[] }

const busStates: Record<string, BusState> = { a: 'active', w: 'warning', p: 'passive', b: 'off' }
const wireErrors: Record<string, string> = {
  a: 'nobody acknowledged',
  b: 'a bit that was sent low was heard high',
  B: 'a bit that was sent high was heard low',
  c: 'a checksum does not hold',
  f: 'a frame of the wrong form',
  o: 'the adapter lost frames that came',
  O: 'the adapter lost frames that were to go out',
  s: 'too many equal bits in a row',
}

/** A state or errors of the bus from their text; null when it is neither. */
export function busNotice(text: string): BusNotice | null {
  const state = /^s([awpb])\d{6}$/.exec(text)
  if (state) return { state: busStates[state[1]!]! }
  const errors = /^e([1-8])([abBcfoOs]+)$/.exec(text)
  if (!errors || errors[2]!.length !== Number(errors[1])) return null
  return { errors: [...new Set(errors[2])].map((letter) => wireErrors[letter]!) }
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
  let state: BusState = 'active'
  /** What went wrong on the wire since the last frame that came or went, each once. */
  const errors = new Set<string>()
  const isWell = () => errors.clear()

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
        const notice = frame ? null : busNotice(pending)
        if (frame) {
          frames.push(frame)
          isWell()
        } else if (notice && 'state' in notice) state = notice.state
        else if (notice) for (const error of notice.errors) errors.add(error)
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
      if (state === 'off') throw offTheBus(port.name, errors)
      if (left <= 0 || !(await takeIn(left))) throw silent(port.name, text, errors)
    }
    if (answers.shift() === 'refused') throw refused(port.name, text)
  }

  return {
    name: port.name,
    async join(bitsPerSecond) {
      const digit = slcanRates.indexOf(bitsPerSecond as (typeof slcanRates)[number])
      if (digit < 0) throw refused(port.name, `${bitsPerSecond} bit/s`)
      // An adapter that was left open refuses a new rate, so it is closed first; one that was closed may refuse that.
      // It comes back to the bus with its counters at nought. First that: a command that is broken off leaves its answer to the next.
      state = 'active'
      isWell()
      await command('C').catch(() => {})
      await command(`S${digit}`)
      await command('O')
    },
    async leave() {
      await command('C')
    },
    async send(frame) {
      await command(encodeSlcan(frame))
      isWell()
    },
    async receive(timeoutMs) {
      const until = clock.now() + timeoutMs
      while (frames.length === 0) {
        if (state === 'off') throw offTheBus(port.name, errors)
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

function offTheBus(thing: string, errors: ReadonlySet<string>): Problem {
  return new Problem({
    kind: 'can-bus-off',
    thing,
    says: 'the adapter met so many errors that it went off the bus',
    ...(errors.size === 0 ? {} : { found: [...errors].join('; ') }),
    remedy:
      'Look at the bit rate, at high and low that are swapped, and at the termination; then start again: the adapter joins the bus anew.',
  })
}

function silent(thing: string, sent: string, errors: ReadonlySet<string>): Problem {
  return new Problem({
    kind: 'slcan-silent',
    thing,
    says: 'the adapter does not say that the frame went out',
    found: [sent, ...errors].join('; '),
    remedy:
      'Nobody acknowledges on the bus: key on, connector home, termination, and is it the right bit rate?',
  })
}
