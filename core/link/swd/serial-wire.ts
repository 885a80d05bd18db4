/*
 * Serial wire: Arm Debug Interface Architecture Specification ADIv5 (IHI 0031), chapters B4 (protocol), B2 and C1 (debug
 * port and memory access port registers).
 */

/** An access to a register of the debug port or of an access port. */
export interface WireRequest {
  port: 'dp' | 'ap'
  read: boolean
  /** Bits 2 and 3 of the register's address: 0, 4, 8 or C. */
  register: 0x0 | 0x4 | 0x8 | 0xc
}

/** Acknowledge, three bits, least significant first on the wire (B4.2.2). */
export const wireAck = { ok: 1, wait: 2, fault: 4, none: 7 } as const

const parityOf = (value: number): number => {
  let bits = value >>> 0
  for (const shift of [16, 8, 4, 2, 1]) bits ^= bits >>> shift
  return bits & 1
}

/** Even parity over the 32 bits of a transfer (B4.1.6). */
export const dataParity = parityOf

/** The eight bits of a request, least significant first: start 1, AP, read, A2, A3, parity, stop 0, park 1 (B4.2.1). */
export function encodeRequest({ port, read, register }: WireRequest): number {
  const four = Number(port === 'ap') | (Number(read) << 1) | (register & 0xc)
  return 0x81 | (four << 1) | (parityOf(four) << 5)
}

/** What a request asks for, or null where start, stop, park or parity do not hold: such a request is not answered. */
export function decodeRequest(bits: number): WireRequest | null {
  if ((bits & 0xc1) !== 0x81) return null
  const four = (bits >> 1) & 0xf
  if (parityOf(four) !== ((bits >> 5) & 1)) return null
  return {
    port: four & 1 ? 'ap' : 'dp',
    read: !!(four & 2),
    register: (four & 0xc) as WireRequest['register'],
  }
}

/** Line reset: at least 50 cycles high (B4.3.3). */
export const lineReset = Uint8Array.of(0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff)
/** The 16 bits that turn a port that may also speak JTAG to serial wire, least significant first (B5.2.1: 0xE79E). */
export const toSerialWire = Uint8Array.of(0x9e, 0xe7)

/** Debug port registers (B2.2). */
export const dp = { abort: 0x0, id: 0x0, control: 0x4, select: 0x8, buffer: 0xc } as const
/** Memory access port registers (C2.6). */
export const ap = { control: 0x00, address: 0x04, data: 0x0c, id: 0xfc } as const

/** Bits of the debug port's control and status register (B2.2.2). */
export const controlBits = {
  overrun: 1 << 1,
  stickyCompare: 1 << 4,
  stickyError: 1 << 5,
  writeData: 1 << 7,
  debugPowerUp: 1 << 28,
  debugPowerIsUp: 1 << 29,
  systemPowerUp: 1 << 30,
  systemPowerIsUp: 0x80000000,
} as const

/** Clears every sticky error and the overrun (B2.2.1). */
export const clearErrors = 0x1e

/** Memory access port control: size, single auto-increment, and protection bits for a debugger's data access (C2.6.4). */
export const accessControl = (bytes: 1 | 2 | 4): number =>
  0x23000010 | (bytes === 4 ? 2 : bytes === 2 ? 1 : 0)
/** Auto-increment is certain within the low ten bits of the address only (C2.2.2). */
export const incrementSpan = 0x400

/** Bits of an access on the wire: request 8, turn 1, acknowledge 3, turn 1, data 32, parity 1. */
export const accessBits = 46
