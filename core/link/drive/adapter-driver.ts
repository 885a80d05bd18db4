import { isProblem } from '../../kernel'
import type { Loader } from '../loader'
import type { UsbPort } from '../usb'
import type { LinkDriver } from './link-driver'

/**
 * What every unit at an adapter's far end has in common: it runs nothing of its own that speaks, so its page is read by the
 * adapter, and it is let go after each reading and at the end.
 * @param page its lines, once it is joined.
 */
export function adapterDriver(
  port: UsbPort,
  loader: Loader & { release(): Promise<void> },
  page: () => Promise<string[]>,
): LinkDriver {
  return {
    loader,
    open: () => port.open(),
    async close() {
      await loader.release().catch(() => {})
      await port.close()
    },
    async page() {
      await loader.attach()
      let lines: string[]
      try {
        lines = await page()
      } catch (error) {
        await loader.release().catch(() => {})
        throw error
      }
      // The board runs on while a person reads what was said.
      await loader.release()
      return { lines, inBootloader: false }
    },
    async probeBootloader() {
      try {
        await loader.attach()
        return { bootloader: true }
      } catch (error) {
        if (!isProblem(error, 'no-bootloader')) throw error
        return { bootloader: false }
      }
    },
  }
}
