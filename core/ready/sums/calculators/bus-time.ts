import { durationText } from '../../../kernel'
import { canFrameBits, segmentedMs } from '../../../link'
import { field, type Sum } from '../sum'

export const busTimeSum: Sum = {
  id: 'bus-time',
  name: 'Run time on a vehicle bus',
  source:
    'Frame lengths and bit stuffing of ISO 11898-1; seven bytes a frame, ISO 15765-2, no rests between frames.',
  fields: [
    field('bytes', 'Image', 'bytes', '192 KiB', 1, 2 ** 32),
    field('bitrate', 'Speed of the bus, bit/s', 'baud', '500000', 1000, 1e7),
    field('eraseMs', 'Erasing takes', 'milliseconds', '4 s'),
  ],
  work({ bytes, bitrate, eraseMs }) {
    const { frames, leastMs, mostMs } = segmentedMs(bytes!, bitrate!)
    const { least, most } = canFrameBits(8)
    return {
      numbers: { frames, leastMs: leastMs + eraseMs!, mostMs: mostMs + eraseMs! },
      says: [
        { label: 'In all, at most', value: durationText(mostMs + eraseMs!) },
        { label: 'On the wire', value: `${durationText(leastMs)} to ${durationText(mostMs)}` },
        { label: 'Frames', value: String(frames) },
        { label: 'Bits a frame', value: `${least} to ${most}` },
      ],
      picture: {
        kind: 'bars',
        unit: 's',
        rows: [
          {
            label: 'no stuff bits',
            parts: [
              { label: 'erase', value: eraseMs! / 1000 },
              { label: 'wire', value: leastMs / 1000 },
            ],
          },
          {
            label: 'most stuff bits',
            parts: [
              { label: 'erase', value: eraseMs! / 1000 },
              { label: 'wire', value: mostMs / 1000 },
            ],
          },
        ],
      },
      findings: [],
    }
  },
}
