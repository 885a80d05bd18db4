import { crc16Xmodem, Problem } from '../../kernel'

/*
 * XMODEM-CRC and XMODEM-1K: Chuck Forsberg, "XMODEM/YMODEM Protocol Reference", October 14, 1988.
 * A block: SOH (128 bytes) or STX (1 024), block number, its complement, data, CRC-16 high byte first (or, where
 * the receiver asked with NAK, the 8-bit sum of the data).
 */

/** Begins a block of 128 bytes. */
export const SOH = 0x01
/** Begins a block of 1 024 bytes. */
export const STX = 0x02
/** Ends the file. */
export const EOT = 0x04
/** Taken. */
export const ACK = 0x06
/** Not taken: once more. */
export const NAK = 0x15
/** Twice in a row: broken off. */
export const CAN = 0x18
/** The letter C: the receiver asks for CRC. */
export const ASK_CRC = 0x43

/**
 * Characters that a unit may say before it asks or sends: a boot log of many pages (our own bound). One that goes on is in its
 * firmware, and does neither.
 */
export const maxTalk = 65_536

/** How a block is checked. */
export type Check = 'crc' | 'sum'

/** Bytes a block adds to its data: header, number, complement, check. */
export const blockOverhead = { crc: 5, sum: 4 } as const

/** One block ready for the wire. `number` counts from 1 and wraps at 256; data is 128 or 1 024 bytes. */
export function encodeBlock(number: number, data: Uint8Array, check: Check): Uint8Array {
  const block = new Uint8Array(data.length + blockOverhead[check])
  block[0] = data.length === 1024 ? STX : SOH
  block[1] = number & 255
  block[2] = ~number & 255
  block.set(data, 3)
  if (check === 'crc') {
    const crc = crc16Xmodem(data)
    block[data.length + 3] = crc >> 8
    block[data.length + 4] = crc & 255
  } else block[data.length + 3] = sum8(data)
  return block
}

/** A block's number and data, or null when its complement or its check does not hold. `body` begins at the number. */
export function decodeBlock(body: Uint8Array, check: Check): { number: number; data: Uint8Array } | null {
  const length = body.length - (check === 'crc' ? 4 : 3)
  const number = body[0]!
  if (length < 0 || number + body[1]! !== 255) return null
  const data = body.subarray(2, 2 + length)
  const holds =
    check === 'crc'
      ? crc16Xmodem(data) === ((body[length + 2]! << 8) | body[length + 3]!)
      : sum8(data) === body[length + 2]
  return holds ? { number, data } : null
}

function sum8(data: Uint8Array): number {
  let sum = 0
  for (const byte of data) sum += byte
  return sum & 255
}

/** The other side broke off. */
export function cancelledByPeer(thing: string, byte: number): Problem {
  return new Problem({
    kind: 'xmodem-cancelled',
    thing,
    place: { offset: byte },
    says: 'the other side cancelled the transfer',
    found: 'two CAN characters',
    remedy: 'Do not power down. The bootloader is still there: start the write again from its beginning.',
  })
}
