import { concatBytes, Problem, hexText } from '../../kernel'

/*
 * ISO 14230-2, clause 4: a message is format byte, perhaps target and source, perhaps a length, up to 255 bytes of data, and
 * the sum of all of them. The format's two high bits say how it is addressed: 10 to one unit, 00 without any address; its low
 * six are the length, or zero where a byte of its own tells it.
 */

/** How a controller wants its messages. */
export interface KwpShape {
  /** Target and source stand in the head; a line with one controller alone may do without. */
  addresses: boolean
  /** Where the length stands: in the format byte up to 63 and else in its own; in the format byte alone; in its own alone. */
  length: 'either' | 'format' | 'byte'
}

/** A message on the single wire, with who it is from and for (ISO 14230-2); neither where its head has no addresses. */
export interface KwpFrame {
  target?: number
  source?: number
  data: Uint8Array
}

/** What every controller takes that says nothing else. */
export const usualShape: KwpShape = { addresses: true, length: 'either' }

/** Bytes of data that one message carries at the most. */
export const longestKwp = (shape: KwpShape = usualShape): number => (shape.length === 'format' ? 63 : 255)

/** @throws RangeError when data is empty or longer than a message of this shape carries. */
export function encodeKwp(
  { target = 0, source = 0, data }: KwpFrame,
  shape: KwpShape = usualShape,
): Uint8Array {
  if (data.length < 1 || data.length > longestKwp(shape))
    throw new RangeError(`${data.length} bytes fit no message`)
  const inFormat = shape.length !== 'byte' && data.length < 64
  const format = (shape.addresses ? 0x80 : 0) | (inFormat ? data.length : 0)
  const head = [format, ...(shape.addresses ? [target, source] : []), ...(inFormat ? [] : [data.length])]
  const body = concatBytes([Uint8Array.from(head), data])
  return concatBytes([body, Uint8Array.of(sum8(body))])
}

/** Bytes of a head without its length byte: with addresses, or without. */
const headBytes = (format: number) => (format >> 6 === 0 ? 1 : 3)

/** Bytes that a message beginning so will have; null while too little is there to tell. */
export function kwpLength(start: Uint8Array): number | null {
  if (start.length === 0) return null
  const head = headBytes(start[0]!)
  const short = start[0]! & 63
  if (short > 0) return head + short + 1
  return start.length <= head ? null : head + 1 + start[head]! + 1
}

/** @throws Problem `kwp-frame` when its length or its sum does not hold, or it is addressed to several. */
export function decodeKwp(frame: Uint8Array): KwpFrame {
  const due = kwpLength(frame)
  const from = frame.length === 0 ? 0 : headBytes(frame[0]!) + (frame[0]! & 63 ? 0 : 1)
  if (due !== frame.length || frame.length < from + 2)
    throw badFrame('this is no whole message', `${frame.length} bytes`)
  const sum = sum8(frame.subarray(0, -1))
  if (sum !== frame[frame.length - 1]) {
    throw badFrame(
      'the sum does not hold',
      `${hexText(frame[frame.length - 1]!)} where ${hexText(sum)} was due`,
    )
  }
  const data = frame.slice(from, -1)
  const mode = frame[0]! >> 6
  if (mode === 0) return { data }
  if (mode !== 2) throw badFrame('the message is not addressed to one unit', hexText(frame[0]!))
  return { target: frame[1]!, source: frame[2]!, data }
}

function sum8(bytes: Uint8Array): number {
  let sum = 0
  for (const byte of bytes) sum += byte
  return sum & 255
}

function badFrame(says: string, found: string): Problem {
  return new Problem({
    kind: 'kwp-frame',
    says,
    found,
    remedy: 'Ask again; if it stays so, look at the contact of the line and at the supply.',
  })
}
