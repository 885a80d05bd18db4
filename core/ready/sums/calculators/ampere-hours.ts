import { durationText } from '../../../kernel'
import { chemistryFacts } from '../../power/chemistry'
import { peukertHours } from '../../power/peukert'
import { ampereHours } from '../../power/ampere-hours'
import { field, figure, type Sum } from '../sum'

/** The calculator of this: its questions, its answer and its picture. */
export const ampereHoursSum: Sum = {
  id: 'ampere-hours',
  name: 'Ampere-hours',
  source: 'Peukert 1897; exponent 1.2 for flooded lead-acid over 20 h (from memory).',
  fields: [
    field('capacityAh', 'Printed capacity', 'ampere-hours', '70 Ah', 0.01, 20000),
    field('percent', 'State of charge', 'percent', '80 %', 0, 100),
    field('amps', 'Draw', 'amps', '8 A', 0, 5000),
  ],
  work(values) {
    const { capacityAh, percent, amps } = values as Record<'capacityAh' | 'percent' | 'amps', number>
    const { peukert, ratedHours } = chemistryFacts['lead-acid']
    const sum = ampereHours({ capacityAh, charge: percent / 100, amps, ratedHours, peukert })
    return {
      numbers: {
        countedAmps: sum.countedAmps,
        usableAh: sum.usableAh,
        ...(sum.hours === null ? {} : { hours: sum.hours }),
      },
      says: [
        {
          label: 'Lasts',
          value: sum.hours === null ? 'nothing draws' : durationText(sum.hours * 3_600_000),
        },
        { label: 'Usable', value: figure(sum.usableAh, 'Ah', 1) },
        { label: 'Counts as', value: figure(sum.countedAmps, 'A', 1) },
        ...(amps > 0
          ? [
              {
                label: 'Full battery',
                value: figure(peukertHours(amps, capacityAh, ratedHours, peukert), 'h', 1),
              },
            ]
          : []),
      ],
      picture: {
        kind: 'bars',
        unit: 'Ah',
        rows: [
          { label: 'printed', parts: [{ label: '', value: capacityAh }] },
          { label: 'usable', parts: [{ label: '', value: sum.usableAh }], chosen: true },
        ],
      },
      findings: [],
    }
  },
}
