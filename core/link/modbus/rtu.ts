import { crc16Modbus, Problem, hexText } from '../../kernel'
import { bitsPerCharacter, type Port, type SerialSettings } from '../port'

/*
 * Modbus RTU framing: Modbus over Serial Line V1.02, clause 2.5.1. A frame is address, function, data and CRC-16 with
 * its low byte first; frames are told apart by a silence of at least 3.5 characters.
 */

/** A frame of Modbus RTU, its CRC taken off. */
export interface RtuFrame {
  /** 1 to 247; 0 is for all and is never answered (clause 2.2). */
  address: number
  /** Function code and data (Application Protocol V1.1b3, clause 4.1). */
  pdu: Uint8Array
}

/** Longest frame on a serial line, bytes (clause 2.5.1: 256). */
export const longestFrame = 256

/** Silence that ends a frame, ms: 3.5 characters, and 1.75 ms above 19 200 baud (clause 2.5.1.1). */
export function silenceMs(settings: SerialSettings): number {
  return settings.baudRate > 19_200 ? 1.75 : (3.5 * bitsPerCharacter(settings) * 1000) / settings.baudRate
}

/** A frame as it goes over the wire. */
export function writeRtu({ address, pdu }: RtuFrame): Uint8Array {
  const frame = new Uint8Array(pdu.length + 3)
  frame[0] = address
  frame.set(pdu, 1)
  const crc = crc16Modbus(frame.subarray(0, pdu.length + 1))
  frame[frame.length - 2] = crc & 0xff
  frame[frame.length - 1] = crc >> 8
  return frame
}

/**
 * Reads a frame.
 * @throws Problem `modbus-frame` when it is short, long, or its CRC does not hold.
 */
export function readRtu(frame: Uint8Array): RtuFrame {
  const bad = (says: string, found: string) =>
    new Problem({
      kind: 'modbus-frame',
      says,
      found,
      remedy: 'Look at speed, parity and the data pair; with two units at one address their answers collide.',
    })
  if (frame.length < 4 || frame.length > longestFrame) {
    throw bad('this is no Modbus frame', `${frame.length} bytes`)
  }
  const body = frame.subarray(0, frame.length - 2)
  const said = frame[frame.length - 2]! | (frame[frame.length - 1]! << 8)
  const crc = crc16Modbus(body)
  if (said !== crc) {
    throw bad('the frame’s CRC does not hold', `${hexText(said, 4)} where ${hexText(crc, 4)} was due`)
  }
  return { address: frame[0]!, pdu: body.slice(1) }
}

/** Bytes that an answer beginning so will have with its CRC; null while too little is there to tell. */
export function answerLength(head: Uint8Array): number | null {
  const code = head[1]
  if (code === undefined) return null
  // An exception: address, function, code, CRC (V1.1b3, clause 7).
  if (code & 0x80) return 5
  switch (code) {
    case 0x03:
    case 0x14:
    case 0x15:
      return head[2] === undefined ? null : 5 + head[2]
    case 0x06:
    case 0x10:
      return 8
    case 0x2b: {
      // Clause 6.21: six bytes, the number of objects, then each with its identifier and length.
      const objects = head[7]
      if (objects === undefined) return null
      let at = 8
      for (let each = 0; each < objects; each++) {
        const length = head[at + 1]
        if (length === undefined) return null
        at += 2 + length
      }
      return at + 2
    }
    default:
      return null
  }
}

/**
 * The bytes of one frame as they come: until its length is complete, or a silence ends it.
 * @param timeoutMs longest wait for the first byte.
 * @param gapMs silence that ends a frame of unknown length; a converter that hands on in packets needs more than the wire.
 * @returns null when nothing came.
 */
export async function receiveFrame(
  port: Port,
  timeoutMs: number,
  gapMs: number,
  length: (head: Uint8Array) => number | null = answerLength,
): Promise<Uint8Array | null> {
  let got: Uint8Array = new Uint8Array(0)
  for (;;) {
    const more = await port.read(longestFrame, got.length === 0 ? timeoutMs : gapMs)
    if (!more) return got.length === 0 ? null : got
    const joined = new Uint8Array(got.length + more.length)
    joined.set(got)
    joined.set(more, got.length)
    got = joined
    const due = length(got)
    if ((due !== null && got.length >= due) || got.length >= longestFrame) return got
  }
}
