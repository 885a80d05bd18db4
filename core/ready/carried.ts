import type { Family } from '../family'
import type { BenchInputs } from './bench-inputs'
import { chemistryFacts } from './power'
import type { Adapter } from './wiring'

/**
 * What a bench was at an earlier job and most likely still is: cable and wires, and what feeds the unit. Never carried is
 * what has to be looked at each time: volts, temperature, who was taken off the bus, steps of power, which supply is on,
 * whether contacts were looked at.
 * @param sameUnit false where it was another unit of the family: what feeds that one says nothing of this one.
 * @returns null where nothing is carried.
 */
export function carriedBench(said: BenchInputs, sameUnit: boolean): BenchInputs | null {
  const { wiring, chemistry, cells, capacityAh, setVolts, leadOhms, lead } = said
  const supply = { chemistry, cells, capacityAh, setVolts, leadOhms, lead }
  const carried: BenchInputs = {
    ...(wiring
      ? {
          wiring: {
            linkId: wiring.linkId,
            joins: wiring.joins,
            ...(wiring.adapterId === undefined ? {} : { adapterId: wiring.adapterId }),
            ...(wiring.level === undefined ? {} : { level: wiring.level }),
            ...(wiring.contact === undefined ? {} : { contact: wiring.contact }),
          },
        }
      : {}),
    ...(sameUnit
      ? Object.fromEntries(Object.entries(supply).filter(([, value]) => value !== undefined))
      : {}),
  }
  return Object.keys(carried).length > 0 ? carried : null
}

/** The same in words, for whoever says yes to it. */
export function carriedText(
  { wiring, chemistry, cells, capacityAh, lead }: BenchInputs,
  family: Pick<Family, 'links'>,
  adapters: readonly Pick<Adapter, 'id' | 'name'>[],
): string[] {
  const adapter = adapters.find(({ id }) => id === wiring?.adapterId)
  const link = family.links.find(({ id }) => id === wiring?.linkId)
  const wires = wiring?.joins.length ?? 0
  return [
    ...(adapter ? [adapter.name] : []),
    ...(wiring
      ? [`${link?.name ?? wiring.linkId}${wires > 0 ? `, ${wires} ${wires === 1 ? 'wire' : 'wires'}` : ''}`]
      : []),
    ...(chemistry
      ? [
          `${chemistryFacts[chemistry].name}${cells !== undefined && cells > 1 ? `, ${cells} cells` : ''}${capacityAh ? `, ${capacityAh} Ah` : ''}`,
        ]
      : []),
    ...(lead ? [`lead of ${lead.metres} m, ${lead.squareMillimetres} mm²`] : []),
  ]
}
