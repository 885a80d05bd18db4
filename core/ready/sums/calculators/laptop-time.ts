import { durationText } from '../../../kernel'
import { judgeLaptop } from '../laptop'
import { field, type Sum } from '../sum'

export const laptopTimeSum: Sum = {
  id: 'laptop-time',
  name: 'Laptop time',
  source: 'Twice the run is wanted (common practice).',
  fields: [
    field('runMs', 'The run takes', 'milliseconds', '11 min'),
    field('leftMs', 'The battery lasts', 'milliseconds', '90 min'),
  ],
  puts: ({ minutesLeft }) => ({ laptop: { onMains: false, minutesLeft: minutesLeft ?? null } }),
  work({ runMs, leftMs }) {
    const finding = judgeLaptop({ onMains: false, minutesLeft: leftMs! / 60_000, runMs: runMs! })
    return {
      numbers: finding.numbers ?? {},
      says: [{ label: 'Wanted', value: durationText(2 * runMs!) }],
      picture: {
        kind: 'bars',
        unit: 'min',
        limit: { label: 'wanted', value: (2 * runMs!) / 60_000 },
        rows: [
          { label: 'the run', parts: [{ label: '', value: runMs! / 60_000 }] },
          { label: 'battery', parts: [{ label: '', value: leftMs! / 60_000 }], chosen: true },
        ],
      },
      findings: [finding],
    }
  },
}
