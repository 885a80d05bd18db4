import { describe, expect, it } from 'vitest'
import {
  deviceDescriptor,
  interfacesOf,
  readDeviceDescriptor,
  readInterfaces,
  stringOf,
  writeString,
} from '.'
import type { ControlSetup, UsbPort } from './usb-port'

/*
 * USB 2.0, clause 9.6: device (table 9-8), configuration (9-10), interface (9-12), endpoint (9-13), string (9-15 and
 * 9-16); requests by table 9-4. Bytes are written by these tables, from memory.
 */

// bLength 18, DEVICE, bcdUSB 2.00, class 0/0/0, bMaxPacketSize0 64, idVendor, idProduct, bcdDevice 1.10, strings, 1.
const device = [18, 1, 0x00, 0x02, 0, 0, 0, 64, 0x34, 0x12, 0x78, 0x56, 0x10, 0x01, 1, 2, 3, 1]
// bLength 9, INTERFACE, bInterfaceNumber, bAlternateSetting, bNumEndpoints, class, subclass, protocol, iInterface.
const interface2 = [9, 4, 2, 1, 1, 0xfe, 0x01, 0x02, 5]
// bLength 7, ENDPOINT, address IN 1, interrupt, wMaxPacketSize 0x0140, bInterval.
const endpoint = [7, 5, 0x81, 0x03, 0x40, 0x01, 10]
// A functional descriptor of the class.
const functional = [4, 0x21, 0xaa, 0xbb]
const configuration = (...pieces: number[][]) => {
  const rest = pieces.flat()
  return [9, 2, 9 + rest.length, 0, 1, 1, 0, 0x80, 50, ...rest]
}

describe('a device descriptor', () => {
  it('gives its numbers, each by its place', () => {
    expect(readDeviceDescriptor(Uint8Array.from(device))).toEqual({
      vendorId: 0x1234,
      productId: 0x5678,
      deviceVersion: 0x0110,
      maker: 1,
      product: 2,
      serial: 3,
    })
  })
  it('is none when it is cut short or of another type', () => {
    expect(readDeviceDescriptor(Uint8Array.from(device.slice(0, 17)))).toBeNull()
    expect(readDeviceDescriptor(Uint8Array.from(device.with(1, 2)))).toBeNull()
    expect(readDeviceDescriptor(new Uint8Array(0))).toBeNull()
  })
})

describe('the interfaces of a configuration', () => {
  const read = (bytes: number[]) => readInterfaces(Uint8Array.from(bytes))
  const only = {
    number: 2,
    alternate: 1,
    class: 0xfe,
    subclass: 1,
    protocol: 2,
    name: 5,
    endpoints: [{ address: 0x81, kind: 3, maxBytes: 0x140 }],
    others: [Uint8Array.from(functional)],
  }
  it('are read with their endpoints and what their class adds', () => {
    expect(read(configuration(interface2, functional, endpoint))).toEqual([only])
    expect(read(configuration(interface2, functional, endpoint, interface2.with(2, 3)))).toEqual([
      only,
      { ...only, number: 3, endpoints: [], others: [] },
    ])
  })
  it('take the two lowest bits of an endpoint’s attributes for its kind (table 9-13)', () => {
    expect(read(configuration(interface2, endpoint.with(3, 0x0d)))[0]!.endpoints[0]!.kind).toBe(1)
  })
  it('leave out what is broken off, and what says it has no length', () => {
    const whole = configuration(interface2, functional, endpoint)
    expect(read(whole.slice(0, -1))).toEqual([{ ...only, endpoints: [] }])
    expect(read(whole.slice(0, -6))).toEqual([{ ...only, endpoints: [] }])
    expect(read(configuration(interface2, [0, 5], endpoint))).toEqual([
      { ...only, endpoints: [], others: [] },
    ])
    expect(read(configuration(interface2, [1, 5], endpoint))).toEqual([
      { ...only, endpoints: [], others: [] },
    ])
    expect(read([])).toEqual([])
    expect(read([9])).toEqual([])
  })
  it('a piece of two bytes is one of them, a short interface or endpoint is none', () => {
    expect(read(configuration(interface2, [2, 0x30]))[0]!.others).toEqual([Uint8Array.of(2, 0x30)])
    const short = [8, 4, 2, 1, 1, 0xfe, 0x01, 0x02]
    expect(read(configuration(interface2, short))).toEqual([
      { ...only, endpoints: [], others: [Uint8Array.from(short)] },
    ])
    const cut = [6, 5, 0x81, 0x03, 0x40, 0x01]
    expect(read(configuration(interface2, cut))[0]).toMatchObject({
      endpoints: [],
      others: [Uint8Array.from(cut)],
    })
    expect(read(configuration(functional, endpoint))).toEqual([])
  })
})

describe('what is asked of a device', () => {
  function asked(answers: number[][]) {
    const requests: [ControlSetup, number][] = []
    const port = {
      controlIn: async (setup: ControlSetup, length: number) => {
        requests.push([setup, length])
        return Uint8Array.from(answers[requests.length - 1]!)
      },
    } as unknown as UsbPort
    return { port, requests }
  }
  // GET_DESCRIPTOR is request 6; wValue is type and index, wIndex the language (clause 9.4.3).
  const standard = (value: number, index: number) => ({
    type: 'standard',
    recipient: 'device',
    request: 6,
    value,
    index,
  })

  it('is its descriptor of eighteen bytes', async () => {
    const { port, requests } = asked([device])
    expect((await deviceDescriptor(port))?.productId).toBe(0x5678)
    expect(requests).toEqual([[standard(0x0100, 0), 18]])
  })
  it('is the head of its configuration, then as many bytes as it says', async () => {
    const long = configuration(interface2, ...Array.from({ length: 80 }, () => functional))
      .with(2, 0x52)
      .with(3, 1)
    const { port, requests } = asked([long.slice(0, 9), long])
    expect((await interfacesOf(port))[0]!.others).toHaveLength(80)
    expect(requests).toEqual([
      [standard(0x0200, 0), 9],
      [standard(0x0200, 0), 0x152],
    ])
    const broken = asked([[9, 2], []])
    expect(await interfacesOf(broken.port)).toEqual([])
    expect(broken.requests[1]![1]).toBe(0)
  })
  it('is a string in US English; number 0 is none', async () => {
    const { port, requests } = asked([[8, 3, 0x48, 0, 0xf6, 0, 0xac, 0x20, 0x41, 0]])
    expect(await stringOf(port, 0)).toBeNull()
    expect(requests).toEqual([])
    // Its own length counts and not what comes behind it; a euro sign takes both bytes.
    expect(await stringOf(port, 4)).toBe('Hö€')
    expect(requests).toEqual([[standard(0x0304, 0x0409), 255]])
    expect(await stringOf(asked([[8, 3, 0x48, 0, 0x49]]).port, 4)).toBe('H')
    expect(await stringOf(asked([[]]).port, 4)).toBe('')
  })
  it('is told as it is read', () => {
    expect([...writeString('H€')]).toEqual([6, 3, 0x48, 0, 0xac, 0x20])
    expect([...writeString('')]).toEqual([2, 3])
  })
})
