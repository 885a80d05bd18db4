import { componentOf, drivenLink, type Family } from '@bench-wake/core/family'
import { demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { concatBytes, virtualClock } from '../../kernel'
import { portLost } from '../port'
import type { Opening } from '../drive/protocol'
import { usbStall, writeString, type UsbInterface, type UsbPort } from '../usb'
import { dfuInterface, writeFunction } from '.'
import { dfuDriver } from './driver'
import { dfuProtocol } from './protocol'
import { usualFunction } from './dfu.test-support'
import { factsOf } from '../refusal.test-support'

/*
 * A device that tells of itself by its strings, from descriptors written out by USB 2.0, clause 9.6 (tables 9-10, 9-12, 9-15), and
 * DFU 1.1, clause 4: interface class FE 01, protocol 01 while its firmware runs, 02 in update mode.
 */

const turn = () => new Promise<void>((done) => setImmediate(done))
/** An interface descriptor: number, alternate, class, subclass, protocol, string. */
const face = (number: number, alternate: number, kind: [number, number, number], name = 0) =>
  Uint8Array.of(9, 4, number, alternate, 0, ...kind, name)
const running = [0xfe, 1, 1] as [number, number, number]
const update = [0xfe, 1, 2] as [number, number, number]

interface Plug {
  interfaces?: Uint8Array[]
  strings?: Record<number, string>
  /** Requests that find the device gone, before it is found again. */
  gone?: number
}

function bench({
  interfaces = [face(0, 0, running), writeFunction(usualFunction)],
  strings = {},
  gone = 0,
}: Plug = {}) {
  const calls: string[] = []
  let left = gone
  const port: UsbPort = {
    name: 'plug',
    open: async () => void calls.push('open'),
    close: async () => void calls.push('close'),
    claimInterface: async () => {},
    async controlIn({ type, request, value }, length) {
      if (left > 0) {
        left--
        throw portLost('plug', 'unplugged')
      }
      if (type !== 'standard' || request !== 6) throw usbStall('plug', 'another')
      const [kind, index] = [value >> 8, value & 255]
      if (kind === 2) {
        const rest = concatBytes(interfaces)
        const whole = concatBytes([Uint8Array.of(9, 2, 9 + rest.length, 0, 1, 1, 0, 0x80, 50), rest])
        return whole.slice(0, length)
      }
      const text = strings[index]
      if (kind !== 3 || (index > 0 && text === undefined)) throw usbStall('plug', `string ${index}`)
      return index === 0 ? Uint8Array.of(4, 3, 9, 4) : writeString(text!).slice(0, length)
    },
    controlOut: async () => {},
    transferIn: async () => new Uint8Array(0),
    transferOut: async () => {},
    reset: async () => {},
    async reopen(ms) {
      calls.push(`again ${ms}`)
      left = Math.min(left, 0)
    },
  }
  const family: Family = structuredClone(demoFamily('tide-logger'))
  const link = drivenLink(family)!
  const opening = { clock: virtualClock(turn), family, link, component: componentOf(family) }
  return { calls, port, family, link, opening: opening as unknown as Opening<'dfu'> }
}
type Bench = ReturnType<typeof bench>
const driverOf = ({ port, opening }: Bench, page?: object[]) =>
  dfuDriver(
    port,
    page
      ? ({ ...opening, link: { ...opening.link, drive: { ...opening.link.drive, page } } } as typeof opening)
      : opening,
  )

describe('the page of a device', () => {
  const page = [
    { field: 'deviceIdentifier', string: 2 },
    { field: 'serial', string: 3 },
    { field: 'hardware', string: 9 },
  ]
  it('is what its strings say, each under its field; in update mode it has fewer', async () => {
    const made = bench({ strings: { 2: 'TL-2', 3: '2107' } })
    const { lines, inBootloader } = await driverOf(made, page).page()
    expect(inBootloader).toBe(false)
    expect(lines).toHaveLength(2)
    expect(lines[0]).toContain('TL-2')
    expect(lines[1]).toContain('2107')
  })
  it('leaves out a string that is empty', async () => {
    expect((await driverOf(bench({ strings: { 2: '', 3: '2107' } }), page).page()).lines).toHaveLength(1)
  })
  it('takes the name of a memory where the profile asks for that', async () => {
    const own = {
      interfaces: [face(0, 0, update, 4), face(0, 1, update, 5), writeFunction(usualFunction)],
      strings: { 4: 'main 2.4', 5: 'panel 1.1' },
    }
    const lines = async (alternate: number) =>
      (await driverOf(bench(own), [{ field: 'version.logger', alternate }]).page()).lines
    expect((await lines(0))[0]).toContain('main 2.4')
    expect((await lines(1))[0]).toContain('panel 1.1')
    expect(await lines(2)).toEqual([])
    expect(
      (await driverOf(bench({ ...own, interfaces: [] }), [{ field: 'version.logger', alternate: 1 }]).page())
        .lines,
    ).toEqual([])
  })
  it('is not made up where the device fails otherwise', async () => {
    const made = bench({ strings: { 2: 'TL-2' } })
    const { controlIn } = made.port
    made.port.controlIn = (setup, length) =>
      setup.value >> 8 === 3 ? Promise.reject(new TypeError('defect')) : controlIn(setup, length)
    await expect(driverOf(made, page).page()).rejects.toThrow(TypeError)
  })
})

describe('whether it is in update mode', () => {
  it.each<[string, Uint8Array[], boolean]>([
    ['its firmware runs', [face(0, 0, running), writeFunction(usualFunction)], false],
    ['update mode', [face(0, 0, update), writeFunction(usualFunction)], true],
    ['no such interface', [face(0, 0, [3, 0, 0]), writeFunction(usualFunction)], false],
    ['none at all', [], false],
  ])('%s', async (_, interfaces, inUpdate) => {
    const driver = driverOf(bench({ interfaces }))
    expect(await driver.probeBootloader()).toEqual({ bootloader: inUpdate })
    expect((await driver.page()).inBootloader).toBe(inUpdate)
  })
})

describe('a plug that was pulled and put in again', () => {
  it('is another device at the same place: it is found again within ten seconds, and asked anew', async () => {
    for (const ask of ['page', 'probeBootloader'] as const) {
      const made = bench({ gone: 1, interfaces: [face(0, 0, update), writeFunction(usualFunction)] })
      await driverOf(made)[ask]()
      expect(made.calls, ask).toEqual(['again 10000'])
    }
    const made = bench({ gone: 1, interfaces: [face(0, 0, update), writeFunction(usualFunction)] })
    await factsOf(driverOf(made).loader.attach())
    expect(made.calls).toContain('again 10000')
  })
  it('is asked for once: one that stays away is gone', async () => {
    const made = bench({ gone: 1 })
    made.port.reopen = async (ms) => void made.calls.push(`again ${ms}`)
    const { controlIn } = made.port
    made.port.controlIn = () => Promise.reject(portLost('plug', 'unplugged'))
    expect(await factsOf(driverOf(made).page())).toMatchObject({ kind: 'port-lost' })
    expect(made.calls).toEqual(['again 10000'])
    made.port.controlIn = controlIn
  })
  it('what is no lost plug is not waited for', async () => {
    const made = bench()
    made.port.controlIn = () => Promise.reject(usbStall('plug', 'all'))
    expect(await factsOf(driverOf(made).probeBootloader())).toMatchObject({ kind: 'usb-stall' })
    expect(made.calls).toEqual([])
  })
  it('is opened and closed as it is told', async () => {
    const made = bench()
    const driver = driverOf(made)
    await driver.open()
    await driver.close()
    expect(made.calls).toEqual(['open', 'close'])
  })
})

describe('the update interface among others', () => {
  const own = (
    number: number,
    alternate: number,
    protocol: number,
    name: number,
    ...others: Uint8Array[]
  ): UsbInterface => ({
    number,
    alternate,
    class: 0xfe,
    subclass: 1,
    protocol,
    name,
    endpoints: [],
    others,
  })
  const fn = writeFunction(usualFunction)
  it('is the one of class FE, subclass 01, with its descriptor behind any of its settings', () => {
    const found = dfuInterface([
      { ...own(0, 0, 0, 1, fn), class: 3 },
      { ...own(1, 0, 0, 1, fn), subclass: 2 },
      own(2, 0, 2, 7),
      own(2, 1, 2, 8, fn),
    ])
    expect(found).toEqual({
      number: 2,
      running: false,
      alternates: [
        { alternate: 0, name: 7 },
        { alternate: 1, name: 8 },
      ],
      function: usualFunction,
    })
    expect(dfuInterface([own(0, 0, 1, 0, fn)])!.running).toBe(true)
  })
  it('is none without that descriptor, and its settings are its own alone', () => {
    expect(dfuInterface([own(0, 0, 2, 7)])).toBeNull()
    expect(dfuInterface([own(0, 0, 2, 7, Uint8Array.of(5, 0x24, 0, 0, 0))])).toBeNull()
    expect(dfuInterface([own(0, 0, 2, 7), own(1, 0, 2, 8, fn)])).toMatchObject({
      number: 1,
      alternates: [{ alternate: 0, name: 8 }],
    })
  })
})

describe('the time of update mode', () => {
  /*
   * Universal Serial Bus 2.0, table 5-2 (from memory): a control transfer has 45 bytes of its own, 13 for each further packet of 64;
   * 1 500 bytes a millisecond. A block of 1 024 bytes and its status, six bytes, asked twice.
   */
  const block = (45 + 1024 + 15 * 13) / 1500 + (2 * (45 + 6)) / 1500
  const { link } = bench()
  it.each([
    [0, 0],
    [1, 1],
    [1024, 1],
    [1025, 2],
    [122_880, 120],
  ])('%i bytes are %i blocks', (bytes, blocks) => {
    expect(dfuProtocol.times.writeMs(link as never, bytes)).toBeCloseTo(blocks * block, 9)
  })
  it('the unit tries what it was given, then it is asked in its time', () => {
    expect(dfuProtocol.times.tailMs!(link as never, 1, 1)).toBe(40)
    expect(dfuProtocol.times.pageMs(link as never)).toBe(20)
    expect(dfuProtocol.says(link as never)).toBe('USB update mode (DFU 1.1)')
    expect(dfuProtocol.can.verify(link as never)).toBe('read-back')
    expect(dfuProtocol.can.erasesFirst!(link as never)).toBe(false)
  })
})
