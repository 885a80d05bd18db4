/** Joins parts into one array. */
export function concatBytes(parts: readonly Uint8Array[]): Uint8Array {
  const whole = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0))
  let at = 0
  for (const part of parts) {
    whole.set(part, at)
    at += part.length
  }
  return whole
}

/** True when both hold the same bytes. */
export function equalBytes(a: Uint8Array, b: Uint8Array): boolean {
  return firstDifference(a, b) === -1
}

/** Offset of the first byte that differs; -1 when equal. A shorter array differs at its end. */
export function firstDifference(a: Uint8Array, b: Uint8Array): number {
  const shared = Math.min(a.length, b.length)
  for (let at = 0; at < shared; at++) if (a[at] !== b[at]) return at
  return a.length === b.length ? -1 : shared
}

/** Whether each character of a text is one byte on a serial line. */
export const fitsBytes = (text: string): boolean => [...text].every((each) => each.charCodeAt(0) < 256)

/** Text to bytes, one a character; a character above 255 is refused with a RangeError. */
export function asciiBytes(text: string): Uint8Array {
  const bytes = new Uint8Array(text.length)
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at)
    if (code > 255) throw new RangeError(`Character ${at} of "${text}" does not fit in one byte`)
    bytes[at] = code
  }
  return bytes
}

/** Bytes to text, one character a byte (ISO 8859-1), so that nothing is lost or thrown. */
export function asciiText(bytes: Uint8Array): string {
  let text = ''
  for (const byte of bytes) text += String.fromCharCode(byte)
  return text
}

const lowerPairs = Array.from({ length: 256 }, (_, byte) => byte.toString(16).padStart(2, '0'))

/** `5a1f`, two lower-case digits a byte. */
export function hexOf(bytes: Uint8Array): string {
  let text = ''
  for (let at = 0; at < bytes.length; at++) text += lowerPairs[bytes[at]!]!
  return text
}

/** The bytes of such text; half a byte at the end is left out. */
export function bytesOfHex(text: string): Uint8Array {
  const bytes = new Uint8Array(Math.floor(text.length / 2))
  for (let at = 0; at < bytes.length; at++) bytes[at] = parseInt(text.slice(at * 2, at * 2 + 2), 16)
  return bytes
}

/** A number as upper-case hexadecimal of at least `digits` digits, no prefix. */
export function hexNumber(value: number, digits: number): string {
  return value.toString(16).toUpperCase().padStart(digits, '0')
}

/** `0x5A`: a number that stands by itself, with its prefix. */
export const hexText = (value: number, digits = 2): string => `0x${hexNumber(value, digits)}`

/** `0x08008000`: an address as technicians write it. */
export function addressText(address: number): string {
  return `0x${hexNumber(address, 8)}`
}
