/*
 * Commands of serial flash as JESD216 names them or every part has them (from memory where the standard leaves them open).
 */

/** Commands of serial flash, by their first byte. */
export const flashCommand = {
  readIdentity: 0x9f,
  readTable: 0x5a,
  read: 0x03,
  program: 0x02,
  writeEnable: 0x06,
  readStatus: 0x05,
  readStatus2: 0x35,
  writeStatus: 0x01,
  wake: 0xab,
  enterFourByte: 0xb7,
  leaveFourByte: 0xe9,
  readFourByte: 0x13,
  programFourByte: 0x12,
} as const

/** Bits of the status register that every part has alike. */
export const statusBit = { busy: 1, enabled: 2 } as const

/** Block protection bits BP0 to BP2 (from memory; a profile names its own chip's). */
export const usualProtection = 0x1c

/** An address as it goes over the wire, highest byte first. */
export const addressBytes = (address: number, count: 3 | 4): number[] =>
  Array.from({ length: count }, (_, index) => (address / 2 ** (8 * (count - 1 - index))) & 255)

/** A block that the chip erases at once. */
export interface EraseType {
  bytes: number
  command: number
  /** Usual time, ms; null where nobody says. */
  usualMs: number | null
  /** Longest time, ms; null where nobody says. */
  maxMs: number | null
}
