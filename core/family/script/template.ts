import { asciiBytes, bytesOfHex, hexNumber, hexOf } from '../../kernel'

/*
 * Texts with slots as bytes. A text is bytes, one a character; `{slot}` stands for a value, `{slot:format}` for it in a
 * format: `hex8` upper-case digits padded to eight, `lhex8` lower-case, `hex` unpadded, `dec` and `dec5`, `u16le` and the
 * like as bytes of that width and order. Bytes in a slot go out as they are, or as digits in `hex`.
 */

/** What a slot can hold: a number, a text, or bytes. */
export type SlotValue = number | string | Uint8Array
/** Values by the names of their slots. */
export type Slots = Readonly<Record<string, SlotValue>>

/** A place in a text that a value stands for. */
export interface SlotToken {
  slot: string
  format: string
}
/** Bytes as they are, or a slot. */
export type Token = Uint8Array | SlotToken

/** Whether a part of a text is such a place. */
export const isSlot = (token: Token): token is SlotToken => !(token instanceof Uint8Array)

const slotAt = /\{([a-z][A-Za-z0-9]*)(?::([a-z]+[0-9]*(?:le|be)?))?\}/g
/** Formats of a slot, with their digits or bits and order. */
const formatAt = /^(?:(l?hex|dec)([0-9]{0,2})|u(8|16|24|32)(le|be)?|bytes|text)$/

/** True for a format that this language knows. */
export const isFormat = (format: string): boolean => format === '' || formatAt.test(format)

/**
 * Reads a text with slots.
 * @throws RangeError for a character above 255.
 */
export function readText(text: string): Token[] {
  const tokens: Token[] = []
  let at = 0
  for (const found of text.matchAll(slotAt)) {
    if (found.index > at) tokens.push(asciiBytes(text.slice(at, found.index)))
    tokens.push({ slot: found[1]!, format: found[2] ?? '' })
    at = found.index + found[0].length
  }
  if (at < text.length) tokens.push(asciiBytes(text.slice(at)))
  return tokens
}

/** Reads bytes in hexadecimal with slots between them: `7F {length:u16be}`. */
export function readBytes(text: string): Token[] {
  const tokens: Token[] = []
  for (const token of readText(text)) {
    if (isSlot(token)) tokens.push(token)
    else {
      const digits = String.fromCharCode(...token).replace(/\s+/g, '')
      if (digits !== '') tokens.push(bytesOfHex(digits))
    }
  }
  return tokens
}

/** Whichever of them a step or a pattern has. */
export const readEither = (form: { text?: string; line?: string; bytes?: string }): Token[] =>
  form.bytes !== undefined ? readBytes(form.bytes) : readText(form.line ?? form.text ?? '')

/** Bytes that a token takes at most where its width is fixed; null where it depends on the value. */
export function fixedWidth(token: Token): number | null {
  if (!isSlot(token)) return token.length
  const found = formatAt.exec(token.format)
  if (!found) return null
  if (found[3]) return Number(found[3]) / 8
  return found[2] ? Number(found[2]) : null
}

/**
 * The bytes of a template.
 * @throws RangeError for a slot without a value, or one whose value does not fit its format.
 */
export function fillSlots(tokens: readonly Token[], slots: Slots): Uint8Array {
  const parts = tokens.map((token) => (isSlot(token) ? slotBytes(token, slots) : token))
  if (parts.length === 1) return parts[0]!
  const whole = new Uint8Array(parts.reduce((sum, { length }) => sum + length, 0))
  let at = 0
  for (const part of parts) {
    whole.set(part, at)
    at += part.length
  }
  return whole
}

function slotBytes({ slot, format }: SlotToken, slots: Slots): Uint8Array {
  const value = slots[slot]
  if (value === undefined) throw new RangeError(`slot {${slot}} has no value`)
  const found = formatAt.exec(format)
  const [, digits, width, bits, order] = found ?? []
  if (value instanceof Uint8Array) return digits ? asciiBytes(hexDigits(hexOf(value), digits)) : value
  if (bits) return numberBytes(numberOf(value, slot), Number(bits) / 8, order === 'be', slot)
  if (digits === 'dec') return asciiBytes(String(numberOf(value, slot)).padStart(Number(width), '0'))
  if (digits) {
    const text = hexDigits(hexNumber(numberOf(value, slot), Number(width) || 1), digits)
    if (width && text.length > Number(width))
      throw new RangeError(`slot {${slot}}: ${text} has more than ${width} digits`)
    return asciiBytes(text)
  }
  return asciiBytes(String(value))
}

const hexDigits = (text: string, format: string) =>
  format === 'lhex' ? text.toLowerCase() : text.toUpperCase()

function numberOf(value: number | string, slot: string): number {
  const number = typeof value === 'number' ? value : Number(value)
  if (!Number.isSafeInteger(number) || number < 0)
    throw new RangeError(`slot {${slot}}: "${value}" is no whole number`)
  return number
}

/** A number as bytes of one width. @throws RangeError where it does not fit. */
export function numberBytes(value: number, width: number, bigEndian: boolean, slot = ''): Uint8Array {
  if (value >= 2 ** (8 * width))
    throw new RangeError(`slot {${slot}}: ${value} does not fit in ${width} bytes`)
  const bytes = new Uint8Array(width)
  for (let at = 0; at < width; at++) {
    bytes[bigEndian ? width - 1 - at : at] = Math.floor(value / 2 ** (8 * at)) & 255
  }
  return bytes
}

/** The number that bytes are. */
export function bytesNumber(bytes: Uint8Array, bigEndian: boolean): number {
  const high = bigEndian ? [...bytes] : [...bytes].reverse()
  return high.reduce((sum, byte) => sum * 256 + byte, 0)
}
