import { wireMs, type SerialSettings } from '../port'
import { blockOverhead } from './xmodem'

/** The sizes of the blocks a sender of CRC blocks cuts `bytes` into. */
export function blockCount(bytes: number, blockBytes: 128 | 1024): { large: number; small: number } {
  if (blockBytes === 128) return { large: 0, small: Math.ceil(bytes / 128) }
  const large = Math.floor(bytes / 1024) + (bytes % 1024 > 7 * 128 ? 1 : 0)
  return { large, small: Math.ceil(Math.max(0, bytes - large * 1024) / 128) }
}

/**
 * Milliseconds XMODEM-CRC takes on the wire with a receiver that answers at once: each block is its data, five
 * bytes around it and one answer, `(1 024 + 5 + 1) × 10 / baud` for a large block at 8N1.
 */
export function xmodemWireMs(bytes: number, blockBytes: 128 | 1024, settings: SerialSettings): number {
  const { large, small } = blockCount(bytes, blockBytes)
  return (
    large * wireMs(1024 + blockOverhead.crc + 1, settings) +
    small * wireMs(128 + blockOverhead.crc + 1, settings)
  )
}
