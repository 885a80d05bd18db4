import { type Clock } from '../../kernel'
import { portClosed, portLost } from '../port'
import { usbBabble, usbStall, type ControlSetup, type UsbPort } from './usb-port'

/** Result of a transfer in the WebUSB interface (W3C WebUSB, USBInTransferResult). */
interface InResult {
  status?: string | undefined
  data?: DataView | undefined
}

/** The part of the WebUSB device interface that is used; Node's `usb` package and the browser both have it. */
export interface WebUsbDevice {
  readonly opened: boolean
  readonly productName?: string | null | undefined
  readonly configuration?: unknown
  open(): Promise<void>
  close(): Promise<void>
  reset(): Promise<void>
  selectConfiguration(value: number): Promise<void>
  claimInterface(number: number): Promise<void>
  selectAlternateInterface(number: number, alternate: number): Promise<void>
  controlTransferIn(setup: WebSetup, length: number): Promise<InResult>
  controlTransferOut(
    setup: WebSetup,
    data?: Uint8Array<ArrayBuffer>,
  ): Promise<{ status?: string | undefined }>
  transferIn(endpoint: number, length: number): Promise<InResult>
  transferOut(endpoint: number, data: Uint8Array<ArrayBuffer>): Promise<{ status?: string | undefined }>
}

interface WebSetup {
  requestType: ControlSetup['type']
  recipient: ControlSetup['recipient']
  request: number
  value: number
  index: number
}

/** Between two looks whether a device is back, ms. */
const lookEveryMs = 100

/**
 * A device through the WebUSB interface.
 * @param find the device at this plug now; null while none is there.
 */
export function webUsbPort(
  name: string,
  clock: Pick<Clock, 'now' | 'sleep'>,
  find: () => Promise<WebUsbDevice | null>,
): UsbPort {
  let device: WebUsbDevice | null = null
  const here = (): WebUsbDevice => {
    if (!device) throw portClosed(name)
    return device
  }
  /** The interface says "stall" in its result, and throws when the device went away. */
  const guarded = async <R extends { status?: string | undefined }>(
    what: string,
    act: (device: WebUsbDevice) => Promise<R>,
  ): Promise<R> => {
    const now = here()
    let result: R
    try {
      result = await act(now)
    } catch (error) {
      const says = error instanceof Error ? error.message : String(error)
      if (/stall/i.test(says)) throw usbStall(name, what)
      // "babble" in a browser, "overflow" in the library beneath Node's.
      if (/babble|overflow/i.test(says)) throw usbBabble(name, what)
      throw portLost(name, says)
    }
    if (result.status === 'stall') throw usbStall(name, what)
    if (result.status === 'babble') throw usbBabble(name, what)
    return result
  }
  const setup = ({ type, ...rest }: ControlSetup): WebSetup => ({ requestType: type, ...rest })
  const bytesOf = ({ data }: InResult) =>
    data ? new Uint8Array(data.buffer, data.byteOffset, data.byteLength).slice() : new Uint8Array(0)
  const open = async () => {
    const found = await find()
    if (!found) throw portLost(name)
    try {
      if (!found.opened) await found.open()
      if (!found.configuration) await found.selectConfiguration(1)
    } catch (error) {
      throw portLost(name, error instanceof Error ? error.message : String(error))
    }
    device = found
  }

  return {
    name,
    open,
    async close() {
      const closing = device
      device = null
      if (closing?.opened) await closing.close().catch(() => {})
    },
    async claimInterface(number, alternate) {
      await guarded('claim', async (now) => {
        await now.claimInterface(number)
        await now.selectAlternateInterface(number, alternate)
        return {}
      })
    },
    controlIn: async (form, length) =>
      bytesOf(await guarded(`request ${form.request}`, (now) => now.controlTransferIn(setup(form), length))),
    async controlOut(form, data) {
      await guarded(`request ${form.request}`, (now) =>
        now.controlTransferOut(setup(form), data && Uint8Array.from(data)),
      )
    },
    transferIn: async (endpoint, length) =>
      bytesOf(await guarded(`endpoint ${endpoint}`, (now) => now.transferIn(endpoint, length))),
    async transferOut(endpoint, data) {
      await guarded(`endpoint ${endpoint}`, (now) => now.transferOut(endpoint, Uint8Array.from(data)))
    },
    async reset() {
      // A device that comes back as another one is gone for its old handle: that is no fault of the reset.
      await here()
        .reset()
        .catch(() => {})
    },
    async reopen(timeoutMs) {
      await device?.close().catch(() => {})
      device = null
      const until = clock.now() + timeoutMs
      for (;;) {
        await clock.sleep(lookEveryMs)
        try {
          return await open()
        } catch (error) {
          if (clock.now() >= until) throw error
        }
      }
    },
  }
}
