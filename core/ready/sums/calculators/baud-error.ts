import { judgeBaud, nearestDivisor } from '../baud'
import { field, figure, type Sum } from '../sum'

/** Characters as lines are set, each with its bits from start to stop. */
const frames = ['8N1', '8E1', '8N2', '8E2', '7E1'] as const
const bitsOf = [10, 11, 11, 12, 10] as const

/** The calculator of this: its questions, its answer and its picture. */
export const baudErrorSum: Sum = {
  id: 'baud-error',
  name: 'Baud error of two ends',
  source:
    'The last of n bits is sampled n − ½ bit times after the start edge, which is found up to one look late; derivation in core/ready/sums/baud.ts.',
  fields: [
    field('baud', 'Speed wanted', 'baud', '115200', 50, 12e6),
    field('firstHertz', 'Clock of the adapter', 'hertz', '48 MHz', 1e3, 1e9),
    field('secondHertz', 'Clock of the unit', 'hertz', '16 MHz', 1e3, 1e9),
    field('firstDivisor', 'Divisor of the adapter (0: the nearest)', 'count', '0', 0, 1e6),
    field('secondDivisor', 'Divisor of the unit (0: the nearest)', 'count', '0', 0, 1e6),
    field('oversampling', 'Times a bit is sampled', 'count', '16', 4, 32),
    {
      ...field('frame', 'Bits of a character', 'count', frames[0]),
      choices: frames,
    },
  ],
  work(values) {
    const of = (id: string) => values[id] ?? 0
    const [baud, oversampling] = [of('baud'), of('oversampling')]
    const end = (clockHertz: number, said: number) => {
      const divisor = said >= 1 ? Math.round(said) : nearestDivisor(clockHertz, baud, oversampling).divisor
      return { clockHertz, clocksPerBit: divisor * oversampling, divisor }
    }
    const ends = [
      end(of('firstHertz'), of('firstDivisor')),
      end(of('secondHertz'), of('secondDivisor')),
    ] as const
    const bitsInFrame = bitsOf[of('frame')] ?? 10
    // Both ends hear: the worse direction is shown, as at the gate.
    const frame = { bitsInFrame, oversampling }
    const both = [judgeBaud(ends[0], ends[1], frame), judgeBaud(ends[1], ends[0], frame)]
    const finding = both.reduce((worse, each) =>
      each.numbers!['worstError']! > worse.numbers!['worstError']! ? each : worse,
    )
    return {
      numbers: finding.numbers ?? {},
      says: [
        { label: 'Difference', value: figure((finding.numbers?.['worstError'] ?? 0) * 100, '%') },
        ...ends.map(({ clockHertz, clocksPerBit, divisor }, index) => ({
          label: index === 0 ? 'Adapter' : 'Unit',
          value: `${Math.round(clockHertz / clocksPerBit)} baud, divisor ${divisor}`,
        })),
      ],
      picture: {
        kind: 'bits',
        bits: bitsInFrame,
        samples: Array.from(
          { length: bitsInFrame },
          (_, bit) => (bit + 0.5) / (1 + (finding.numbers?.['error'] ?? 0)),
        ),
      },
      findings: [finding],
    }
  },
}
