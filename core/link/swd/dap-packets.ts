import { concatBytes } from '../../kernel'
import type { WireRequest } from './serial-wire'

/** Bytes of an adapter’s packet over high-speed USB, by which times are told before it is asked. */
export const usualPacketBytes = 512

/*
 * CMSIS-DAP, the open protocol of debug adapters (Arm, "CMSIS-DAP Interface Firmware" reference): a command byte and its
 * arguments, little-endian; the answer begins with the same byte.
 */

/** Commands of an adapter, by their first byte. */
export const dapCommand = {
  info: 0x00,
  hostStatus: 0x01,
  connect: 0x02,
  disconnect: 0x03,
  transferConfigure: 0x04,
  transfer: 0x05,
  transferBlock: 0x06,
  writeAbort: 0x08,
  delay: 0x09,
  resetTarget: 0x0a,
  pins: 0x10,
  clock: 0x11,
  sequence: 0x12,
  wireConfigure: 0x13,
  jtagSequence: 0x14,
} as const

/** Lines of an adapter as DAP_SWJ_Pins numbers its bits. */
export const dapPin = {
  clock: 1 << 0,
  select: 1 << 1,
  dataOut: 1 << 2,
  dataIn: 1 << 3,
  reset: 1 << 7,
} as const

/** DAP_SWJ_Pins: sets the lines of `mask`; the answer holds how all of them stand. @param waitUs longest until they stand so. */
export const encodePins = (value: number, mask: number, waitUs = 0): Uint8Array =>
  concatBytes([Uint8Array.of(dapCommand.pins, value, mask), word32(waitUs)])

/** DAP_Info: what is asked for. */
export const dapInfo = {
  maker: 0x01,
  product: 0x02,
  serial: 0x03,
  version: 0x04,
  firmware: 0x09,
  capabilities: 0xf0,
  packetCount: 0xfe,
  packetSize: 0xff,
} as const

/** An access within DAP_Transfer; a write carries its word. */
export interface DapAccess extends WireRequest {
  value?: number
}

/** The request byte of an access: AP, read, A2, A3 (DAP_Transfer). */
export const dapRequestByte = ({ port, read, register }: WireRequest): number =>
  Number(port === 'ap') | (Number(read) << 1) | register

/** What a transfer’s request byte asks for (CMSIS-DAP, DAP_Transfer). */
export const readDapRequestByte = (byte: number): WireRequest => ({
  port: byte & 1 ? 'ap' : 'dp',
  read: !!(byte & 2),
  register: (byte & 0xc) as WireRequest['register'],
})

/** A packet of single accesses. */
export function encodeTransfer(accesses: readonly DapAccess[]): Uint8Array {
  return concatBytes([
    Uint8Array.of(dapCommand.transfer, 0, accesses.length),
    ...accesses.map((access) =>
      access.read
        ? Uint8Array.of(dapRequestByte(access))
        : concatBytes([Uint8Array.of(dapRequestByte(access)), word32(access.value ?? 0)]),
    ),
  ])
}

/** Answer to DAP_Transfer or DAP_TransferBlock: how many were done, the last acknowledge, what was read. */
export interface DapDone {
  count: number
  ack: number
  words: number[]
}

/** Its answer; null where the packet is cut short. */
export function decodeTransferAnswer(bytes: Uint8Array): DapDone | null {
  if (bytes[0] !== dapCommand.transfer || bytes.length < 3) return null
  return { count: bytes[1]!, ack: bytes[2]!, words: wordsOf(bytes.subarray(3)) }
}

/** Many accesses to one register: words to write, or how many to read. */
export function encodeBlock32(request: WireRequest, words: readonly number[] | number): Uint8Array {
  const count = typeof words === 'number' ? words : words.length
  return concatBytes([
    Uint8Array.of(dapCommand.transferBlock, 0, count & 255, count >> 8, dapRequestByte(request)),
    ...(typeof words === 'number' ? [] : words.map(word32)),
  ])
}

/** The answer to a block of accesses; null where the packet is cut short. */
export function decodeBlockAnswer(bytes: Uint8Array): DapDone | null {
  if (bytes[0] !== dapCommand.transferBlock || bytes.length < 4) return null
  return { count: bytes[1]! | (bytes[2]! << 8), ack: bytes[3]!, words: wordsOf(bytes.subarray(4)) }
}

/** Words that one packet of a block carries, there and back, with the bytes around them. */
export const blockWords = (packetBytes: number): { write: number; read: number } => ({
  write: Math.floor((packetBytes - 5) / 4),
  read: Math.floor((packetBytes - 4) / 4),
})

/** A word as four bytes, low byte first. */
export const word32 = (value: number): Uint8Array =>
  Uint8Array.of(value & 255, (value >> 8) & 255, (value >> 16) & 255, value >>> 24)

/** Four bytes a word, low byte first. */
export function wordsOf(bytes: Uint8Array): number[] {
  const words: number[] = []
  for (let at = 0; at + 4 <= bytes.length; at += 4) {
    words.push((bytes[at]! | (bytes[at + 1]! << 8) | (bytes[at + 2]! << 16) | (bytes[at + 3]! << 24)) >>> 0)
  }
  return words
}
