import { durationText } from '../../../kernel'
import { canFrameBits, uploadTime } from '../../../link'
import { field, type Sum } from '../sum'

/** The calculator of this: its questions, its answer and its picture. */
export const busTimeSum: Sum = {
  id: 'bus-time',
  name: 'Run time on a vehicle bus',
  source:
    'Frame lengths and bit stuffing of ISO 11898-1; segments of ISO 15765-2, no rests between frames; the same function as the plan of a run.',
  fields: [
    field('bytes', 'Image', 'bytes', '192 KiB', 1, 2 ** 32),
    field('bitrate', 'Speed of the bus, bit/s', 'baud', '500000', 1000, 1e7),
    field('messageBytes', 'Bytes of one message', 'bytes', '1026', 8, 2 ** 32),
    field('adapterBaud', 'Line to the adapter (0: none)', 'baud', '2000000', 0, 12e6),
    field('eraseMs', 'Erasing takes', 'milliseconds', '4 s'),
  ],
  work(values) {
    const { bytes, bitrate, messageBytes, adapterBaud, eraseMs } = values as Record<
      'bytes' | 'bitrate' | 'messageBytes' | 'adapterBaud' | 'eraseMs',
      number
    >
    const { frames, minMs, likelyMs, maxMs } = uploadTime(bytes, {
      bitsPerSecond: bitrate,
      messageBytes,
      ...(adapterBaud > 0
        ? { adapter: { baudRate: adapterBaud, dataBits: 8, parity: 'none', stopBits: 1 } }
        : {}),
    })
    const { min, max } = canFrameBits(8)
    const bar = (label: string, wire: number) => ({
      label,
      parts: [
        { label: 'erase', value: eraseMs / 1000 },
        { label: 'wire', value: wire / 1000 },
      ],
    })
    return {
      numbers: {
        frames,
        minMs: minMs + eraseMs,
        likelyMs: likelyMs + eraseMs,
        maxMs: maxMs + eraseMs,
      },
      says: [
        { label: 'In all', value: durationText(likelyMs + eraseMs) },
        { label: 'On the wire', value: `${durationText(minMs)} to ${durationText(maxMs)}` },
        { label: 'Frames', value: String(frames) },
        { label: 'Bits a frame', value: `${min} to ${max}` },
      ],
      picture: {
        kind: 'bars',
        unit: 's',
        rows: [
          bar('no stuff bits', minMs),
          { ...bar('likely', likelyMs), chosen: true },
          bar('most stuff bits', maxMs),
        ],
      },
      findings: [],
    }
  },
}
