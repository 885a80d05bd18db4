import { canFrameBits } from '../can'
import { singleBytes, tpFrames } from '../isotp'
import { wireMs, type SerialSettings } from '../port'

/** What decides how long an image takes over the vehicle bus. */
export interface BusUpload {
  bitsPerSecond: number
  /** Bytes of one transfer message, its service and its counter included (ISO 14229-1, service 34 answers it). */
  messageBytes: number
  /** Line to an adapter that carries frames as text; none where it costs nothing. */
  adapter?: SerialSettings
  /** Each frame begins with a byte of address (extended addressing). */
  addressed?: boolean
}

/** What a transfer by the services takes. */
export interface UploadTime {
  frames: number
  /** Without any stuff bit, with those of random bytes, and with the most there can be, ms. */
  minMs: number
  likelyMs: number
  maxMs: number
}

/** Service 36 and its counter before the data, and the two bytes of its answer. */
const headBytes = 2
/** Characters of a full frame in the adapter's text: `t7E08`, 16 digits and a return; and `z` with a return to a sent one. */
const frameCharacters = 22
const answerCharacters = 2

/**
 * An image in transfer messages: each is segmented (ISO 15765-2), the unit gives leave once and answers once, every frame
 * is padded to eight bytes. Without rests between frames, without the unit's thinking. Calculator and plan both ask here.
 */
export function uploadTime(
  bytes: number,
  { bitsPerSecond, messageBytes, adapter, addressed }: BusUpload,
): UploadTime {
  const max = messageBytes - headBytes
  const room = addressed ? 7 : 8
  const whole = Math.floor(bytes / max)
  const rest = bytes % max
  const lengths = [...(whole > 0 ? [{ length: messageBytes, count: whole }] : [])]
  if (rest > 0) lengths.push({ length: rest + headBytes, count: 1 })
  let [sent, heard] = [0, 0]
  for (const { length, count } of lengths) {
    sent += count * tpFrames(length, room)
    heard += count * (length > singleBytes(room) ? 2 : 1)
  }
  const frames = sent + heard
  const textMs = adapter ? wireMs(frames * frameCharacters + sent * answerCharacters, adapter) : 0
  const bits = canFrameBits(8)
  const ms = (each: number) => (frames * each * 1000) / bitsPerSecond + textMs
  return { frames, minMs: ms(bits.min), likelyMs: ms(bits.likely), maxMs: ms(bits.max) }
}
