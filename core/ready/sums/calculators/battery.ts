import { chemistries, chemistryFacts } from '../../power/chemistry'
import type { Stretch, SupplySetup } from '../../power/supply'
import { field, type SumField } from '../sum'

/** Sources that have a charge; a supply that holds its volts does not sag so. */
export const batteryChemistries = chemistries.filter((each) => chemistryFacts[each].restVolts)

/** What every sum about a battery asks. */
export const batteryFields: readonly SumField[] = [
  {
    ...field('chemistry', 'Battery', 'count', batteryChemistries[0]!),
    choices: batteryChemistries,
  },
  field('cells', 'Cells in series', 'count', '6', 1, 400),
  field('capacityAh', 'Printed capacity', 'ampere-hours', '70 Ah', 0.01, 20000),
  field('percent', 'State of charge', 'percent', '75 %', 0, 100),
  field('celsius', 'Temperature', 'celsius', '15 °C', -60, 90),
  field('amps', 'Draw', 'amps', '10 A', 0, 5000),
  field('leadOhms', 'Leads, there and back', 'ohms', '20 mohm', 0, 10),
  field('ms', 'For', 'milliseconds', '15 min', 1, 4e8),
  field('floorVolts', 'Floor', 'volts', '12.0 V', 0, 1000),
]

/** The same as a supply with one stretch. Percent is of the full charge. */
export function batteryOf(values: Readonly<Record<string, number>>): {
  setup: SupplySetup
  stretches: Stretch[]
  floorVolts: number
  amps: number
} {
  const of = (id: string) => values[id] ?? 0
  return {
    setup: {
      source: {
        chemistry: batteryChemistries[of('chemistry')] ?? batteryChemistries[0]!,
        cells: Math.round(of('cells')),
        capacityAh: of('capacityAh'),
        charge: of('percent') / 100,
        celsius: of('celsius'),
      },
      leadOhms: of('leadOhms'),
      loads: [],
      charger: null,
    },
    stretches: [{ name: 'draw', ms: of('ms'), unitAmps: of('amps') }],
    floorVolts: of('floorVolts'),
    amps: of('amps'),
  }
}
