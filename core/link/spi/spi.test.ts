import { dapAdapterDevice, usbDevice, type LineTarget } from '@bench-wake/standins'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { concatBytes, hexOf, isProblem, virtualClock } from '../../kernel'
import { dapAdapter, type DapAdapter } from '../swd'
import { openSpiPort, packExchanges, unpackExchanges, wholeExchangeBytes } from '.'

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
    expect((await openSpiPort(letsGo, { hertz: 1000 })).mostBytes).toBe(53)
    expect((await openSpiPort(whole, { hertz: 1000 })).mostBytes).toBe(Infinity)
  })
})
