import * as v from 'valibot'
import { debug } from './debug'
import { dfu } from './dfu'
import type { DriveForm } from './drive-form'
import { inSystem } from './in-system'
import { modbus } from './modbus'
import { script } from './script'
import { kwp, uds } from './services'
import { spiFlash } from './spi-flash'

/** Every way that this program speaks with units, by the name that a profile calls it. */
const forms = {
  modbus,
  dfu,
  uds,
  kwp,
  debug,
  'in-system': inSystem,
  'spi-flash': spiFlash,
  script,
}
/** The same, as whoever reads any of them takes it. */
export const driveForms: Record<Speech, DriveForm> = forms

/** What the program must know to drive such a link itself; without it the link is only described. */
export const Drive = v.variant(
  'speaks',
  Object.values(forms).map(({ schema }) => schema),
)
export type Drive = v.InferOutput<typeof Drive>
/** The name by which a profile calls a protocol. */
export type Speech = keyof typeof forms
/** What a profile says of a link with this protocol. */
export type DriveOf<S extends Speech> = Extract<Drive, { speaks: S }>
/** The names of all of them. */
export const speeches = Object.keys(forms) as Speech[]
