import { concatBytes } from '../../kernel'

/*
 * ISO 15765-2 on classical frames (clause 9: protocol data units). The first nibble tells the kind: single frame, first
 * frame, consecutive frame, flow control. With extended or mixed addressing a byte of address stands before it, and each
 * frame carries one byte less (clause 10.3).
 */

/** Bytes of a classical frame. */
const frameBytes = 8

/** What a flow control frame says. */
export type FlowStatus = 'continue' | 'wait' | 'overflow'

/** A frame of ISO-TP (ISO 15765-2, 9.2). */
export type TpFrame =
  | { kind: 'single'; data: Uint8Array }
  /** `length` is that of the whole message; `data` its beginning. */
  | { kind: 'first'; length: number; data: Uint8Array }
  /** `sequence` counts 1 to 15, then from 0. */
  | { kind: 'consecutive'; sequence: number; data: Uint8Array }
  /** Frames until the next flow control, 0 for all of them; least separation between them, ms. */
  | { kind: 'flow'; status: FlowStatus; blockSize: number; separationMs: number }

/** Bytes that a single frame holds. @param room bytes of a frame behind its address byte: 8 without one, 7 with. */
export const singleBytes = (room = frameBytes): number => room - 1
/** Longest message that a first frame's twelve bits can tell; beyond it stands the escape with 32 bits. */
export const shortMax = 4095

/**
 * Frames that a message of so many bytes takes, without flow control: up to 4 095 bytes a first frame carries six of
 * them, beyond that its length takes four more and it carries two (clause 9.6.2).
 */
export function tpFrames(bytes: number, room = frameBytes): number {
  if (bytes <= singleBytes(room)) return 1
  return 1 + Math.ceil((bytes - firstBytes(bytes, room)) / (room - 1))
}

/** Bytes of a message that its first frame carries. */
export const firstBytes = (length: number, room = frameBytes): number => room - (length <= shortMax ? 2 : 6)

const statuses: readonly FlowStatus[] = ['continue', 'wait', 'overflow']

/** What fills a frame to eight bytes; `none` leaves it as long as what it carries (clause 10.4.2). */
export type TpPadding = number | 'none'

/** Few stuff bits come of it (clause 10.4.2.1). */
const usualPadding = 0xcc

/**
 * A frame's bytes.
 * @param address first byte of each frame, with extended or mixed addressing.
 */
export function encodeTp(frame: TpFrame, padding: TpPadding = usualPadding, address?: number): Uint8Array {
  const head = address === undefined ? [] : [address]
  const bytes = concatBytes([Uint8Array.from(head), unitOf(frame, frameBytes - head.length)])
  if (padding === 'none' || bytes.length === frameBytes) return bytes
  const whole = new Uint8Array(frameBytes).fill(padding)
  whole.set(bytes)
  return whole
}

/** What a frame says, within the bytes that it has for it. */
function unitOf(frame: TpFrame, room: number): Uint8Array {
  switch (frame.kind) {
    case 'single':
      return concatBytes([Uint8Array.of(frame.data.length), frame.data])
    case 'first': {
      const { length } = frame
      const head =
        length <= shortMax
          ? [0x10 | (length >> 8), length & 255]
          : [0x10, 0, length >>> 24, (length >> 16) & 255, (length >> 8) & 255, length & 255]
      return concatBytes([Uint8Array.from(head), frame.data.subarray(0, room - head.length)])
    }
    case 'consecutive':
      return concatBytes([Uint8Array.of(0x20 | frame.sequence), frame.data.subarray(0, room - 1)])
    case 'flow':
      return Uint8Array.of(
        0x30 | statuses.indexOf(frame.status),
        frame.blockSize,
        encodeSeparation(frame.separationMs),
      )
  }
}

/**
 * What a frame is, or null when it is none of these (clause 9.6: such frames are ignored).
 * @param hasAddress its first byte is an address, which the caller has looked at.
 */
export function decodeTp(whole: Uint8Array, hasAddress = false): TpFrame | null {
  const data = hasAddress ? whole.subarray(1) : whole
  const room = frameBytes - Number(hasAddress)
  const [head, second = 0] = data
  if (head === undefined) return null
  const low = head & 15
  switch (head >> 4) {
    case 0:
      return low >= 1 && low <= singleBytes(room) && data.length > low
        ? { kind: 'single', data: data.slice(1, 1 + low) }
        : null
    case 1: {
      if (data.length < room) return null
      const short = (low << 8) | second
      if (short > singleBytes(room)) return { kind: 'first', length: short, data: data.slice(2) }
      if (short !== 0) return null
      const length = new DataView(data.buffer, data.byteOffset).getUint32(2)
      return length > shortMax ? { kind: 'first', length, data: data.slice(6) } : null
    }
    case 2:
      return data.length > 1 ? { kind: 'consecutive', sequence: low, data: data.slice(1) } : null
    case 3: {
      const status = statuses[low]
      return status && data.length >= 3
        ? { kind: 'flow', status, blockSize: second, separationMs: decodeSeparation(data[2]!) }
        : null
    }
    default:
      return null
  }
}

/** STmin (clause 9.6.5.4): 00–7F are milliseconds, F1–F9 hundreds of microseconds; a reserved value counts as 127 ms. */
export function decodeSeparation(value: number): number {
  if (value <= 0x7f) return value
  return value >= 0xf1 && value <= 0xf9 ? (value - 0xf0) / 10 : 127
}

/** The smallest STmin that keeps the separation. */
export function encodeSeparation(ms: number): number {
  if (ms > 0 && ms <= 0.9) return 0xf0 + Math.ceil(Math.round(ms * 1e6) / 1e5)
  return Math.min(127, Math.ceil(ms))
}
