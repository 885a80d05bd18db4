import * as v from 'valibot'
import { LineClock, Pin, type FamilyLink } from '../../family'

const words = (max: number) => v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(max))

/** What an adapter speaks at its far end. */
export const adapterKinds = ['serial', 'rs485', 'can', 'kline', 'debug', 'chip', 'six-line', 'usb'] as const
export type AdapterKind = (typeof adapterKinds)[number]

/** A pin as a person describes it of an adapter. */
const PinOfAdapter = v.strictObject({
  ...Pin.entries,
  id: words(20),
  name: words(120),
  volts: v.exactOptional(v.pipe(v.number(), v.minValue(0), v.maxValue(1000))),
})

/** A cable or an adapter of this workshop, with its pins (PRACTICE C1, C2). */
export const Adapter = v.strictObject({
  id: v.pipe(
    v.string(),
    v.maxLength(80),
    v.regex(/^[a-z0-9]+(-[a-z0-9]+)*$/, 'Use lower-case letters, digits and hyphens'),
  ),
  name: words(120),
  kind: v.picklist(adapterKinds),
  /** `pass-through` carries the signals as they are; `converter` has a chip inside. */
  form: v.picklist(['pass-through', 'converter']),
  /** Name of the pinout of its plug, where plugs that look alike are not. */
  jack: v.exactOptional(words(60)),
  pins: v.pipe(v.array(PinOfAdapter), v.minLength(1), v.maxLength(64)),
  /** Levels its switch offers, V; one where it is fixed, none where levels do not matter. */
  levels: v.pipe(v.array(v.pipe(v.number(), v.minValue(0.5), v.maxValue(60))), v.maxLength(6)),
  /** True where it carries 120 ohm of its own. */
  terminator: v.boolean(),
  /** True for the part that the unit's own maker sells for it. */
  ownPart: v.boolean(),
  standing: v.picklist(['good', 'bad', 'untried']),
  /** What made it known good or bad. */
  standingWhy: v.exactOptional(words(400)),
  serial: v.exactOptional(words(80)),
  /** Clock of its converter chip, where its data sheet tells it. */
  clock: v.exactOptional(LineClock),
  /** Identifiers of its converter chip, as a system lists them, hexadecimal. */
  usb: v.exactOptional(
    v.strictObject({
      vendorId: v.pipe(v.string(), v.regex(/^[0-9a-f]{4}$/i, 'Four hexadecimal digits')),
      productId: v.pipe(v.string(), v.regex(/^[0-9a-f]{4}$/i, 'Four hexadecimal digits')),
    }),
  ),
})
export type Adapter = v.InferOutput<typeof Adapter>

/** What a person says of the wiring for a job. */
export const WiringSay = v.strictObject({
  linkId: words(80),
  adapterId: v.exactOptional(v.nullable(words(80))),
  /** Pairs of pins, adapter first. */
  joins: v.pipe(v.array(v.tuple([words(20), words(20)])), v.maxLength(80)),
  /** Level that the adapter's switch stands on, V. */
  level: v.exactOptional(v.nullable(v.pipe(v.number(), v.minValue(0), v.maxValue(60)))),
  /** True while the adapter gives supply on its supply pin. */
  feeding: v.exactOptional(v.boolean()),
  /** True while the unit's own supply is on. */
  unitFed: v.exactOptional(v.nullable(v.boolean())),
  /** Ohm between the wires of the bus, unpowered. */
  ohms: v.exactOptional(v.nullable(v.pipe(v.number(), v.minValue(0), v.maxValue(1e7)))),
  /** How the plug is turned was looked at. */
  faces: v.exactOptional(v.boolean()),
  contact: v.exactOptional(v.picklist(['plug', 'soldered', 'ribbon', 'held'])),
})
export type WiringSay = v.InferOutput<typeof WiringSay>

const speaks: Record<FamilyLink['kind'], AdapterKind | null> = {
  serial: 'serial',
  rs485: 'rs485',
  can: 'can',
  kline: 'kline',
  debug: 'debug',
  chip: 'chip',
  'six-line': 'six-line',
  usb: 'usb',
  media: null,
}

/** The kind of adapter a link wants; null for a medium, which is carried by hand. */
export function adapterKindOf(link: FamilyLink): AdapterKind | null {
  return speaks[link.kind]
}
