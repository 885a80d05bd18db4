import { plainSums, type Checksum } from '../schema'

/**
 * Checksums that service consoles usually speak of, by their names in the catalogue of parametrised CRC algorithms; the
 * parameters are the catalogue's (from memory, held against its check values in the tests).
 */
const usualCrcs = {
  'CRC-16/IBM-3740': [16, 0x1021, 0xffff, false, false, 0],
  'CRC-16/XMODEM': [16, 0x1021, 0, false, false, 0],
  'CRC-16/KERMIT': [16, 0x1021, 0, true, true, 0],
  'CRC-16/MODBUS': [16, 0x8005, 0xffff, true, true, 0],
  'CRC-16/ARC': [16, 0x8005, 0, true, true, 0],
  'CRC-32/MPEG-2': [32, 0x04c11db7, 0xffffffff, false, false, 0],
  'CRC-32/BZIP2': [32, 0x04c11db7, 0xffffffff, false, false, 0xffffffff],
  'CRC-8/SMBUS': [8, 0x07, 0, false, false, 0],
} as const satisfies Record<string, readonly [number, number, number, boolean, boolean, number]>

/** Checksums that a person chooses from by name. */
export const checksumNames = [
  ...plainSums,
  ...(Object.keys(usualCrcs) as (keyof typeof usualCrcs)[]),
] as const
export type ChecksumName = (typeof checksumNames)[number]

/** A checksum by its name. */
export function checksumNamed(name: ChecksumName): Checksum {
  const crc = name in usualCrcs ? usualCrcs[name as keyof typeof usualCrcs] : undefined
  if (!crc) return name as (typeof plainSums)[number]
  const [width, poly, init, refin, refout, xorout] = crc
  return { name, width, poly, init, refin, refout, xorout }
}
