import { dapAdapterDevice, usbDevice, type LineTarget } from '@bench-wake/standins'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { concatBytes, hexOf, isProblem, virtualClock } from '../../kernel'
import { dapAdapter, type DapAdapter } from '../swd'
import { exchangeMs, openSpiPort, packExchanges, unpackExchanges, wholeExchangeBytes } from '.'
import { factsOf } from '../refusal.test-support'

const turn = () => new Promise<void>((done) => setImmediate(done))
const bytes = (...values: number[]) => Uint8Array.from(values)
const held = { packetBytes: 64, held: true, selects: true }

/** An echo: what went out comes back a byte later, as a shift register of eight bits does. */
function shiftRegister() {
  let register = 0
  const seen: { select: boolean; data: boolean }[] = []
  const lines: LineTarget = {
    clock(select, data) {
      seen.push({ select, data })
      const out = !!(register & 0x80)
      register = ((register << 1) | Number(data)) & 0xff
      return out
    },
    select() {},
    reset() {},
  }
  return { lines, seen }
}

async function adapterOn(lines: LineTarget | undefined, version: 1 | 2 = 2): Promise<DapAdapter> {
  const clock = virtualClock(turn)
  const device = dapAdapterDevice({ clock, ends: lines ? { lines } : {}, version, serial: '1' })
  const usb = usbDevice({ name: 'probe', clock, now: () => device })
  await usb.open()
  return dapAdapter(usb)
}

describe('packets that clock a chip', () => {
  // Source: CMSIS-DAP reference, DAP_JTAG_Sequence: 14, count, then information bytes (bits 0 to 5 clocks, 6 TMS, 7 keep TDO)
  // with their bits, lowest first. 9F with its highest bit first is F9; worked by hand.
  it('ask a chip’s identity in three sequences', () => {
    const [only, ...more] = packExchanges([{ send: bytes(0x9f), read: 3 }], held)
    expect(hexOf(only!.packet)).toBe('140308f9980000004100')
    expect(more).toEqual([])
    // 14, status, then EF 40 18 with its bits turned: F7 02 18.
    expect(
      unpackExchanges([{ send: bytes(0x9f), read: 3 }], [only!], [bytes(0xf7, 0x02, 0x18)]).map(hexOf),
    ).toEqual(['ef4018'])
  })
  // Source: the same reference: a count of 0 stands for 64 clocks, the most there are in one sequence.
  it('send eight bytes as 64 clocks', () => {
    const [only] = packExchanges([{ send: new Uint8Array(8), read: 0 }], held)
    expect(hexOf(only!.packet)).toBe('140200' + '00'.repeat(8) + '4100')
  })
  it('never are longer than the adapter takes, there or back', () => {
    const exchange = fc.record({
      send: fc.uint8Array({ minLength: 1, maxLength: 300 }),
      read: fc.nat({ max: 300 }),
    })
    fc.assert(
      fc.property(
        fc.array(exchange, { minLength: 1, maxLength: 6 }),
        fc.constantFrom(64, 512, 1024),
        (list, packetBytes) => {
          const packets = packExchanges(list, { packetBytes, held: true, selects: true })
          for (const { packet, kept } of packets) {
            expect(packet.length).toBeLessThanOrEqual(packetBytes)
            expect(packet[1]).toBeGreaterThan(0)
            expect(2 + kept.reduce((sum, each) => sum + each.bytes, 0)).toBeLessThanOrEqual(packetBytes)
          }
          const back = packets.flatMap(({ kept }) => kept)
          list.forEach(({ read }, index) =>
            expect(back.filter(({ of }) => of === index).reduce((sum, each) => sum + each.bytes, 0)).toBe(
              read,
            ),
          )
        },
      ),
      { numRuns: 200 },
    )
  })
  // 64 bytes less head and letting go are 60: six sequences of eight bytes, and one of five.
  it('hold 53 bytes of one exchange where select cannot be kept', () => {
    expect(wholeExchangeBytes(64)).toBe(53)
    const alone = { packetBytes: 64, held: false, selects: true }
    expect(packExchanges([{ send: new Uint8Array(53), read: 0 }], alone)).toHaveLength(1)
    expect(() => packExchanges([{ send: new Uint8Array(54), read: 0 }], alone)).toThrow(RangeError)
    // Two that fit into one packet together only when they are cut are not cut.
    const two = packExchanges(
      [
        { send: new Uint8Array(40), read: 0 },
        { send: new Uint8Array(40), read: 0 },
      ],
      alone,
    )
    expect(two.map(({ packet }) => packet[1])).toEqual([6, 6])
  })
})

describe('a synchronous port on an adapter’s lines', () => {
  it('sends the highest bit first, with select low from the first to the last', async () => {
    const { lines, seen } = shiftRegister()
    const port = await openSpiPort(await adapterOn(lines), { hertz: 1_000_000 })
    seen.length = 0
    await port.exchange([{ send: bytes(0xa0), read: 0 }])
    expect(seen.map(({ data }) => Number(data)).join('')).toBe('101000000')
    expect(seen.map(({ select }) => Number(select)).join('')).toBe('000000001')
  })
  it('keeps select high and clocks on where reset selects the unit', async () => {
    const { lines, seen } = shiftRegister()
    const port = await openSpiPort(await adapterOn(lines), { hertz: 1000, select: 'none' })
    seen.length = 0
    await port.exchange([{ send: bytes(0xff), read: 1 }])
    expect(seen.every(({ select }) => select)).toBe(true)
    expect(seen).toHaveLength(16)
  })
  it('gives back what comes in, over as many packets as it takes', async () => {
    for (const version of [1, 2] as const) {
      const { lines } = shiftRegister()
      const port = await openSpiPort(await adapterOn(lines, version), { hertz: 1_000_000 })
      const send = Uint8Array.from({ length: 700 }, (_, at) => (at * 7) & 255)
      const [back] = await port.exchange([{ send, read: 2 }])
      // A register of eight bits is one byte late: the last that was sent comes first, then what was read as zeros.
      expect([...back!]).toEqual([send.at(-1), 0])
    }
  })
  it('is not there where an adapter knows serial wire alone', async () => {
    const adapter = await adapterOn(undefined)
    const error: unknown = await openSpiPort(adapter, { hertz: 1000 }).catch((each: unknown) => each)
    expect(isProblem(error, 'spi-not-there')).toBe(true)
  })
  it('keeps exchanges short where the adapter lets select go between packets', async () => {
    const { lines } = shiftRegister()
    const whole = await adapterOn(lines, 1)
    const letsGo: DapAdapter = {
      ...whole,
      async exchange(packet) {
        const answer = await whole.exchange(packet)
        // Every look at the lines finds select high again.
        return packet[0] === 0x10 ? concatBytes([answer.subarray(0, 1), bytes(answer[1]! | 2)]) : answer
      },
    }
    expect((await openSpiPort(letsGo, { hertz: 1000 })).maxBytes).toBe(53)
    expect((await openSpiPort(whole, { hertz: 1000 })).maxBytes).toBe(Infinity)
  })
})

/*
 * Source: CMSIS-DAP reference: DAP_Info 00 with F0 capabilities (bit 1 JTAG), DAP_Connect 02 with 02 JTAG, DAP_SWJ_Clock 11
 * with the hertz in four bytes, DAP_SWJ_Pins 10 with value, mask (bit 0 TCK, 1 TMS, 7 nRESET) and a wait, DAP_HostStatus 01,
 * DAP_Disconnect 03. A status of 00 is DAP_OK, FF an error.
 */
describe('what an adapter is sent', () => {
  /** Writes down what comes, and answers each command as its layout says. */
  async function recorder({
    capabilities = [1, 3],
    joins = 2,
    statusOf = (): number => 0,
    pinsNow = 0,
  }: {
    capabilities?: number[]
    joins?: number
    statusOf?: (packet: Uint8Array) => number
    pinsNow?: number
  } = {}) {
    const sent: string[] = []
    const adapter: DapAdapter = {
      ...(await adapterOn(undefined)),
      async exchange(packet) {
        sent.push(hexOf(packet))
        if (packet[0] === 0x00) return bytes(0, ...capabilities)
        if (packet[0] === 0x02) return bytes(2, joins)
        if (packet[0] === 0x10) return bytes(0x10, pinsNow)
        return concatBytes([bytes(packet[0]!, statusOf(packet)), new Uint8Array(62)])
      },
    }
    return { sent, adapter }
  }
  const noWait = '00000000'

  it('is asked for its lines, joined as JTAG, and tried whether select stays low', async () => {
    const { sent, adapter } = await recorder()
    const port = await openSpiPort(adapter, { hertz: 1_000_000 })
    expect(sent).toEqual([
      '00f0',
      '0202',
      '1140420f00',
      // Clock high, select low; another packet; how they stand; both high at rest.
      `100103${noWait}`,
      '010001',
      `100000${noWait}`,
      `100303${noWait}`,
    ])
    expect(port.hertz).toBe(1_000_000)
    expect(port.maxBytes).toBe(Infinity)
  })
  it('of which reset selects the unit rests with its clock low, before reset falls too', async () => {
    const { sent, adapter } = await recorder({ pinsNow: 0xff })
    const port = await openSpiPort(adapter, { hertz: 1000, select: 'none' })
    expect(sent.slice(2)).toEqual(['11e8030000', `100203${noWait}`])
    // Nothing is let go between its packets: how select stands is nobody's question.
    expect(port.maxBytes).toBe(Infinity)
    sent.length = 0
    await port.reset(true)
    await port.reset(false)
    await port.release()
    expect(sent).toEqual([
      `100203${noWait}`,
      `100080${noWait}`,
      `100203${noWait}`,
      `108080${noWait}`,
      `108283${noWait}`,
      '03',
    ])
  })
  it('holds reset, lets it go, and leaves all lines high', async () => {
    const { sent, adapter } = await recorder()
    const port = await openSpiPort(adapter, { hertz: 1000 })
    sent.length = 0
    await port.reset(true)
    await port.reset(false)
    await port.release()
    expect(sent).toEqual([`100080${noWait}`, `108080${noWait}`, `108383${noWait}`, '03'])
  })
  it.each([
    ['says nothing of what it can do', { capabilities: [0, 2] }],
    ['has serial wire alone', { capabilities: [1, 1] }],
    ['joins as serial wire all the same', { joins: 1 }],
    ['does not join', { joins: 0 }],
  ])('is no way to a chip where it %s', async (_, form) => {
    const { sent, adapter } = await recorder(form)
    expect(await factsOf(openSpiPort(adapter, { hertz: 1000 }))).toMatchObject({ kind: 'spi-not-there' })
    // Nothing is clocked there.
    expect(sent.every((packet) => packet.startsWith('00') || packet.startsWith('02'))).toBe(true)
  })
  it('is refused in words where it does not take its clock, or does not clock', async () => {
    const slow = await recorder({ statusOf: (packet) => (packet[0] === 0x11 ? 0xff : 0) })
    expect(await factsOf(openSpiPort(slow.adapter, { hertz: 25_000_000 }))).toMatchObject({
      kind: 'dap-refused',
      expected: expect.stringMatching(/^25\D000\D000\DHz$/),
      found: '0xFF',
    })
    const stuck = await recorder({ statusOf: (packet) => (packet[0] === 0x14 ? 1 : 0) })
    const port = await openSpiPort(stuck.adapter, { hertz: 1000 })
    expect(await factsOf(port.exchange([{ send: bytes(0x9f), read: 3 }]))).toMatchObject({
      kind: 'dap-refused',
      found: '0x01',
    })
  })
})

describe('the room of a packet', () => {
  // A packet of 64 has 62 for sequences; of 2 + 9n + r bytes r less one hold data. Worked by hand.
  it.each([
    [64, 53],
    [512, 451],
    [13, 8],
    [14, 8],
    [15, 9],
    [5, 0],
  ])('of %i bytes holds %i of one exchange whole', (packetBytes, whole) => {
    expect(wholeExchangeBytes(packetBytes)).toBe(whole)
    if (whole < 1) return
    const alone = { packetBytes, held: false, selects: true }
    const [only, ...more] = packExchanges([{ send: new Uint8Array(whole), read: 0 }], alone)
    expect(more).toEqual([])
    expect(only!.packet.length).toBeLessThanOrEqual(packetBytes)
    expect(() => packExchanges([{ send: new Uint8Array(whole - 1), read: 2 }], alone)).toThrow(RangeError)
  })
  it('ends at 255 sequences, the most that its count says', () => {
    // One clocked byte and its letting go are two sequences: 127 pairs and one more byte are 255.
    const list = Array.from({ length: 128 }, () => ({ send: bytes(1), read: 0 }))
    const packets = packExchanges(list, { packetBytes: 4096, held: true, selects: true })
    expect(packets.map(({ packet }) => packet[1])).toEqual([255, 1])
    expect(packets[1]!.packet).toEqual(bytes(0x14, 1, 0x41, 0))
  })
  it('has room for an answer as long as itself, and no longer', () => {
    const [first, second, ...more] = packExchanges([{ send: bytes(3), read: 63 }], {
      packetBytes: 64,
      held: true,
      selects: true,
    })
    // 14, count, then 03 in two bytes, six sequences of eight zeros in nine, one of five in six: 64 bytes.
    expect(first!.packet.length).toBe(64)
    expect(first!.kept.map(({ bytes: each }) => each)).toEqual([8, 8, 8, 8, 8, 8, 5])
    expect(second!.kept.reduce((sum, { bytes: each }) => sum + each, 0)).toBe(63 - 53)
    expect(more).toEqual([])
  })
})

describe('what clocking takes', () => {
  // 8 clocks a byte, and one with select high after each exchange; the packets' time on the bus is added.
  it('is the clocks of all bytes and of letting go, at the port’s hertz', () => {
    const form = { packetBytes: 512, hertz: 1000 }
    const list = [{ send: bytes(1, 2), read: 3 }]
    const both = exchangeMs(list, form)
    expect(both - exchangeMs(list, { ...form, hertz: 1e12 })).toBeCloseTo(41, 6)
    expect(exchangeMs(list, form, false) - exchangeMs(list, { ...form, hertz: 1e12 }, false)).toBeCloseTo(
      40,
      6,
    )
    // Twice as many packets, both ways, are twice as long on the bus.
    const wide = [{ send: new Uint8Array(448), read: 0 }]
    const one = exchangeMs(wide, { packetBytes: 512, hertz: 1e12 }, false)
    const two = exchangeMs([...wide, ...wide], { packetBytes: 512, hertz: 1e12 }, false)
    expect(two / one).toBeGreaterThan(1.9)
    expect(one).toBeGreaterThan(0)
  })
})
