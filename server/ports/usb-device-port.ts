import type { Clock } from '@bench-wake/core/kernel'
import { webUsbPort, type UsbPort, type WebUsbDevice } from '@bench-wake/core/link'
import { WebUSB } from 'usb'

/** A USB device of this computer that one of the links could go over. */
export interface UsbEntry {
  /** Its place: bus and plugs, so that a device that comes back as another one is found again. */
  id: string
  name: string
  usb: { vendorId: string; productId: string; serialNumber?: string; maker?: string }
}

/** What the driver tells of a device beside the WebUSB interface. */
interface UsbDevice extends WebUsbDevice {
  bus: string
  ports: number[]
  vendorId: number
  productId: number
  serialNumber?: string | null
  manufacturerName?: string | null
  configurations: {
    interfaces: {
      alternates: { interfaceClass: number; interfaceSubclass: number; interfaceName?: string | null }[]
    }[]
  }[]
}

/** Update mode, or its announcement while the firmware runs (DFU 1.1, clause 4.2). */
const updateClass = { class: 0xfe, subclass: 0x01 }

const system = new WebUSB({ allowAllDevices: true })
const placeOf = ({ bus, ports }: UsbDevice) => `${bus}-${ports.join('.')}`
const hex4 = (value: number) => value.toString(16).padStart(4, '0')

async function devices(): Promise<UsbDevice[]> {
  // A computer without USB, or one that lends it to nobody, has no devices.
  return (await system.getDevices().catch(() => [])) as unknown as UsbDevice[]
}

/** Whether a device has update mode, or is a debug adapter. */
function isForUs(device: UsbDevice): boolean {
  try {
    return device.configurations.some(({ interfaces }) =>
      interfaces.some(({ alternates }) =>
        alternates.some(
          ({ interfaceClass, interfaceSubclass, interfaceName }) =>
            (interfaceClass === updateClass.class && interfaceSubclass === updateClass.subclass) ||
            !!interfaceName?.includes('CMSIS-DAP'),
        ),
      ),
    )
  } catch {
    return false
  }
}

export async function listUsbDevices(): Promise<UsbEntry[]> {
  return (await devices()).filter(isForUs).map((device) => ({
    id: placeOf(device),
    name: device.productName ?? `USB device ${hex4(device.vendorId)}:${hex4(device.productId)}`,
    usb: {
      vendorId: hex4(device.vendorId),
      productId: hex4(device.productId),
      ...(device.serialNumber ? { serialNumber: device.serialNumber } : {}),
      ...(device.manufacturerName ? { maker: device.manufacturerName } : {}),
    },
  }))
}

/** The device at a place, through the system's driver. @param id as `listUsbDevices` gives it. */
export function usbDevicePort(id: string, clock: Clock): UsbPort {
  return webUsbPort(id, clock, async () => (await devices()).find((device) => placeOf(device) === id) ?? null)
}
