import { brassAmberDigest, type DemoFirmware } from '@bench-wake/demo'

/** A unit, the link it stands on, and the image it gets. */
export interface Scenario {
  unitId: string
  linkId: string
  component: string
  /** Components that go in after it in the same stay in the bootloader. */
  also?: string[]
  fields: DemoFirmware['fields']
  /** What is held of this write by what it is, and released by name. */
  held?: string[]
}

/** A named person's word to what is held. */
export const releasesOf = ({ held = [] }: Scenario) =>
  held.map((rule) => ({ rule, name: 'A. Lund', reason: 'the supplier’s letter' }))

export const scenarios: readonly Scenario[] = [
  { unitId: 'radio-3', linkId: 'cable', component: 'main', fields: { version: '4.08' } },
  { unitId: 'inverter-1', linkId: 'bus', component: 'power', fields: { version: '3.6' } },
  { unitId: 'battery-14', linkId: 'bus', component: 'bms', fields: { version: '31.09' } },
  { unitId: 'launch-2', linkId: 'bus', component: 'drive', fields: { version: '4.1', requiresFrom: '3.2' } },
  {
    unitId: 'launch-1',
    linkId: 'line',
    component: 'drive',
    fields: { version: '4.1', requiresFrom: '3.2', hardwareMajor: 1, layout: 'L-101' },
  },
  { unitId: 'beacon-7', linkId: 'pads', component: 'radio', fields: { version: '2.4.0', sequence: 17 } },
  { unitId: 'tide-2', linkId: 'usb', component: 'logger', fields: { version: '2026-03-16' } },
  { unitId: 'davit-1', linkId: 'panel', component: 'joint-2', fields: { version: '5.2.0' } },
  {
    unitId: 'davit-1',
    linkId: 'panel',
    component: 'joint-0',
    also: ['joint-1', 'joint-2', 'joint-3', 'joint-4', 'joint-5'],
    fields: { version: '5.2.0' },
  },
  { unitId: 'relay-2', linkId: 'header', component: 'relay', fields: { version: '2.1' } },
  {
    unitId: 'desk-2',
    linkId: 'clip',
    component: 'chip',
    fields: { version: 'BIRCH', hardwareMajor: 1, precursor: brassAmberDigest().slice(0, 16) },
    // Names have no order (PRACTICE A2): a person knows which is newer.
    held: ['version-direction'],
  },
  { unitId: 'gate-1', linkId: 'console', component: 'main', fields: { version: '3.5', hardwareMajor: 3 } },
  {
    unitId: 'driver-2',
    linkId: 'six',
    component: 'driver',
    fields: { version: '1.4', hardwareMajor: 2 },
  },
  { unitId: 'scale-1', linkId: 'cable', component: 'main', fields: { version: '5.2', hardwareMajor: 1 } },
]
