import { durationText } from '../../../kernel'
import { blockCount, xmodemWireMs } from '../../../link'
import { field, type Sum } from '../sum'

/** The calculator of this: its questions, its answer and its picture. */
export const runTimeSum: Sum = {
  id: 'run-time',
  name: 'Run time on a serial line',
  source:
    'Blocks of 1 024 bytes with 5 around and 1 answer, 10 bits each (Forsberg 1988); erase and program times added.',
  fields: [
    field('bytes', 'Image', 'bytes', '256 KiB', 1, 2 ** 32),
    field('baud', 'Speed', 'baud', '115200', 50, 12e6),
    field('eraseMs', 'Erasing takes', 'milliseconds', '3 s'),
    field('programMs', 'Programming takes', 'milliseconds', '2 s'),
  ],
  work({ bytes, baud, eraseMs, programMs }) {
    const wire = xmodemWireMs(bytes!, 1024, { baudRate: baud!, dataBits: 8, parity: 'none', stopBits: 1 })
    const total = wire + eraseMs! + programMs!
    const { large, small } = blockCount(bytes!, 1024)
    return {
      numbers: { wireMs: wire, totalMs: total, bytesPerSecond: (bytes! * 1000) / wire },
      says: [
        { label: 'In all', value: durationText(total) },
        { label: 'On the wire', value: durationText(wire) },
        { label: 'Blocks', value: `${large} of 1 024${small ? `, ${small} of 128` : ''}` },
        { label: 'Look away for', value: total < 60_000 ? 'stay there' : durationText(total * 0.9) },
      ],
      picture: {
        kind: 'bars',
        unit: 's',
        rows: [
          {
            label: 'the run',
            parts: [
              { label: 'erase', value: eraseMs! / 1000 },
              { label: 'wire', value: wire / 1000 },
              { label: 'program', value: programMs! / 1000 },
            ],
          },
        ],
      },
      findings: [],
    }
  },
}
