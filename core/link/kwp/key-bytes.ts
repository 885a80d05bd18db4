import type { KwpShape } from './frame'

/*
 * What a controller's key bytes say of its messages (ISO 14230-2, clause 5.2.4.1; bits from memory of the published table):
 * bit 0 the format byte may tell the length, bit 1 a byte of its own may, bit 2 a head of one byte, bit 3 a head with
 * addresses, bits 4 and 5 its times. Bit 6 is one, bit 7 makes the parity odd. The second byte is 8F.
 */

/** What the key bytes say; null where they say nothing (key word 2000). */
export interface KeyBytes {
  shape: KwpShape
  /** Its answers may take the longer of the two times, P2 up to a second. */
  isSlow: boolean
}

const [lengthInFormat, lengthByte, bareHead, addressedHead, slowTimes, usualTimes] = [1, 2, 4, 8, 16, 32]

const second8f = 0x8f

/**
 * @param one the bytes as they came; some controllers send them the other way round, and 8F can be the second alone.
 * @returns null where nothing is told: no bit of length and head is set, or neither byte is 8F.
 */
export function readKeyBytes(one: number, other: number): KeyBytes | null {
  if (other !== second8f && one !== second8f) return null
  const first = other === second8f ? one : other
  const has = (bit: number) => (first & bit) !== 0
  const tellsHead = has(bareHead) || has(addressedHead)
  const tellsLength = has(lengthInFormat) || has(lengthByte)
  if (!tellsHead || !tellsLength) return null
  return {
    shape: {
      // With addresses wherever it takes them: a second controller on the line is told apart by them.
      addresses: has(addressedHead),
      length: has(lengthInFormat) ? (has(lengthByte) ? 'either' : 'format') : 'byte',
    },
    isSlow: has(slowTimes) && !has(usualTimes),
  }
}

/** The first key byte of a controller, for whoever plays one; the second is 8F. */
export function firstKeyByte({ addresses, length }: KwpShape, isSlow = false): number {
  const bits =
    0x40 |
    (length === 'byte' ? 0 : lengthInFormat) |
    (length === 'format' ? 0 : lengthByte) |
    (addresses ? addressedHead : bareHead) |
    (isSlow ? slowTimes : usualTimes)
  let ones = 0
  for (let rest = bits; rest > 0; rest >>= 1) ones += rest & 1
  return ones % 2 === 0 ? bits | 0x80 : bits
}
