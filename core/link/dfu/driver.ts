import { pageLine, type DriveOf, type Family } from '../../family'
import { isProblem, type Clock } from '../../kernel'
import { dfuLoader } from './loader'
import { dfuInterface } from './messages'
import { interfacesOf, stringOf, type UsbPort } from '../usb'
import type { LinkDriver } from '../drive/link-driver'

/** A unit that is plugged off and on needs this to be found again, ms. */
const foundAgainMs = 10_000

/** A USB device that tells of itself by its strings and takes its firmware in update mode. */
export function dfuDriver(port: UsbPort, clock: Clock, family: Family, drive: DriveOf<'dfu'>): LinkDriver {
  const page = async () => {
    const lines: string[] = []
    for (const { field, string } of drive.page) {
      try {
        const value = await stringOf(port, string)
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
  const loader = dfuLoader(port, clock, page)
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
