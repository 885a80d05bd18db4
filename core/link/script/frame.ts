import {
  type FrameForm,
  bytesNumber,
  fillSlots,
  fixedWidth,
  isSlot,
  readBytes,
  type SlotToken,
  type Token,
} from '../../family'
import { concatBytes, equalBytes, Problem } from '../../kernel'
import { checksumOf } from './checksum'

/*
 * A framed binary dialect: fixed bytes, length, sequence, payload and checksum in whatever order and width, delimited and
 * stuffed by RFC 1055 (SLIP), by RFC 1662 (octet stuffing), or not at all.
 */

const slip = {
  end: 0xc0,
  escape: 0xdb,
  codes: new Map([
    [0xc0, 0xdc],
    [0xdb, 0xdd],
  ]),
}
const hdlc = {
  end: 0x7e,
  escape: 0x7d,
  codes: new Map([
    [0x7e, 0x5e],
    [0x7d, 0x5d],
  ]),
}
const stuffings = { slip, hdlc }

/** Stuffs bytes and puts a delimiter before and after them. */
export function stuff(bytes: Uint8Array, escape: 'slip' | 'hdlc'): Uint8Array {
  const { end, escape: mark, codes } = stuffings[escape]
  const out = [end]
  for (const byte of bytes) {
    const code = codes.get(byte)
    if (code === undefined) out.push(byte)
    else out.push(mark, code)
  }
  out.push(end)
  return Uint8Array.from(out)
}

/** The other way round, without delimiters; null where an escape stands before nothing that it may stand before. */
export function unstuff(bytes: Uint8Array, escape: 'slip' | 'hdlc'): Uint8Array | null {
  const { escape: mark, codes } = stuffings[escape]
  const back = new Map([...codes].map(([byte, code]) => [code, byte]))
  const out: number[] = []
  for (let at = 0; at < bytes.length; at++) {
    if (bytes[at] !== mark) {
      out.push(bytes[at]!)
      continue
    }
    const code = bytes[++at]
    // RFC 1662 flips the sixth bit of any stuffed octet; RFC 1055 knows two codes alone.
    const byte =
      escape === 'hdlc' && code !== undefined ? code ^ 0x20 : code === undefined ? undefined : back.get(code)
    if (byte === undefined) return null
    out.push(byte)
  }
  return Uint8Array.from(out)
}

/** A dialect ready to use. */
export interface FrameDialect {
  form: FrameForm
  tokens: readonly Token[]
  /** Bytes before the payload and after it. */
  head: number
  tail: number
  delimiter: number | null
}

/** Bytes of a slot of the layout; one where its format says nothing. */
const widthOf = (token: Token) => (isSlot(token) && token.format === '' ? 1 : (fixedWidth(token) ?? 0))
const isHigh = (token: SlotToken) => token.format.endsWith('be')

/** How frames of a link are built and taken apart. */
export function frameDialect(form: FrameForm): FrameDialect {
  const tokens = readBytes(form.layout)
  const payload = tokens.findIndex((token) => isSlot(token) && token.slot === 'payload')
  const sum = (part: readonly Token[]) => part.reduce((all, token) => all + widthOf(token), 0)
  return {
    form,
    tokens,
    head: sum(tokens.slice(0, payload)),
    tail: sum(tokens.slice(payload + 1)),
    delimiter: form.escape === 'none' ? null : stuffings[form.escape].end,
  }
}

/** Bytes that a frame with such a payload takes on the wire at least: stuffing not counted. */
export const frameBytes = ({ head, tail, delimiter }: FrameDialect, payload: number): number =>
  head + payload + tail + (delimiter === null ? 0 : 2)

/**
 * A frame as it goes out.
 * @throws RangeError for a payload above the largest.
 */
export function encodeFrame(dialect: FrameDialect, payload: Uint8Array, sequence: number): Uint8Array {
  const { form, tokens } = dialect
  if (payload.length > form.maxPayload)
    throw new RangeError(`a payload of ${payload.length} bytes, and ${form.maxPayload} fit`)
  const parts: Uint8Array[] = []
  for (const token of tokens) {
    if (!isSlot(token)) parts.push(token)
    else if (token.slot === 'payload') parts.push(payload)
    else {
      const value =
        token.slot === 'length'
          ? lengthOf(dialect, payload.length)
          : token.slot === 'sequence'
            ? numberOnWire(dialect, sequence)!
            : sumOf(dialect, concatBytes(parts), payload)
      parts.push(fillSlots([{ slot: token.slot, format: token.format || 'u8' }], { [token.slot]: value }))
    }
  }
  const bare = concatBytes(parts)
  return form.escape === 'none' ? bare : stuff(bare, form.escape)
}

/** A frame's number as its width holds it; null where the layout has none. */
export function numberOnWire({ tokens }: FrameDialect, sequence: number): number | null {
  const token = tokens.find((each) => isSlot(each) && each.slot === 'sequence')
  return token ? sequence % 2 ** (8 * widthOf(token)) : null
}

function lengthOf({ form, head, tail, tokens }: FrameDialect, payload: number): number {
  const checksum = tokens.find((token) => isSlot(token) && token.slot === 'checksum')
  const counts = form.lengthCounts ?? 'payload'
  if (counts === 'whole') return head + payload + tail
  return counts === 'payload' ? payload : payload + (checksum ? widthOf(checksum) : 0)
}

function sumOf({ form }: FrameDialect, before: Uint8Array, payload: Uint8Array): number {
  const over = form.checksumOver ?? 'before-it'
  const bytes = over === 'payload' ? payload : over === 'before-it' ? before : before.subarray(1)
  return checksumOf(form.checksum ?? 'crc32', bytes)
}

/** What was read of a frame, and why it is none. */
export type FrameRead = { payload: Uint8Array; sequence: number | null } | { fault: string }

/** Reads a frame that is delimited and unstuffed already, or cut out by its length. */
export function decodeFrame(dialect: FrameDialect, bytes: Uint8Array): FrameRead {
  const { tokens, head, tail } = dialect
  const length = bytes.length - head - tail
  if (length < 0) return { fault: `it is ${bytes.length} bytes long, and ${head + tail} are its frame alone` }
  const most = dialect.form.maxPayload
  if (length > most) return { fault: `it carries more than ${most} bytes, the most of this dialect` }
  let at = 0
  let sequence: number | null = null
  let payload = new Uint8Array(0)
  for (const token of tokens) {
    if (isSlot(token) && token.slot === 'payload') {
      payload = bytes.slice(at, at + length)
      at += length
      continue
    }
    const part = bytes.subarray(at, at + widthOf(token))
    if (!isSlot(token)) {
      if (!equalBytes(part, token)) return { fault: 'its fixed bytes are others' }
    } else {
      const value = bytesNumber(part, isHigh(token))
      if (token.slot === 'sequence') sequence = value
      if (token.slot === 'length' && value !== lengthOf(dialect, length))
        return { fault: 'its length is another' }
      if (token.slot === 'checksum') {
        const due = sumOf(dialect, bytes.subarray(0, at), bytes.subarray(head, head + length))
        if (value !== due) return { fault: 'its checksum does not hold' }
      }
    }
    at += part.length
  }
  return { payload, sequence }
}

/** Where a frame that says its own length ends, once its head is there; null while it is not, -1 where it cannot be one. */
export function frameEnd(dialect: FrameDialect, bytes: Uint8Array): number | null {
  const { tokens, head, tail, form } = dialect
  if (bytes.length < head) return null
  let at = 0
  for (const token of tokens) {
    const part = bytes.subarray(at, at + widthOf(token))
    if (!isSlot(token)) {
      if (!equalBytes(part, token)) return -1
    } else if (token.slot === 'payload') break
    else if (token.slot === 'length') {
      const value = bytesNumber(part, isHigh(token))
      const payload = value - (lengthOf(dialect, 0) - 0)
      if (payload < 0 || payload > form.maxPayload) return -1
      return head + payload + tail
    }
    at += part.length
  }
  return -1
}

/** @throws never; a sentence on what went wrong, for whoever stands there. */
export const brokenFrame = (thing: string, fault: string): Problem =>
  new Problem({
    kind: 'frame-broken',
    thing,
    says: `a frame came, and ${fault}`,
    remedy:
      'It is asked again. Where it stays so: the layout in the profile, the speed, or noise on the line.',
  })
