import { fogSignalFamily } from './families'
import { firmwareOf, hexOf, placed, type DemoFirmware, type DemoImage } from './image'

export * from './adapters'
export * from './benches'
export * from './families'
export * from './image'
export * from './jobs'
export * from './right-job'
export * from './rounds'
export * from './shelf'
export * from './stand-ins'
export * from './taught'
export * from './units'
export * from './year'

const day = (text: string) => Date.parse(text) / 1000

/** The fog signals' images on the shelf. The names are as unhelpful as real ones are (PRACTICE B2). */
export const demoImages: { name: string; image: DemoImage }[] = [
  ['fs20-main-2.48.hex', 'FS-20', 3, '2.48', 'production', '2026-09-02T08:14Z', 0x40000],
  ['fs20-main-2.41.hex', 'FS-20', 3, '2.41', 'production', '2025-03-04T10:12Z', 0x3c000],
  ['update(1).hex', 'FS-20', 2, '2.48', 'production', '2026-09-02T08:31Z', 0x38000],
  ['fs20_2.49_try.hex', 'FS-20', 3, '2.49', 'test', '2026-11-10T16:40Z', 0x40000],
  ['horn-main-2.48.hex', 'FS-40', 3, '2.48', 'production', '2026-09-02T09:02Z', 0x30000],
].map(([name, deviceIdentifier, major, version, release, built, length]) => ({
  name: name as string,
  image: {
    deviceIdentifier: deviceIdentifier as string,
    hardware: [major as number, 0],
    version: version as string,
    release: release as 'production' | 'test',
    built: day(built as string),
    length: length as number,
  },
}))

const formOf = ({ hardware, built, length, ...said }: DemoImage): DemoFirmware => ({
  component: 'main',
  length,
  fields: { ...said, hardwareMajor: hardware[0], hardwareMinor: hardware[1], buildTime: built },
})

/** Bytes of a fog signal's image. */
export const demoFirmware = (image: DemoImage): Uint8Array => firmwareOf(fogSignalFamily, formOf(image))
/** The same as the Intel HEX file a supplier sends. */
export const demoHexOf = (image: DemoImage): string => hexOf(placed(fogSignalFamily, formOf(image)))
