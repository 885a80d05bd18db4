import type { UsbPort } from './usb-port'

/*
 * Standard descriptors: USB 2.0, clause 9.6. Numbers are little-endian; each descriptor begins with its length and type.
 */

const getDescriptor = 6
/** Types of descriptors (USB 2.0, table 9-5). */
export const descriptorType = { device: 1, configuration: 2, string: 3, interface: 4, endpoint: 5 } as const

/** A device descriptor (USB 2.0, table 9-8). */
export interface DeviceDescriptor {
  vendorId: number
  productId: number
  /** Binary-coded decimal: 0x0110 is 1.10. */
  deviceVersion: number
  /** Indices of strings; 0 where there is none. */
  maker: number
  product: number
  serial: number
}

/** An interface as its descriptor says it. */
export interface UsbInterface {
  number: number
  alternate: number
  class: number
  subclass: number
  protocol: number
  /** Index of its string; 0 where it has none. */
  name: number
  endpoints: { address: number; kind: number; maxBytes: number }[]
  /** Descriptors of its class that follow it, as they are. */
  others: Uint8Array[]
}

/** Device descriptor (table 9-8), or null when it is none. */
export function readDeviceDescriptor(bytes: Uint8Array): DeviceDescriptor | null {
  if (bytes.length < 18 || bytes[1] !== descriptorType.device) return null
  const word = (at: number) => bytes[at]! | (bytes[at + 1]! << 8)
  return {
    vendorId: word(8),
    productId: word(10),
    deviceVersion: word(12),
    maker: bytes[14]!,
    product: bytes[15]!,
    serial: bytes[16]!,
  }
}

/** Interfaces of a whole configuration descriptor (tables 9-10 to 9-13); what is broken off is left out. */
export function readInterfaces(bytes: Uint8Array): UsbInterface[] {
  const list: UsbInterface[] = []
  for (let at = 0; at + 2 <= bytes.length;) {
    const length = bytes[at]!
    const piece = bytes.subarray(at, at + length)
    if (length < 2 || piece.length < length) break
    const last = list[list.length - 1]
    if (piece[1] === descriptorType.interface && length >= 9) {
      list.push({
        number: piece[2]!,
        alternate: piece[3]!,
        class: piece[5]!,
        subclass: piece[6]!,
        protocol: piece[7]!,
        name: piece[8]!,
        endpoints: [],
        others: [],
      })
    } else if (piece[1] === descriptorType.endpoint && length >= 7) {
      last?.endpoints.push({
        address: piece[2]!,
        kind: piece[3]! & 3,
        maxBytes: piece[4]! | (piece[5]! << 8),
      })
    } else if (piece[1] !== descriptorType.configuration) last?.others.push(piece.slice())
    at += length
  }
  return list
}

const standardIn = (value: number, index = 0) =>
  ({ type: 'standard', recipient: 'device', request: getDescriptor, value, index }) as const

/** Reads the device descriptor; null where it is none. */
export async function deviceDescriptor(port: UsbPort): Promise<DeviceDescriptor | null> {
  return readDeviceDescriptor(await port.controlIn(standardIn(descriptorType.device << 8), 18))
}

/** The first configuration's interfaces: its length is read first, then all of it. */
export async function interfacesOf(port: UsbPort): Promise<UsbInterface[]> {
  const head = await port.controlIn(standardIn(descriptorType.configuration << 8), 9)
  const total = (head[2] ?? 0) | ((head[3] ?? 0) << 8)
  return readInterfaces(await port.controlIn(standardIn(descriptorType.configuration << 8), total))
}

/** A string in US English (clause 9.6.7), or null for index 0. */
export async function stringOf(port: UsbPort, index: number): Promise<string | null> {
  if (index === 0) return null
  const bytes = await port.controlIn(standardIn((descriptorType.string << 8) | index, 0x0409), 255)
  let text = ''
  for (let at = 2; at + 1 < Math.min(bytes.length, bytes[0] ?? 0); at += 2) {
    text += String.fromCharCode(bytes[at]! | (bytes[at + 1]! << 8))
  }
  return text
}

/** A string as a device tells it. */
export function writeString(text: string): Uint8Array {
  const bytes = new Uint8Array(2 + 2 * text.length)
  bytes[0] = bytes.length
  bytes[1] = descriptorType.string
  for (let at = 0; at < text.length; at++) {
    bytes[2 + 2 * at] = text.charCodeAt(at) & 255
    bytes[3 + 2 * at] = text.charCodeAt(at) >> 8
  }
  return bytes
}
