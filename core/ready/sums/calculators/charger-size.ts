import { fixedText, voltsText, type Finding } from '../../../kernel'
import { chargeLimit, chargerVoltsOf } from '../../power/charging'
import { chemistryFacts } from '../../power/chemistry'
import { freshSupply } from '../../power/fresh-supply'
import { chargerSizes, smallestCharger } from '../../power/remedies'
import { supplyCourse } from '../../power/supply'
import { figure, type Sum } from '../sum'
import { batteryFields, batteryOf } from './battery'

/** The calculator of this: its questions, its answer and its picture. */
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
    const limit = chargeLimit(setup, stretches)
    const smallest =
      chargerVolts === null ? null : smallestCharger(setup, stretches, floorVolts, chargerVolts)
    const lowest = (amps: number) =>
      supplyCourse(
        { ...setup, charger: amps > 0 && chargerVolts !== null ? { amps, volts: chargerVolts } : null },
        stretches,
      ).lowestVolts
    const bare = lowest(0)
    const holds = bare >= floorVolts
    const finding = (): Omit<Finding, 'rule'> => {
      const { name } = chemistryFacts[setup.source.chemistry]
      if (holds) {
        return {
          level: 'go',
          says: 'The battery holds it alone.',
          because: `Floor ${voltsText(floorVolts)}, lowest ${voltsText(bare)}.`,
        }
      }
      if (!limit) {
        return {
          level: 'stop',
          says: `${name} are never put on a charger, and alone they sag to ${voltsText(bare)}.`,
          because: 'Primary cells leak or burst when they are charged.',
          remedy: freshSupply(setup.source.chemistry),
        }
      }
      if (limit.tooCold || limit.tooHot) {
        return {
          level: 'stop',
          says: `At ${setup.source.celsius} °C this battery may not be charged.`,
          because: `${name}: from ${limit.celsius[0]} to ${limit.celsius[1]} °C.`,
          remedy: 'Bring it to that temperature first, or take another battery.',
        }
      }
      if (smallest === null) {
        const largest = chargerSizes.findLast((amps) => amps <= limit.amps) ?? 0
        return {
          level: 'stop',
          says: 'No charger that this battery takes holds this floor.',
          because: `Even ${largest} A leaves ${voltsText(lowest(largest))}; more than ${fixedText(limit.amps, 1)} A it does not take.`,
          remedy: 'Shorten the leads, shed loads, or change the battery.',
        }
      }
      return {
        level: 'go',
        says: `A charger of ${smallest} A holds the floor.`,
        because: `Floor ${voltsText(floorVolts)}; the charger stands at ${voltsText(chargerVolts!)}.`,
      }
    }
    const at = smallest === null ? -1 : chargerSizes.indexOf(smallest as (typeof chargerSizes)[number])
    const shown = limit ? [0, ...chargerSizes.slice(Math.max(0, at - 2), Math.max(3, at + 2))] : [0]
    return {
      numbers: {
        withoutVolts: bare,
        ...(limit ? { maxAmps: limit.amps } : {}),
        ...(smallest
          ? { chargerAmps: smallest, chargerVolts: chargerVolts!, withVolts: lowest(smallest) }
          : {}),
      },
      says: [
        {
          label: 'Smallest charger',
          value: holds
            ? 'none is needed'
            : !limit
              ? 'never charged: fresh cells'
              : smallest === null
                ? 'none does'
                : figure(smallest, 'A', 0),
        },
        { label: 'Lowest without', value: voltsText(bare) },
        ...(smallest ? [{ label: 'Lowest with it', value: voltsText(lowest(smallest)) }] : []),
        ...(limit ? [{ label: 'It takes at most', value: figure(limit.amps, 'A', 1) }] : []),
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
      findings: [{ rule: 'charger-size', ...finding() }],
    }
  },
}
