import { concatBytes, Problem, hexText } from '../../kernel'

/*
 * ISO 14230-2, clause 4: a message is format byte, target, source, perhaps a length, up to 255 bytes of data, and the
 * sum of all of them. The format's two high bits 10 say physical addressing; its low six are the length, or zero where
 * a byte of its own tells it.
 */

/** A message on the single wire, with who it is from and for (ISO 14230-2). */
export interface KwpFrame {
  target: number
  source: number
  data: Uint8Array
}

/** Bytes of data that one message carries at the most. */
export const longestKwp = 255

/** @throws RangeError when data is empty or longer than 255 bytes. */
export function encodeKwp({ target, source, data }: KwpFrame): Uint8Array {
  if (data.length < 1 || data.length > longestKwp) throw new RangeError(`${data.length} bytes fit no message`)
  const head = data.length < 64 ? [0x80 | data.length, target, source] : [0x80, target, source, data.length]
  const body = concatBytes([Uint8Array.from(head), data])
  return concatBytes([body, Uint8Array.of(sum8(body))])
}

/** Bytes that a message beginning so will have; null while too little is there to tell. */
export function kwpLength(head: Uint8Array): number | null {
  if (head.length === 0) return null
  const short = head[0]! & 63
  if (short > 0) return 4 + short
  return head.length < 4 ? null : 5 + head[3]!
}

/** @throws Problem `kwp-frame` when its length or its sum does not hold, or it is not addressed physically. */
export function decodeKwp(frame: Uint8Array): KwpFrame {
  const due = kwpLength(frame)
  if (frame.length < 5 || due !== frame.length)
    throw badFrame('this is no whole message', `${frame.length} bytes`)
  const sum = sum8(frame.subarray(0, -1))
  if (sum !== frame[frame.length - 1]) {
    throw badFrame(
      'the sum does not hold',
      `${hexText(frame[frame.length - 1]!)} where ${hexText(sum)} was due`,
    )
  }
  if (frame[0]! >> 6 !== 2) throw badFrame('the message is not addressed to one unit', hexText(frame[0]!))
  const from = frame[0]! & 63 ? 3 : 4
  return { target: frame[1]!, source: frame[2]!, data: frame.slice(from, -1) }
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
