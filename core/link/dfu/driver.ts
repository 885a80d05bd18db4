import { pageLine, type DriveOf } from '../../family'
import { isProblem } from '../../kernel'
import { dfuLoader, type DfuMemory } from './loader'
import { dfuInterface } from './messages'
import { interfacesOf, stringOf, type UsbPort } from '../usb'
import type { LinkDriver } from '../drive/link-driver'
import type { Opening } from '../drive/protocol'

/** A unit that is plugged off and on needs this to be found again, ms. */
const foundAgainMs = 10_000

const memoryOf = ({ alternate, named }: NonNullable<DriveOf<'dfu'>['alternates']>[number]): DfuMemory =>
  alternate === undefined ? { named: named! } : { alternate }

/** A USB device that tells of itself by its strings and takes its firmware in update mode. */
export function dfuDriver(
  port: UsbPort,
  { clock, family, link: { drive }, component }: Opening<'dfu'>,
): LinkDriver {
  const page = async () => {
    const lines: string[] = []
    const found = dfuInterface(await interfacesOf(port))
    for (const { field, string, alternate } of drive.page) {
      const index = string ?? found?.alternates.find((each) => each.alternate === alternate)?.name ?? 0
      try {
        const value = await stringOf(port, index)
        if (value) lines.push(...pageLine(family, field, value))
      } catch (error) {
        // In update mode a device has fewer strings.
        if (!isProblem(error, 'usb-stall')) throw error
      }
    }
    return lines
  }
  const inUpdate = async () => dfuInterface(await interfacesOf(port))?.running === false
  /** Off and on again, it is another device at the same plug. */
  const orAgain = async <T>(act: () => Promise<T>): Promise<T> => {
    try {
      return await act()
    } catch (error) {
      if (!isProblem(error, 'port-lost')) throw error
      await port.reopen(foundAgainMs)
      return act()
    }
  }
  const asked = drive.alternates?.find((each) => each.component === component.id)
  const loader = dfuLoader(port, clock, page, asked && memoryOf(asked))
  return {
    loader: {
      ...loader,
      get can() {
        return loader.can
      },
      attach: () => orAgain(() => loader.attach()),
    },
    open: () => port.open(),
    close: () => port.close(),
    page: () => orAgain(async () => ({ lines: await page(), inBootloader: await inUpdate() })),
    probeBootloader: () => orAgain(async () => ({ bootloader: await inUpdate() })),
  }
}
