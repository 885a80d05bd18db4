import * as v from 'valibot'
import { amount, text } from './fields'

/** What a pin is for; core/ready/wiring knows which may be joined to which. */
export const pinRoles = [
  'ground',
  'supply',
  'transmit',
  'receive',
  'data-a',
  'data-b',
  'can-high',
  'can-low',
  'line',
  'reset',
  'clock',
  'data',
  'data-in',
  'data-out',
  'select',
  'usb',
  'none',
] as const

/** A pin of a connector: what it carries, and at which level. */
export const Pin = v.strictObject({
  id: text('As it is counted or printed: "1", "GND"'),
  name: text('What it carries, to a person'),
  role: v.pipe(v.picklist(pinRoles), v.description('What it is for; `none` is not connected inside')),
  volts: v.exactOptional(amount('Of a signal: the most it bears; of a supply: what it gives or takes, V')),
  needed: v.exactOptional(v.pipe(v.boolean(), v.description('The link does not work without it'))),
  open: v.exactOptional(v.pipe(v.boolean(), v.description('It must stay open'))),
})
export type Pin = v.InferOutput<typeof Pin>
export type PinRole = Pin['role']

/** The unit's side of what is joined. */
export const Wiring = v.pipe(
  v.strictObject({
    connector: text('Where it is joined: "Service jack J2"'),
    jack: v.exactOptional(text('Name of the pinout, where plugs that look alike are not')),
    pins: v.pipe(v.array(Pin), v.minLength(1), v.description('In the order in which they lie')),
    form: v.pipe(
      v.picklist(['pass-through', 'converter']),
      v.description('Whether the cable carries the signals as they are, or has a converter inside'),
    ),
    fed: v.pipe(
      v.picklist(['own', 'adapter', 'either']),
      v.description('What feeds the unit meanwhile: its own supply, the adapter, or either, but only one'),
    ),
    faces: v.exactOptional(text('How the plug is turned: "signal wire faces the label"')),
    terminated: v.exactOptional(
      v.pipe(v.boolean(), v.description('A bus with 120 ohm at both ends, 60 ohm between its wires')),
    ),
    order: v.exactOptional(v.pipe(v.array(text('A step')), v.description('In which order it is joined'))),
    says: v.exactOptional(text('What else to know: "two equal jacks, either will do"')),
  }),
  v.description('The unit’s side of the wiring'),
)
export type Wiring = v.InferOutput<typeof Wiring>
