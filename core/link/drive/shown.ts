import { asciiText, hexNumber } from '../../kernel'

/**
 * A value's bytes as a line shows them; null where they are none: text that is not printable, all ones, nothing.
 * Numbers come with their high byte first.
 */
export function shownBytes(bytes: Uint8Array, as: 'ascii' | 'number' | 'hex'): string | null {
  if (bytes.length === 0 || bytes.every((byte) => byte === 0xff)) return null
  if (as === 'hex') return [...bytes].map((byte) => hexNumber(byte, 2)).join('')
  if (as === 'number') return String(bytes.reduce((sum, byte) => sum * 256 + byte, 0))
  const text = asciiText(bytes).split('\0')[0]!.trim()
  return text !== '' && /^[\x20-\x7e]+$/.test(text) ? text : null
}

/** The bytes of a line's value, filled with zeros; the other way round. @throws RangeError for a value that does not fit. */
export function bytesShown(value: string, as: 'ascii' | 'number' | 'hex', length: number): Uint8Array {
  const bytes = new Uint8Array(length)
  if (as === 'ascii') {
    for (let at = 0; at < Math.min(length, value.length); at++) bytes[at] = value.charCodeAt(at) & 255
    return bytes
  }
  if (as === 'hex') return bytes.map((_, at) => parseInt(value.slice(at * 2, at * 2 + 2), 16) || 0)
  let rest = Number(value)
  for (let at = length - 1; at >= 0; at--) {
    bytes[at] = rest % 256
    rest = Math.floor(rest / 256)
  }
  return bytes
}
