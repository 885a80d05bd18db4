import { voltsText } from '../../../kernel'
import { isChargeable } from '../../power/charging'
import { chemistryFacts } from '../../power/chemistry'
import { freshSupply } from '../../power/fresh-supply'
import { minutesToFloor, supplyCourse } from '../../power/supply'
import { figure, type Sum } from '../sum'
import { batteryFields, batteryOf } from './battery'

/** The calculator of this: its questions, its answer and its picture. */
export const sagSum: Sum = {
  id: 'sag',
  name: 'Sag of a battery',
  source:
    'Rest volts by charge, resistance of cells and leads, Peukert 1897; tables by chemistry from memory (core/ready/power).',
  fields: batteryFields,
  puts: ({ chemistry, cells, capacityAh, charge, celsius, leadOhms }) => ({
    chemistry: batteryOf({ chemistry: chemistry! }).setup.source.chemistry,
    cells: cells!,
    capacityAh: capacityAh!,
    charge: charge!,
    celsius: celsius!,
    leadOhms: leadOhms!,
  }),
  work(values) {
    const { setup, stretches, floorVolts, amps } = batteryOf(values)
    const course = supplyCourse(setup, stretches)
    const minutes = minutesToFloor(setup, amps, floorVolts)
    const margin = course.lowestVolts - floorVolts
    const { source, leadOhms } = setup
    return {
      numbers: {
        nowVolts: course.nowVolts,
        lowestVolts: course.lowestVolts,
        marginVolts: margin,
        chemistry: values['chemistry'] ?? 0,
        cells: source.cells,
        capacityAh: source.capacityAh,
        charge: source.charge,
        celsius: source.celsius,
        leadOhms,
        ...(minutes === null ? {} : { minutesToFloor: minutes }),
      },
      says: [
        { label: 'Lowest', value: voltsText(course.lowestVolts) },
        { label: 'At once', value: voltsText(course.nowVolts) },
        { label: 'Above the floor', value: voltsText(margin) },
        { label: 'Until the floor', value: minutes === null ? 'over 12 h' : figure(minutes, 'min', 0) },
      ],
      picture: {
        kind: 'curve',
        xUnit: 'min',
        yUnit: 'V',
        points: course.points.map(({ at, volts }) => ({ x: at / 60_000, y: volts })),
        limit: { label: 'floor', value: floorVolts },
      },
      findings: [
        {
          rule: 'sag',
          level: margin < 0 ? 'stop' : margin < 0.2 ? 'hold' : 'go',
          says:
            margin < 0
              ? `It sags to ${voltsText(course.lowestVolts)}, below the floor.`
              : `It holds, with ${voltsText(margin)} to spare.`,
          because: `${chemistryFacts[source.chemistry].name}, ${source.cells} cells, ${figure(amps, 'A', 1)}.`,
          ...(margin < 0.2
            ? {
                remedy: isChargeable(source.chemistry)
                  ? 'Put a charger on, or shed a load.'
                  : freshSupply(source.chemistry),
              }
            : {}),
        },
      ],
    }
  },
}
