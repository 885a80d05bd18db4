import { asciiBytes } from '@bench-wake/core/kernel'
import { hexOf, placed, type DemoFirmware } from './image'
import { demoFamily } from './families'
import type { DemoFile } from './shelf'

/* What lies on the shelf for the equipment that was taught: its images carry a text, or no label at all. */

/** 2026-08-11, s. */
const builtAt = 1_786_406_400
const lengths: Record<string, number> = { 'tide-gate-controller': 0x9000, 'crane-scale': 0x1800 }

/** Those whose images have an identity block. */
const withBlock: Record<string, { deviceIdentifier: string; length: number }> = {
  'relay-driver': { deviceIdentifier: 'QD-1', length: 0x1400 },
  'helm-display': { deviceIdentifier: 'HD-7', length: 0x30000 },
  'davit-base': { deviceIdentifier: 'DB-3', length: 0x14000 },
}

/** An image of taught equipment, by what it says of itself. */
export const taughtFieldsOf = (
  familyId: string,
  component: string,
  fields: DemoFirmware['fields'],
): DemoFirmware => {
  const { version = '', hardwareMajor = 1 } = fields
  const own = withBlock[familyId]
  if (own) {
    const { deviceIdentifier, length } = own
    return { component, length, fields: { buildTime: builtAt, ...fields, deviceIdentifier } }
  }
  // Nothing but these two ever stands in such an image.
  return { component, length: lengths[familyId] ?? 0x2000, fields: { version, hardwareMajor } }
}

/** Bytes of a release of the crane scale as it is handed out. */
export const scaleFile = (version: string): Uint8Array =>
  placed(demoFamily('crane-scale'), taughtFieldsOf('crane-scale', 'main', { version, hardwareMajor: 1 }))[0]!
    .bytes

const gateFile = (version: string, hardwareMajor: number): Uint8Array =>
  asciiBytes(
    hexOf(
      placed(
        demoFamily('tide-gate-controller'),
        taughtFieldsOf('tide-gate-controller', 'main', { version, hardwareMajor }),
      ),
    ),
  )

/** Firmware with an identity block, as its supplier hands it out. */
const blockFile = (familyId: string, component: string, version: string): Uint8Array =>
  asciiBytes(
    hexOf(placed(demoFamily(familyId), taughtFieldsOf(familyId, component, { version, hardwareMajor: 2 }))),
  )

/** Firmware of the relay's driver board, as its supplier hands it out. */
const driverFile = (version: string, hardwareMajor = 2): Uint8Array =>
  asciiBytes(
    hexOf(
      placed(
        demoFamily('relay-driver'),
        taughtFieldsOf('relay-driver', 'driver', { version, hardwareMajor, buildTime: builtAt }),
      ),
    ),
  )

export const taughtShelf = (): DemoFile[] => [
  { name: 'tg6-board3-3.5.hex', file: gateFile('3.5', 3), from: 'mail of the maker, 2026-11-16' },
  { name: 'tg6-board2-3.5.hex', file: gateFile('3.5', 2), from: 'mail of the maker, 2026-11-16' },
  { name: 'cs12-5.2.bin', file: scaleFile('5.2'), from: 'stick from the weights office' },
  { name: 'quay-driver-1.4.hex', file: driverFile('1.4'), from: 'mail of the relay’s supplier, 2026-11-13' },
  {
    name: 'quay-driver-1.4-one-coil.hex',
    file: driverFile('1.4', 1),
    from: 'mail of the relay’s supplier, 2026-11-13',
  },
  {
    name: 'helm-3.2.hex',
    file: blockFile('helm-display', 'display', '3.2'),
    from: 'mail of the display’s maker, 2026-11-14',
  },
  {
    name: 'davit-base-2.6.hex',
    file: blockFile('davit-base', 'base', '2.6'),
    from: 'stick from the davit’s maker',
  },
  // In no list: nobody can say what it is until somebody does.
  { name: 'cs12-new.bin', file: scaleFile('5.3'), from: 'stick from the weights office' },
]
