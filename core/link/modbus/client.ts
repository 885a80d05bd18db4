import { asciiText, hexOf, Problem } from '../../kernel'
import { discardInput, type Port } from '../port'
import { readRtu, receiveFrame, silenceMs, writeRtu } from './rtu'

/** Exception codes in words (Application Protocol V1.1b3, clause 7). */
export const exceptionWords: Readonly<Record<number, string>> = {
  1: 'it does not know this function',
  2: 'it does not have this address',
  3: 'it does not take this value',
  4: 'it failed while it did so',
  5: 'it has begun and needs long; ask again',
  6: 'it is busy; ask again',
  8: 'its memory does not agree with its parity',
  10: 'the way through the gateway is not there',
  11: 'beyond the gateway nobody answers',
}

/** How long a unit on the bus is waited for, ms. */
export interface ModbusTiming {
  /** Longest wait for an answer, ms. */
  answerMs: number
  /** Silence that ends a frame of unknown length, ms. Converters hand bytes on in packets up to 16 ms apart. */
  gapMs?: number
}

/**
 * Asks one unit and gives the answer's data, function code first.
 * @throws Problem `modbus-silent`, `modbus-frame`, `modbus-other` (another unit or function answers), `modbus-exception`.
 */
export async function askModbus(
  port: Port,
  address: number,
  pdu: Uint8Array,
  { answerMs, gapMs = 25 }: ModbusTiming,
): Promise<Uint8Array> {
  await discardInput(port, silenceMs(port.settings))
  await port.write(writeRtu({ address, pdu }))
  const bytes = await receiveFrame(port, answerMs, Math.max(gapMs, silenceMs(port.settings)))
  const at = `address ${address}`
  if (!bytes) {
    throw new Problem({
      kind: 'modbus-silent',
      thing: at,
      says: `nothing answers at ${at}`,
      remedy: 'Look at power, the data pair, speed and parity, and the address switch.',
    })
  }
  const answer = readRtu(bytes)
  const code = answer.pdu[0]!
  if (answer.address !== address || (code & 0x7f) !== pdu[0])
    throw answersOther(
      address,
      `${at}, function ${pdu[0]}`,
      `address ${answer.address}, function ${code & 0x7f}`,
    )
  if (code & 0x80) {
    const exception = answer.pdu[1] ?? 0
    throw new Problem({
      kind: 'modbus-exception',
      thing: at,
      says: `the unit refuses: ${exceptionWords[exception] ?? 'it gives no known reason'}`,
      found: `exception ${exception}`,
      remedy: 'Look whether the unit is in the state that this needs.',
    })
  }
  return answer.pdu
}

/** An answer to something else than was asked: another unit's, or one that came late. */
export const answersOther = (address: number, expected: string, found: string): Problem =>
  new Problem({
    kind: 'modbus-other',
    thing: `address ${address}`,
    says: 'the answer is not to what was asked',
    expected,
    found,
    remedy: 'Another master may be on the bus: unplug it.',
  })

/**
 * Asks a unit to set something: the answer repeats where, and of several registers how many (clauses 6.5, 6.6, 6.12).
 * @throws Problem of askModbus; `modbus-other` where it repeats something else.
 */
export async function setModbus(
  port: Port,
  address: number,
  pdu: Uint8Array,
  timing: ModbusTiming,
): Promise<void> {
  const repeated = pdu[0] === 0x10 ? 5 : 3
  const answer = await askModbus(port, address, pdu, timing)
  const [due, said] = [pdu, answer].map((each) => hexOf(each.subarray(0, repeated)))
  if (due !== said) throw answersOther(address, due!, said!)
}

/** The request for basic device identification (V1.1b3, clause 6.21: 2B, MEI type 0E, stream access 01, from object 0). */
export const askIdentity = Uint8Array.of(0x2b, 0x0e, 0x01, 0x00)

/** What a unit says of itself, by object number: 0 vendor, 1 product code, 2 revision (clause 6.21). */
export function readIdentity(pdu: Uint8Array): Map<number, string> {
  const objects = new Map<number, string>()
  let at = 7
  for (let left = pdu[6] ?? 0; left > 0 && at + 1 < pdu.length; left--) {
    const length = pdu[at + 1]!
    objects.set(pdu[at]!, asciiText(pdu.subarray(at + 2, at + 2 + length)))
    at += 2 + length
  }
  return objects
}
