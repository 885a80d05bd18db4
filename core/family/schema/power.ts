import * as v from 'valibot'
import { amount, slug, text, whole } from './fields'

/** What can feed a unit; core/ready/power knows how each behaves. */
export const supplyKinds = ['lead-acid', 'agm', 'lfp', 'nmc', 'alkaline', 'nimh', 'bench', 'mains'] as const

/** Whether the unit is switched on. */
export const powerState = v.picklist(['on', 'off'])

/** One thing that is done to power or plugs, with its caution. */
export const OrderItem = v.strictObject({
  id: slug('Short name'),
  does: text('One thing to do: "Panel breaker Q2 off"'),
  caution: v.exactOptional(text('Danger at this very step, and who may do it')),
  undoes: v.exactOptional(
    slug(
      'What it brings back: a neighbour, `load-` and a load, `adapter`, `charger`. It is then not asked for twice',
    ),
  ),
})
export type OrderItem = v.InferOutput<typeof OrderItem>

/** What feeds the unit, and between which volts it may be written. */
export const Power = v.strictObject({
  nominalVolts: amount('V'),
  floorVolts: amount('Never below this in erase and write, V'),
  ceilingVolts: amount('Never above this, V'),
  measure: v.exactOptional(
    v.pipe(
      v.strictObject({
        at: text('Where a meter is put: "at the battery contacts"'),
        unit: v.pipe(powerState, v.description('How the unit stands meanwhile')),
        behind: v.exactOptional(slug('Step of the order of power that comes first')),
      }),
      v.description('Where and when its supply is measured; at its terminals, switched on, when absent'),
    ),
  ),
  amps: v.strictObject({ idle: amount('A'), erase: amount('A'), write: amount('A') }),
  caution: v.exactOptional(text('What the supply can do to a person')),
  inverter: v.exactOptional(
    v.pipe(
      v.strictObject({
        systemHertz: v.pipe(v.picklist([50, 60]), v.description('Hz its input is made for')),
        chargerEfficiency: v.exactOptional(
          v.pipe(
            v.number(),
            v.gtValue(0),
            v.maxValue(1),
            v.description('Share of its input that reaches the battery'),
          ),
        ),
      }),
      v.description('The unit charges its battery from mains or a generator'),
    ),
  ),
  supply: v.exactOptional(
    v.pipe(
      v.strictObject({
        chemistry: v.picklist(supplyKinds),
        cells: whole('Cells in series; 1 for a supply without cells', 1),
        capacityAh: amount('Printed capacity, Ah; 0 for a supply without cells'),
        setVolts: v.exactOptional(amount('Volts that a bench or mains supply holds')),
        leadOhms: amount('Leads from source to unit, there and back, ohm'),
        loads: v.pipe(
          v.array(
            v.strictObject({
              id: slug('Short name'),
              name: text('What draws'),
              amps: amount('A'),
              shed: text('How it is shed: "pull fuse F14"'),
            }),
          ),
          v.description('What else draws on it, each with how it is shed'),
        ),
      }),
      v.description('What usually feeds it; a job says what really does'),
    ),
  ),
})

/** What is switched before and after, in its order. */
export const PowerOrder = v.pipe(
  v.strictObject({
    on: v.pipe(v.array(OrderItem), v.description('Before the run, in order')),
    leads: v.exactOptional(v.pipe(powerState, v.description('How the unit stands when all of it is done'))),
    off: v.pipe(v.array(OrderItem), v.description('Afterwards, in order')),
  }),
  v.description('What is switched on and off, and in which order'),
)
export type PowerOrder = v.InferOutput<typeof PowerOrder>
