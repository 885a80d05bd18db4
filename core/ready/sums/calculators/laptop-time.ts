import { durationText } from '../../../kernel'
import { bankMinutes, judgeLaptop, usualBankEfficiency } from '../laptop'
import { field, type Sum } from '../sum'

/** The calculator of this: its questions, its answer and its picture. */
export const laptopTimeSum: Sum = {
  id: 'laptop-time',
  name: 'Laptop time',
  source: `Twice the run is wanted (common practice). A power bank gives ${usualBankEfficiency * 100} % of what is printed (from memory).`,
  fields: [
    field('runMs', 'The run takes', 'milliseconds', '11 min'),
    field('leftMs', 'The battery lasts', 'milliseconds', '90 min'),
    field('bankWattHours', 'Power bank on it', 'watt-hours', '0 Wh', 0, 1e5),
    field('laptopWatts', 'The laptop draws', 'watts', '20 W', 1, 1000),
  ],
  puts: ({ minutesLeft }) => ({ laptop: { onMains: false, minutesLeft: minutesLeft ?? null } }),
  work({ runMs, leftMs, bankWattHours, laptopWatts }) {
    const bank = bankMinutes({ wattHours: bankWattHours!, laptopWatts: laptopWatts! })
    const minutesLeft = leftMs! / 60_000 + bank
    const finding = judgeLaptop({ onMains: false, minutesLeft, runMs: runMs! })
    return {
      numbers: finding.numbers ?? {},
      says: [{ label: 'Wanted', value: durationText(2 * runMs!) }],
      picture: {
        kind: 'bars',
        unit: 'min',
        limit: { label: 'wanted', value: (2 * runMs!) / 60_000 },
        rows: [
          { label: 'the run', parts: [{ label: '', value: runMs! / 60_000 }] },
          {
            label: 'battery',
            parts: [
              { label: 'battery', value: leftMs! / 60_000 },
              { label: 'bank', value: bank },
            ],
            chosen: true,
          },
        ],
      },
      findings: [finding],
    }
  },
}
