import type { CanFrame } from './can-port'

/*
 * Length of a frame on the vehicle bus, by ISO 11898-1: start 1, identifier 11 (29 and two more in the extended format),
 * control 7 or 9, data, CRC 15 with its delimiter, acknowledge 2, end 7; then 3 of rest. Behind five equal bits, from
 * the start bit to the end of the CRC, the sender puts one of the other kind.
 */

/** Bits that may be stuffed: from the start bit to the end of the CRC. */
const stuffable = (dataBytes: number, extended: boolean) => (extended ? 54 : 34) + 8 * dataBytes
/** Bits that are never stuffed: CRC delimiter, acknowledge and its delimiter, end of frame, and the rest between frames. */
const fixedBits = 1 + 2 + 7 + 3

/** How long a frame can be on the bus, with the rest after it, bits. */
export interface FrameBits {
  /** Without any stuff bit. */
  min: number
  /** With those that random bits bring. */
  likely: number
  /** With the most there can be. */
  max: number
}

/**
 * Bits between two stuff bits in random data: a run of five equal ones begins anew about every 30 bits (the mean wait
 * for it is 2 + 4 + 8 + 16 bits after the first, and the stuff bit itself is the next first).
 */
const bitsPerStuffBit = 30

/** Bits of a data frame: without stuff bits, likely, and with the most there can be (ISO 11898-1). */
export function canFrameBits(dataBytes: number, extended = false): FrameBits {
  const open = stuffable(dataBytes, extended)
  return {
    min: open + fixedBits,
    likely: open + open / bitsPerStuffBit + fixedBits,
    // The first stuff bit comes after five bits; each after that needs four more, since it counts itself.
    max: open + Math.floor((open - 1) / 4) + fixedBits,
  }
}

/** Bits of this very frame on the bus, its stuff bits counted one by one, with the rest after it. */
export function canFrameBitsSent({ id, extended, data }: CanFrame): number {
  const bits: number[] = [0]
  const put = (value: number, count: number) => {
    for (let at = count - 1; at >= 0; at--) bits.push((value >>> at) & 1)
  }
  if (extended) {
    put(id >>> 18, 11)
    // Substitute remote request and identifier extension, both recessive.
    put(0b11, 2)
    put(id & 0x3ffff, 18)
    // Remote request and two reserved bits, dominant.
    put(0, 3)
  } else {
    put(id, 11)
    put(0, 3)
  }
  put(data.length, 4)
  for (const byte of data) put(byte, 8)
  put(crc15(bits), 15)
  let stuffed = 0
  let equal = 0
  let last = -1
  for (const bit of bits) {
    equal = bit === last ? equal + 1 : 1
    last = bit
    if (equal === 5) {
      stuffed++
      equal = 1
      last = 1 - bit
    }
  }
  return bits.length + stuffed + fixedBits
}

/** CRC-15/CAN (catalogue of parametrised CRC algorithms): polynomial 0x4599, start 0, not reflected, bit by bit. */
export function crc15(bits: Iterable<number>): number {
  let crc = 0
  for (const bit of bits) {
    const out = (crc >> 14) & 1
    crc = (crc << 1) & 0x7fff
    if (out !== bit) crc ^= 0x4599
  }
  return crc
}
