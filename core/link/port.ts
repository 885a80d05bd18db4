import { Problem } from '../kernel'

/** How a serial line is set. Both ends must agree or only noise arrives. */
export interface SerialSettings {
  baudRate: number
  dataBits: 5 | 6 | 7 | 8
  /** `mark` is always one, `space` always zero: a ninth bit on some buses. */
  parity: 'none' | 'even' | 'odd' | 'mark' | 'space'
  stopBits: 1 | 2
  /** Who holds back whom: by the RTS and CTS lines, or by XON and XOFF among the bytes. Nobody when absent. */
  flow?: 'rts-cts' | 'xon-xoff'
  /** How the control lines stand once the port is open; as the system leaves them when absent. */
  lines?: { dtr?: boolean; rts?: boolean }
}

/** Control lines of a serial port; what is left out stays as it is. */
export interface ControlLines {
  dtr?: boolean
  rts?: boolean
  brk?: boolean
}

/**
 * Bytes to a unit and back. The real serial port and every stand-in implement this, and nothing above can tell
 * which it has.
 *
 * Guarantees:
 * - `read` resolves with 1 to `max` bytes, or with null when `timeoutMs` went by without one; never with an
 *   empty array. A timeout of 0 takes only what is already there; Infinity waits for ever.
 * - `open` on a port that is open sets the line anew and does not let the port go: control lines stay as they are,
 *   where the system can do that.
 * - `write` resolves when the last bit has left, as near as the system can tell.
 * - `close` makes a pending read fail with Problem `port-closed`; a device that goes away, with `port-lost`.
 * - One reader and one writer at a time.
 */
export interface Port {
  readonly name: string
  readonly settings: SerialSettings
  open(settings: SerialSettings): Promise<void>
  close(): Promise<void>
  read(max: number, timeoutMs: number): Promise<Uint8Array | null>
  write(bytes: Uint8Array): Promise<void>
  setLines(lines: ControlLines): Promise<void>
}

/** How a line is set, as a technician writes it: "57600 baud, 8N1". */
export const lineText = ({ baudRate, dataBits, parity, stopBits, flow }: SerialSettings): string =>
  `${baudRate} baud, ${dataBits}${parity[0]!.toUpperCase()}${stopBits}${flow ? `, ${flow === 'rts-cts' ? 'RTS/CTS' : 'XON/XOFF'}` : ''}`

/** Parities by the letter that a line's text has for each. */
const parityOf = { N: 'none', E: 'even', O: 'odd', M: 'mark', S: 'space' } as const

/** The settings of a line out of its text: the other way round; null where it is none. */
export function lineOf(text: string): SerialSettings | null {
  const found = /^(\d+) baud, ([5-8])([NEOMS])([12])(?:, (RTS\/CTS|XON\/XOFF))?$/.exec(text)
  if (!found) return null
  const [, baudRate, dataBits, letter, stopBits, flow] = found
  return {
    baudRate: Number(baudRate),
    dataBits: Number(dataBits) as SerialSettings['dataBits'],
    parity: parityOf[letter as keyof typeof parityOf],
    stopBits: Number(stopBits) as SerialSettings['stopBits'],
    ...(flow ? { flow: flow === 'RTS/CTS' ? ('rts-cts' as const) : ('xon-xoff' as const) } : {}),
  }
}

/** Bits a character takes on the wire: start, data, parity, stop. 8N1 is 10. */
export function bitsPerCharacter({ dataBits, parity, stopBits }: SerialSettings): number {
  return 1 + dataBits + (parity === 'none' ? 0 : 1) + stopBits
}

/** Milliseconds a number of characters takes on the wire, back to back. */
export function wireMs(characters: number, settings: SerialSettings): number {
  return (characters * bitsPerCharacter(settings) * 1000) / settings.baudRate
}

/** Exactly `count` bytes, or null when a silence of `timeoutMs` came before they were complete. */
export async function readExactly(port: Port, count: number, timeoutMs: number): Promise<Uint8Array | null> {
  const first = await port.read(count, timeoutMs)
  if (!first || first.length === count) return first
  const whole = new Uint8Array(count)
  whole.set(first)
  for (let at = first.length; at < count;) {
    const more = await port.read(count - at, timeoutMs)
    if (!more) return null
    whole.set(more, at)
    at += more.length
  }
  return whole
}

/** Throws away what has arrived, and what still arrives until the line was quiet for `quietMs`. */
export async function discardInput(port: Port, quietMs = 0): Promise<void> {
  while (await port.read(4096, quietMs)) {
    // What is read here is what the other side said before it was asked.
  }
}

/** A port that was let go, by us. */
export function portClosed(name: string): Problem {
  return new Problem({
    kind: 'port-closed',
    thing: name,
    says: 'the port was closed while it was read',
    remedy: 'Open it again.',
  })
}

/** A port that went away: cable, adapter or power. */
export function portLost(name: string, found?: string): Problem {
  return new Problem({
    kind: 'port-lost',
    thing: name,
    says: 'the port went away',
    ...(found ? { found } : {}),
    remedy: 'Push the plug home, wait until the port is listed again, then go on from where it was cut.',
  })
}
