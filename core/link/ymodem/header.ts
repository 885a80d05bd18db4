import { asciiBytes, asciiText } from '../../kernel'

/** A file as block 0 of a YMODEM batch announces it. */
export interface FileHeader {
  name: string
  /** Bytes of the file, so that the padding of its last block is told from it; absent where the sender does not say. */
  size?: number
  /** When it was changed, ms since 1970. */
  changedAt?: number
}

/**
 * Data of block 0: name, NUL, size in decimal, then the time in octal seconds (Forsberg 1988, section 5).
 * @returns 128 bytes, or 1 024 where the name needs them; all zero for null, which ends the batch.
 * @throws RangeError when the name does not fit a block or holds a NUL.
 */
export function encodeHeader(header: FileHeader | null): Uint8Array {
  if (!header) return new Uint8Array(128)
  const { name, size, changedAt } = header
  if (name === '' || name.includes('\0')) throw new RangeError(`"${name}" is no file name`)
  const numbers = [
    ...(size === undefined ? [] : [String(size)]),
    ...(size === undefined || changedAt === undefined ? [] : [Math.floor(changedAt / 1000).toString(8)]),
  ]
  const text = asciiBytes(`${name}\0${numbers.join(' ')}`)
  if (text.length >= 1024) throw new RangeError(`"${name.slice(0, 20)}…" is too long for a block`)
  const data = new Uint8Array(text.length < 128 ? 128 : 1024)
  data.set(text)
  return data
}

/** What block 0 says, or null for the empty one that ends the batch. Numbers that are none are passed over. */
export function decodeHeader(data: Uint8Array): FileHeader | null {
  const [name = '', numbers = ''] = asciiText(data).split('\0')
  if (name === '') return null
  const [size, changed] = numbers.split(' ')
  return {
    name,
    ...(size && /^\d{1,15}$/.test(size) ? { size: Number(size) } : {}),
    ...(changed && /^[0-7]{1,14}$/.test(changed) ? { changedAt: parseInt(changed, 8) * 1000 } : {}),
  }
}
