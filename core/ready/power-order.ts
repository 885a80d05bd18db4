import type { Family, OrderItem } from '../family'
import { inSentence, verdictOf, type Finding } from '../kernel'
import type { BenchInputs } from './bench-inputs'
import type { Gate } from './gate'

/**
 * PRACTICE D4, D6, D8, E8: what is switched on and off before the write, in order.
 * @param done items ticked, by id.
 * @param inRun true where the run itself asks for each before it opens the port.
 */
export function judgePowerOrder(family: Family, done: readonly string[], inRun: boolean): Gate {
  const items = family.powerOrder?.on ?? []
  const rule = 'power-order'
  const open = items.filter(({ id }) => !done.includes(id))
  const [next] = open
  const finding: Finding =
    !next || inRun
      ? {
          rule,
          level: 'go',
          says:
            items.length === 0
              ? 'This family asks for no order of power.'
              : inRun
                ? `The run asks for ${items.length} steps of power before it opens the port.`
                : 'Power stands as it must.',
          because: items.map(({ does }) => does).join(' ') || family.name,
        }
      : {
          rule,
          level: next.caution ? 'stop' : 'hold',
          says: `Next: ${next.does}`,
          because: next.caution ?? `${open.length} of ${items.length} steps of power are left.`,
          remedy: 'Do it, then tick it.',
          numbers: { left: open.length },
        }
  return {
    id: 'order',
    name: 'Order of power',
    verdict: verdictOf([finding]),
    findings: [finding],
    numbers: {},
  }
}

/** What may be ticked next: the first that is not, and whatever is ticked already. The order is the point of it. */
export function mayTick(items: readonly { id: string }[], done: readonly string[], id: string): boolean {
  const next = items.find((item) => !done.includes(item.id))
  return done.includes(id) || next?.id === id
}

/**
 * PRACTICE J3, D4, F4: what is put back when a job is closed: the adapter off and the plugs of neighbours back, then power
 * in the family's own order, then each load that was shed, by the words by which it was shed. A fuse left out is found
 * by the customer. What a step of that order undoes is not asked for twice.
 * @param form.ran false where no run was started: power was then put in order only where a person ticked a step of it.
 * @param form.real true where the run went over a real port: its adapter is still joined.
 */
export function takeDownOf(
  family: Family,
  said: BenchInputs,
  { ran = true, real = false }: { ran?: boolean; real?: boolean } = {},
): OrderItem[] {
  const shed = new Set(said.shed)
  const off = new Set(said.isolation?.unplugged)
  const loads = (family.power.supply?.loads ?? []).filter(({ id }) => shed.has(id))
  const neighbours = (family.isolation?.neighbours ?? []).filter(({ id }) => off.has(id))
  const order = ran || said.order?.length ? (family.powerOrder?.off ?? []) : []
  const undone = new Set(order.flatMap(({ undoes }) => (undoes === undefined ? [] : [undoes])))
  const joined: OrderItem[] = [
    ...(real && said.wiring?.adapterId
      ? [{ id: 'adapter', does: 'Adapter off: at the computer first, then at the unit.' }]
      : []),
    ...neighbours.map(({ id, name, unplug }) => ({ id, does: `${name} back: undo “${inSentence(unplug)}”` })),
  ]
  const pulled: OrderItem[] = [
    ...loads.map(({ id, name, shed: how }) => ({ id: `load-${id}`, does: `${name} back: undo “${how}”.` })),
    ...(said.charger ? [{ id: 'charger', does: `Charger of ${said.charger.amps} A off the battery.` }] : []),
  ]
  const due = ({ id }: OrderItem) => !undone.has(id)
  return [...joined.filter(due), ...order, ...pulled.filter(due)]
}
