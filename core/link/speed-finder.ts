import { asciiBytes, asciiText, type Clock } from '../kernel'
import { discardInput, type Port, type SerialSettings } from './port'

/** Speeds that service jacks usually have, most usual first (common practice). */
export const usualSpeeds = [
  115_200, 9600, 57_600, 38_400, 19_200, 230_400, 4800, 2400, 460_800, 1200,
] as const

/** What came at one speed. */
export interface HeardAt {
  settings: SerialSettings
  bytes: Uint8Array
  /** What of it is text, 0 to 1; null where nothing came. */
  readable: number | null
}

/** Bytes that a text of a console is made of: printed characters, tab and line ends. */
const isTextByte = (byte: number) => (byte >= 32 && byte < 127) || byte === 9 || byte === 10 || byte === 13

/**
 * How much of what came is text, 0 to 1. At a wrong speed the same bits are other bytes: of any 256 values 98 are text, so
 * that noise seldom comes above a half. Letters, digits and blanks count for all, other signs for half.
 */
export function readableShare(bytes: Uint8Array): number | null {
  if (bytes.length === 0) return null
  const worth = bytes.reduce((sum, byte) => {
    if (!isTextByte(byte)) return sum
    return sum + (/[\w \r\n\t.:=>]/.test(String.fromCharCode(byte)) ? 1 : 0.5)
  }, 0)
  return worth / bytes.length
}

/**
 * Seven bits and a parity bit are heard as eight bits without one: the eighth is then the parity of the seven.
 * @returns the parity that holds for all bytes, where the seven bits are text; null where they are not.
 */
export function sevenBitParity(bytes: Uint8Array): 'even' | 'odd' | null {
  if (bytes.length < minBytes) return null
  const ones = (byte: number) => byte.toString(2).replaceAll('0', '').length
  const seven = bytes.map((byte) => byte & 0x7f)
  if ((readableShare(seven) ?? 0) < enough) return null
  if (bytes.every((byte) => ones(byte) % 2 === 0)) return 'even'
  return bytes.every((byte) => ones(byte) % 2 === 1) ? 'odd' : null
}

/** Fewer bytes tell nothing: a single one is text by chance. */
const minBytes = 4
/** How often a unit is asked at each speed. */
const asks = 3
/** Share of text from which a speed gives sense. */
const enough = 0.85

/** How a speed is searched for. */
export interface SpeedSearch {
  speeds?: readonly number[]
  /** How long each speed is listened at, ms. */
  eachMs: number
  /** What is sent at each speed to make the unit speak; empty where it is only listened to. */
  sends: string
  onHeard?: (heard: HeardAt) => void
}

/**
 * Listens at one speed after the other. The port stays open: a board that a control line resets is not reset by it.
 * @param port open.
 * @returns what came at each, in order.
 */
export async function findSpeed(
  port: Port,
  clock: Pick<Clock, 'now'>,
  { speeds = usualSpeeds, eachMs, sends, onHeard }: SpeedSearch,
): Promise<HeardAt[]> {
  const all: HeardAt[] = []
  for (const baudRate of speeds) {
    const settings: SerialSettings = { ...port.settings, baudRate, dataBits: 8, parity: 'none' }
    await port.open(settings)
    await discardInput(port)
    const parts: number[] = []
    // A prompt alone is two or three characters: asked a few times it tells more than by chance.
    for (let ask = 1; ask <= asks; ask++) {
      if (sends !== '') await port.write(asciiBytes(sends))
      const until = clock.now() + eachMs / asks
      for (let left = eachMs / asks; left > 0 && parts.length < 4096; left = until - clock.now()) {
        const bytes = await port.read(4096, left)
        if (bytes) parts.push(...bytes)
      }
    }
    const heard = readAs(settings, Uint8Array.from(parts))
    all.push(heard)
    onHeard?.(heard)
  }
  return all
}

function readAs(settings: SerialSettings, bytes: Uint8Array): HeardAt {
  const parity = sevenBitParity(bytes)
  // Plain text has its eighth bit clear: only where it is set somewhere it is a parity.
  if (parity === null || bytes.every((byte) => byte < 0x80))
    return { settings, bytes, readable: readableShare(bytes) }
  const seven = bytes.map((byte) => byte & 0x7f)
  return { settings: { ...settings, dataBits: 7, parity }, bytes: seven, readable: readableShare(seven) }
}

/** The speed that gives sense: text, and the most of it. Null where none does: nothing came, or nothing that can be read. */
export function bestSpeed(heard: readonly HeardAt[]): HeardAt | null {
  const sensible = heard.filter(
    ({ bytes, readable }) => bytes.length >= minBytes && readable !== null && readable >= enough,
  )
  return sensible.reduce<HeardAt | null>(
    (best, each) =>
      best === null || each.readable! * each.bytes.length > best.readable! * best.bytes.length ? each : best,
    null,
  )
}

/** What came, for a person. */
export const heardSample = ({ bytes }: HeardAt): string => asciiText(bytes.subarray(0, 160))
