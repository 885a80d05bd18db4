import { voltsText } from '../../../kernel'
import { freshSupply } from '../../power/fresh-supply'
import { loadsToShed } from '../../power/remedies'
import { supplyCourse, type Load } from '../../power/supply'
import { field, figure, type Sum } from '../sum'
import { batteryFields, batteryOf } from './battery'

const loads = [
  ['lamps', 'Headlamps', '11 A'],
  ['blower', 'Blower', '4 A'],
  ['cabin', 'Cabin lights', '2 A'],
  ['sockets', 'Camera and sockets', '1.5 A'],
] as const

/** The calculator of this: its questions, its answer and its picture. */
export const shedListSum: Sum = {
  id: 'shed-list',
  name: 'Which loads to shed',
  source:
    'Loads are shed first, the fewest that do it (common practice); the supply model of core/ready/power.',
  fields: [...batteryFields, ...loads.map(([id, name, amps]) => field(id, name, 'amps', amps, 0, 1000))],
  work(values) {
    const { setup: bare, stretches, floorVolts } = batteryOf(values)
    const all: Load[] = loads.map(([id, name]) => ({
      id,
      name,
      amps: values[id] ?? 0,
      shed: name,
      off: false,
    }))
    const setup = { ...bare, loads: all }
    const shed = loadsToShed(setup, stretches, floorVolts)
    const lowest = (off: readonly string[]) =>
      supplyCourse(
        { ...setup, loads: all.map((load) => ({ ...load, off: off.includes(load.id) })) },
        stretches,
      ).lowestVolts
    const order = shed ?? [...all].sort((a, b) => b.amps - a.amps)
    const steps = [[], ...order.map((_, index) => order.slice(0, index + 1).map(({ id }) => id))]
    return {
      numbers: {
        lowestVolts: lowest([]),
        shedCount: shed?.length ?? -1,
        afterVolts: lowest(order.map(({ id }) => id)),
      },
      says: [
        {
          label: 'Shed',
          value:
            shed === null
              ? 'all is not enough'
              : shed.length === 0
                ? 'nothing'
                : shed.map(({ name }) => name).join(', then '),
        },
        { label: 'Lowest with all on', value: voltsText(lowest([])) },
        { label: 'Lowest then', value: voltsText(lowest(order.map(({ id }) => id))) },
      ],
      picture: {
        kind: 'bars',
        unit: 'V',
        limit: { label: 'floor', value: floorVolts },
        rows: steps.map((off, index) => ({
          label: index === 0 ? 'all on' : `without ${order[index - 1]!.name}`,
          parts: [{ label: '', value: lowest(off) }],
          chosen: index === steps.length - 1,
        })),
      },
      findings: [
        shed === null
          ? {
              rule: 'shed-list',
              level: 'stop',
              says: 'With every load off it still sags below the floor.',
              because: `Floor ${voltsText(floorVolts)}, lowest ${voltsText(lowest(all.map(({ id }) => id)))}.`,
              remedy: freshSupply(setup.source.chemistry),
            }
          : {
              rule: 'shed-list',
              level: 'go',
              says:
                shed.length === 0
                  ? 'Nothing has to be shed.'
                  : `${shed.length} of ${all.length} loads off holds the floor.`,
              because:
                shed.map(({ name, amps }) => `${name} ${figure(amps, 'A', 1)}`).join(', ') ||
                voltsText(lowest([])),
            },
      ],
    }
  },
}
