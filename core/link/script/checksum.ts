import type { Checksum, CrcModel } from '../../family'
import { crc32, hexNumber } from '../../kernel'

/**
 * A checksum over bytes.
 *
 * CRCs come by the parameters of the catalogue of parametrised CRC algorithms (width, poly, init, refin, refout, xorout),
 * up to 32 bits. `minus-sum8` is the two's complement of the sum; `fletcher16` is RFC 1146's 8-bit sum with modulus 255,
 * second sum high; `adler32` is RFC 1950's.
 */
export function checksumOf(checksum: Checksum, bytes: Uint8Array): number {
  if (typeof checksum !== 'string') return crcOf(checksum, bytes)
  switch (checksum) {
    case 'sum8':
      return sumOf(bytes) & 0xff
    case 'sum16':
      return sumOf(bytes) & 0xffff
    case 'sum32':
      return sumOf(bytes) % 2 ** 32
    case 'minus-sum8':
      return -sumOf(bytes) & 0xff
    case 'xor8':
      return bytes.reduce((all, byte) => all ^ byte, 0)
    case 'fletcher16':
      return twoSums(bytes, 0, 255, 256)
    case 'adler32':
      return twoSums(bytes, 1, 65_521, 65_536)
    case 'crc32':
      return crc32(bytes)
    default:
      return checksum satisfies never
  }
}

/** Bits of a checksum. */
export function checksumBits(checksum: Checksum): number {
  if (typeof checksum !== 'string') return checksum.width
  return /32$/.test(checksum) ? 32 : /16$/.test(checksum) ? 16 : 8
}

const names: Record<Extract<Checksum, string>, string> = {
  sum8: '8-bit sum',
  sum16: '16-bit sum',
  sum32: '32-bit sum',
  'minus-sum8': '8-bit sum, complemented',
  xor8: '8-bit XOR',
  fletcher16: 'Fletcher-16',
  adler32: 'Adler-32',
  crc32: 'CRC-32',
}

/** What a record calls it. */
export const checksumText = (checksum: Checksum): string =>
  typeof checksum === 'string'
    ? names[checksum]
    : (checksum.name ??
      `CRC of ${checksum.width} bits, polynomial ${hexNumber(checksum.poly, Math.ceil(checksum.width / 4))}`)

const sumOf = (bytes: Uint8Array) => bytes.reduce((sum, byte) => sum + byte, 0)

function twoSums(bytes: Uint8Array, start: number, modulus: number, shift: number): number {
  let [a, b] = [start, 0]
  for (const byte of bytes) {
    a = (a + byte) % modulus
    b = (b + a) % modulus
  }
  return b * shift + a
}

const tables = new WeakMap<CrcModel, Uint32Array>()

/** Any CRC of 3 to 32 bits, a byte a step by a table of its model. */
function crcOf(model: CrcModel, bytes: Uint8Array): number {
  const { width, init, refin, refout, xorout } = model
  const mask = width === 32 ? 0xffffffff : 2 ** width - 1
  let table = tables.get(model)
  if (!table) tables.set(model, (table = tableOf(model)))
  // Forward, the register stands at the top of 32 bits, so that any width meets its byte there; reflected, at the bottom.
  let crc: number
  if (refin) {
    crc = reflect(init, width)
    for (const byte of bytes) crc = (crc >>> 8) ^ table[(crc ^ byte) & 255]!
  } else {
    crc = init << (32 - width)
    for (const byte of bytes) crc = (crc << 8) ^ table[(crc >>> 24) ^ byte]!
    crc >>>= 32 - width
  }
  if (refin !== refout) crc = reflect(crc >>> 0, width)
  return ((crc ^ xorout) & mask) >>> 0
}

function tableOf({ width, poly, refin }: CrcModel): Uint32Array {
  const reflected = reflect(poly, width)
  const top = poly << (32 - width)
  return Uint32Array.from({ length: 256 }, (_, byte) => {
    let crc = refin ? byte : byte << 24
    for (let bit = 0; bit < 8; bit++) {
      if (refin) crc = crc & 1 ? (crc >>> 1) ^ reflected : crc >>> 1
      else crc = crc & 0x80000000 ? (crc << 1) ^ top : crc << 1
    }
    return crc >>> 0
  })
}

function reflect(value: number, width: number): number {
  let turned = 0
  for (let bit = 0; bit < width; bit++) if ((value >>> bit) & 1) turned |= 1 << (width - 1 - bit)
  return turned >>> 0
}
