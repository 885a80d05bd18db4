import { awgSquareMillimetres, gaugeName, voltsText } from '../../../kernel'
import { field, figure, type Sum } from '../sum'
import { leadDrop, nearestAwg } from '../wire'

/** The calculator of this: its questions, its answer and its picture. */
export const leadDropSum: Sum = {
  id: 'lead-drop',
  name: 'Drop in a lead',
  source: 'Annealed copper 1/58 ohm·mm²/m at 20 °C, 0.00393 per kelvin (IEC 60028); AWG by ASTM B258.',
  fields: [
    field('metres', 'Length, one way', 'metres', '3 m', 0, 1000),
    field('squareMillimetres', 'Cross-section', 'square-millimetres', '2.5 mm2', 0.01, 500),
    field('amps', 'Current', 'amps', '10 A', 0, 1000),
    field('celsius', 'Temperature', 'celsius', '20 °C', -60, 200),
  ],
  puts: ({ ohms }) => ({ leadOhms: ohms! }),
  work(values) {
    const { metres, squareMillimetres, amps, celsius } = values as Record<
      'metres' | 'squareMillimetres' | 'amps' | 'celsius',
      number
    >
    const { ohms, dropVolts, lostWatts } = leadDrop({ metres, squareMillimetres, amps, celsius })
    const gauge = nearestAwg(squareMillimetres)
    return {
      numbers: { ohms, dropVolts, lostWatts },
      says: [
        { label: 'Lost in the lead', value: voltsText(dropVolts) },
        { label: 'There and back', value: figure(ohms * 1000, 'mohm', 1) },
        { label: 'As heat', value: figure(lostWatts, 'W', 1) },
        {
          label: 'Nearest gauge',
          value: `${gaugeName(gauge)}, ${figure(awgSquareMillimetres(gauge), 'mm²')}`,
        },
      ],
      picture: {
        kind: 'bars',
        unit: 'V lost',
        rows: [gauge + 3, gauge, gauge - 3, gauge - 6].map((each) => ({
          label: `${each < 1 ? `${1 - each}/0` : each} AWG`,
          parts: [
            {
              label: '',
              value: leadDrop({ metres, squareMillimetres: awgSquareMillimetres(each), amps, celsius })
                .dropVolts,
            },
          ],
          chosen: each === gauge,
        })),
      },
      findings: [],
    }
  },
}
