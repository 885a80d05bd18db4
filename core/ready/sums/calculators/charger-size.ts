import { voltsText } from '../../../kernel'
import { chargerVoltsOf } from '../../power/judge-power'
import { chargerSizes, smallestCharger } from '../../power/remedies'
import { supplyCourse } from '../../power/supply'
import { figure, type Sum } from '../sum'
import { batteryFields, batteryOf } from './battery'

export const chargerSizeSum: Sum = {
  id: 'charger-size',
  name: 'Smallest charger that holds the floor',
  source:
    'A charger of 5 to 6 A at 12 V stays on through read and write (common practice); the supply model of core/ready/power.',
  fields: batteryFields,
  puts: ({ chargerAmps, chargerVolts }) =>
    chargerAmps === undefined ? {} : { charger: { amps: chargerAmps, volts: chargerVolts! } },
  work(values) {
    const { setup, stretches, floorVolts } = batteryOf(values)
    const chargerVolts = chargerVoltsOf(setup)
    const smallest = smallestCharger(setup, stretches, floorVolts, chargerVolts)
    const lowest = (amps: number) =>
      supplyCourse({ ...setup, charger: amps > 0 ? { amps, volts: chargerVolts } : null }, stretches)
        .lowestVolts
    const at = smallest === null ? -1 : chargerSizes.indexOf(smallest as (typeof chargerSizes)[number])
    const shown = [0, ...chargerSizes.slice(Math.max(0, at - 2), Math.max(3, at + 2))]
    return {
      numbers: {
        withoutVolts: lowest(0),
        ...(smallest ? { chargerAmps: smallest, chargerVolts, withVolts: lowest(smallest) } : {}),
      },
      says: [
        {
          label: 'Smallest charger',
          value:
            smallest === null
              ? 'none sold does'
              : smallest === 0
                ? 'none is needed'
                : figure(smallest, 'A', 0),
        },
        { label: 'Lowest without', value: voltsText(lowest(0)) },
        ...(smallest ? [{ label: 'Lowest with it', value: voltsText(lowest(smallest)) }] : []),
      ],
      picture: {
        kind: 'bars',
        unit: 'V',
        limit: { label: 'floor', value: floorVolts },
        rows: shown.map((amps) => ({
          label: amps === 0 ? 'none' : `${amps} A`,
          parts: [{ label: '', value: lowest(amps) }],
          chosen: amps === smallest,
        })),
      },
      findings: [
        smallest === null
          ? {
              rule: 'charger-size',
              level: 'stop',
              says: 'No charger that is sold holds this floor.',
              because: `Even ${chargerSizes[chargerSizes.length - 1]} A leaves ${voltsText(lowest(chargerSizes[chargerSizes.length - 1]!))}.`,
              remedy: 'Shorten the leads, shed loads, or change the battery.',
            }
          : {
              rule: 'charger-size',
              level: 'go',
              says:
                smallest === 0
                  ? 'The battery holds it alone.'
                  : `A charger of ${smallest} A holds the floor.`,
              because: `Floor ${voltsText(floorVolts)}; the charger stands at ${voltsText(chargerVolts)}.`,
            },
      ],
    }
  },
}
