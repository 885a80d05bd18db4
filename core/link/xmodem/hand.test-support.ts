import type { Port } from '../port'

/**
 * A port whose other end answers by hand: what it says to each writing, numbered from 0; nothing is a silence.
 * @returns the port, what was written to it, and the limits of its reads.
 */
export function byHand(
  answer: (written: readonly number[], nth: number) => readonly number[],
  first: number[] = [],
) {
  const written: number[][] = []
  const waits: number[] = []
  const waiting = [...first]
  const port: Port = {
    name: 'jack',
    settings: { baudRate: 57_600, dataBits: 8, parity: 'none', stopBits: 1 },
    open: async () => {},
    close: async () => {},
    setLines: async () => {},
    async write(bytes) {
      written.push([...bytes])
      waiting.push(...answer([...bytes], written.length - 1))
    },
    async read(max, timeoutMs) {
      waits.push(timeoutMs)
      return waiting.length === 0 ? null : Uint8Array.from(waiting.splice(0, max))
    },
  }
  return { port, written, waits }
}

/** CRC-16 of XMODEM bit by bit (Forsberg 1988, section 8.2: x^16 + x^12 + x^5 + 1, begins at nought). */
function crc16(data: readonly number[]): number {
  let crc = 0
  for (const byte of data) {
    crc ^= byte << 8
    for (let bit = 0; bit < 8; bit++) crc = (crc & 0x8000 ? (crc << 1) ^ 0x1021 : crc << 1) & 0xffff
  }
  return crc
}

/** A block as the reference lays it out: SOH or STX, number, complement, data, CRC high byte first or an 8-bit sum. */
export function blockOf(number: number, data: readonly number[], check: 'crc' | 'sum' = 'crc'): number[] {
  const crc = crc16(data)
  const sum = data.reduce((total, byte) => total + byte, 0) % 256
  const head = data.length === 1024 ? 2 : 1
  return [head, number, 255 - number, ...data, ...(check === 'crc' ? [crc >> 8, crc % 256] : [sum])]
}

/** Data of one value. */
export const filled = (length: number, value: number): number[] => Array<number>(length).fill(value)
