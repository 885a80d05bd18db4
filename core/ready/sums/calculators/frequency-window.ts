import { field, figure, type Sum } from '../sum'
import { judgeFrequency } from '../thresholds'

/** The calculator of this: its questions, its answer and its picture. */
export const frequencyWindowSum: Sum = {
  id: 'frequency-window',
  name: 'Frequency window',
  source: '58 to 63 Hz on a 60 Hz system (common practice); in proportion on 50 Hz: 48.33 to 52.5 Hz.',
  fields: [
    field('hertz', 'Measured', 'hertz', '60 Hz', 1, 1000),
    field('system', 'System', 'hertz', '60 Hz', 50, 60),
  ],
  work({ hertz, system }) {
    const finding = judgeFrequency(hertz!, system! >= 55 ? 60 : 50)
    return {
      numbers: finding.numbers ?? {},
      says: [{ label: 'Measured', value: figure(hertz!, 'Hz', 1) }],
      picture: {
        kind: 'scale',
        unit: 'Hz',
        window: { from: finding.numbers!['minHertz']!, to: finding.numbers!['maxHertz']! },
        marks: [{ label: 'measured', value: hertz! }],
      },
      findings: [finding],
    }
  },
}
