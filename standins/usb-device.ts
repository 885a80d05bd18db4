import { concatBytes, type Clock } from '@bench-wake/core/kernel'
import {
  descriptorType,
  portClosed,
  portLost,
  usbBulkMs,
  usbControlMs,
  usbStall,
  writeString,
  type ControlSetup,
  type UsbPort,
} from '@bench-wake/core/link'

/** What a device is in one of its configurations of itself: its firmware, or its update mode. */
export interface UsbConfiguration {
  vendorId: number
  productId: number
  /** Strings from index 1: maker, product, serial, then its own. */
  strings: readonly string[]
  /** Interface, class and endpoint descriptors after the configuration's own. */
  interfaces: Uint8Array
  control?(
    setup: ControlSetup,
    direction: 'in' | 'out',
    length: number,
    data: Uint8Array,
  ): Promise<Uint8Array>
  /** An alternate setting was chosen. */
  claim?(number: number, alternate: number): void
  bulkOut?(endpoint: number, data: Uint8Array): Promise<void>
  bulkIn?(endpoint: number, length: number): Promise<Uint8Array>
}

export interface UsbDeviceForm {
  name: string
  clock: Clock
  /** What is plugged in now; null while nothing is. */
  now(): UsbConfiguration | null
  /** The bus was reset. */
  onReset?(): void
}

/** A device that comes back is found by the system in this, ms. */
const findsMs = 150

/** A USB device at its plug, full speed. */
export function usbDevice({ name, clock, now, onReset }: UsbDeviceForm): UsbPort & { pull(): void } {
  let open = false
  let pulled = false
  /** The configuration that was opened: another one at the plug has to be opened anew. */
  let opened: UsbConfiguration | null = null

  /** The device that was opened, once the transfer has had its time on the bus. */
  const here = async (takesMs: number): Promise<UsbConfiguration> => {
    if (!pulled && !open) throw portClosed(name)
    await clock.sleep(takesMs)
    const device = pulled ? null : now()
    if (!device || device !== opened) throw portLost(name)
    return device
  }
  const standard = (
    device: UsbConfiguration,
    { request, value }: ControlSetup,
    length: number,
  ): Uint8Array => {
    const low = (word: number) => [word & 255, word >> 8]
    const index = value & 255
    if (request === 6 && value >> 8 === descriptorType.device) {
      const { vendorId, productId } = device
      const bytes = [18, 1, 0, 2, 0, 0, 0, 64, ...low(vendorId), ...low(productId), 0x10, 1, 1, 2, 3, 1]
      return Uint8Array.from(bytes).subarray(0, length)
    }
    if (request === 6 && value >> 8 === descriptorType.configuration) {
      const total = 9 + device.interfaces.length
      return concatBytes([
        Uint8Array.of(9, 2, ...low(total), 1, 1, 0, 0x80, 250),
        device.interfaces,
      ]).subarray(0, length)
    }
    const text = device.strings[index - 1]
    if (request === 6 && value >> 8 === descriptorType.string && text !== undefined) {
      return writeString(text).subarray(0, length)
    }
    throw usbStall(name, 'GET_DESCRIPTOR')
  }
  const control = async (setup: ControlSetup, direction: 'in' | 'out', length: number, data: Uint8Array) => {
    const device = await here(usbControlMs(direction === 'in' ? length : data.length))
    if (setup.type === 'standard') return standard(device, setup, length)
    if (!device.control) throw usbStall(name, `request ${setup.request}`)
    return device.control(setup, direction, length, data)
  }

  return {
    name,
    async open() {
      if (pulled || !now()) throw portLost(name)
      opened = now()
      open = true
    },
    async close() {
      open = false
    },
    async claimInterface(number, alternate) {
      const device = await here(usbControlMs(0))
      device.claim?.(number, alternate)
    },
    controlIn: (setup, length) => control(setup, 'in', length, new Uint8Array(0)),
    async controlOut(setup, data = new Uint8Array(0)) {
      await control(setup, 'out', data.length, data)
    },
    async transferIn(endpoint, length) {
      const device = await here(0)
      if (!device.bulkIn) throw usbStall(name, `endpoint ${endpoint}`)
      const bytes = await device.bulkIn(endpoint, length)
      await clock.sleep(usbBulkMs(bytes.length))
      return bytes
    },
    async transferOut(endpoint, data) {
      const device = await here(usbBulkMs(data.length))
      if (!device.bulkOut) throw usbStall(name, `endpoint ${endpoint}`)
      await device.bulkOut(endpoint, data)
    },
    async reset() {
      await here(0)
      await clock.sleep(10)
      onReset?.()
    },
    async reopen(timeoutMs) {
      await clock.sleep(findsMs)
      for (let waited = findsMs; !now() || pulled; waited += 50) {
        if (waited >= timeoutMs || pulled) throw portLost(name, 'nothing came back at this plug')
        await clock.sleep(50)
      }
      opened = now()
      open = true
    },
    pull() {
      pulled = true
    },
  }
}
