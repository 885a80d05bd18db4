import { canBus, serialLine, serveSlcan } from '@bench-wake/standins'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { asciiBytes, asciiText, virtualClock } from '../../kernel'
import type { SerialSettings } from '../port'
import {
  canFrameBits,
  canFrameBitsSent,
  crc15,
  busNotice,
  decodeSlcan,
  encodeSlcan,
  slcanPort,
  type CanFrame,
} from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))

/** Bits as they are sent: after five equal ones, one of the other kind (ISO 11898-1, bit stuffing). */
function stuffBits(bits: readonly (0 | 1)[]): (0 | 1)[] {
  const sent: (0 | 1)[] = []
  let equal = 0
  for (const bit of bits) {
    equal = sent[sent.length - 1] === bit ? equal + 1 : 1
    sent.push(bit)
    if (equal < 5) continue
    sent.push(bit === 0 ? 1 : 0)
    equal = 1
  }
  return sent
}

/** A frame's bits by the standard's own order, written out as text, and its CRC by long division (ISO 11898-1, 10.4). */
function frameByHand({ id, extended, data }: CanFrame): string {
  const binary = (value: number, digits: number) => value.toString(2).padStart(digits, '0')
  const head = extended
    ? `0${binary(id, 29).slice(0, 11)}11${binary(id, 29).slice(11)}000`
    : `0${binary(id, 11)}000`
  const open = `${head}${binary(data.length, 4)}${[...data].map((byte) => binary(byte, 8)).join('')}`
  // x^15 + x^14 + x^10 + x^8 + x^7 + x^4 + x^3 + 1
  const divisor = 0b1100010110011001n
  let rest = BigInt(`0b${open}`) << 15n
  for (let width = rest.toString(2).length; width >= 16; width = rest.toString(2).length)
    rest ^= divisor << BigInt(width - 16)
  return `${open}${rest.toString(2).padStart(15, '0')}`
}
const asBits = (text: string) => [...text].map((bit): 0 | 1 => (bit === '1' ? 1 : 0))

describe('a frame on the vehicle bus', () => {
  // Source: ISO 11898-1 frame format, worked by hand: 8 bytes in the base format are 111 bits with their rest, 135 with the
  // most stuff bits; 131 and 160 in the extended format. The figures 135 and 160 are in wide use (from memory).
  it.each([
    [8, false, 111, 135],
    [8, true, 131, 160],
    [0, false, 47, 55],
  ] as const)('%s bytes, extended %s: %s to %s bits', (bytes, extended, min, max) =>
    expect(canFrameBits(bytes, extended)).toMatchObject({ min, max }),
  )
  // Source: ISO 11898-1, bit stuffing, worked by hand; a stuff bit counts as the first of the next five.
  it.each([
    ['00000', '000001'],
    ['11111', '111110'],
    ['0000011110', '000001111100'],
    ['0101010101', '0101010101'],
    ['000000', '0000010'],
  ])('%s is sent as %s', (bits, sent) => expect(stuffBits(asBits(bits)).join('')).toBe(sent))
  // The worst there can be is 00000 1111 0000 …: each stuff bit is the first of the next five.
  it('reaches its bound with the worst bits there are', () => {
    const open = 34 + 8 * 8
    const worst = Array.from({ length: open }, (_, at): 0 | 1 =>
      at < 5 || Math.floor((at - 5) / 4) % 2 === 1 ? 0 : 1,
    )
    const { min, max } = canFrameBits(8)
    expect(stuffBits(worst).length - open).toBe(max - min)
  })
  // Source: CRC RevEng catalogue, CRC-15/CAN, check value of "123456789": 0x059E.
  it('has the CRC of the catalogue', () => {
    const bits = [...asciiBytes('123456789')].flatMap((byte) => asBits(byte.toString(2).padStart(8, '0')))
    expect(crc15(bits)).toBe(0x059e)
  })
  const anyFrame = fc
    .tuple(fc.boolean(), fc.nat(0x1fffffff), fc.uint8Array({ maxLength: 8 }))
    .map(([extended, id, data]): CanFrame => (extended ? { id, extended, data } : { id: id & 0x7ff, data }))
  it('is as long as its bits laid out by hand, stuffed one by one', () => {
    fc.assert(
      fc.property(anyFrame, (frame) => {
        const sent = stuffBits(asBits(frameByHand(frame)))
        expect(sent.join('')).not.toMatch(/000000|111111/)
        // CRC delimiter, two of acknowledge, seven of end, three of rest.
        expect(canFrameBitsSent(frame)).toBe(sent.length + 13)
        const { min, max } = canFrameBits(frame.data.length, frame.extended)
        expect(canFrameBitsSent(frame)).toBeGreaterThanOrEqual(min)
        expect(canFrameBitsSent(frame)).toBeLessThanOrEqual(max)
      }),
    )
  })
  it('of zeros alone is far longer than of random bytes, whose mean is the likely length', () => {
    expect(canFrameBitsSent({ id: 0, data: new Uint8Array(8) })).toBeGreaterThan(111 + 15)
    let state = 1
    const next = () => (state = (Math.imul(state, 1103515245) + 12345) >>> 0) >>> 16
    const count = 4000
    let sum = 0
    for (let at = 0; at < count; at++) {
      const data = Uint8Array.from({ length: 8 }, () => next() & 255)
      sum += stuffBits(asBits(frameByHand({ id: next() & 0x7ff, data }))).length + 13
    }
    expect(Math.abs(sum / count / canFrameBits(8).likely - 1)).toBeLessThan(0.005)
  })
})

describe('a frame as text', () => {
  // Source: Linux kernel, drivers/net/can/slcan, the examples in its header comment.
  it.each([
    ['t1230', { id: 0x123, data: [] }],
    ['t4563112233', { id: 0x456, data: [0x11, 0x22, 0x33] }],
    ['T12ABCDEF2AA55', { id: 0x12abcdef, extended: true, data: [0xaa, 0x55] }],
  ] as const)('%s', (text, { data, ...rest }) => {
    const frame = { ...rest, data: Uint8Array.from(data) }
    expect(decodeSlcan(text)).toEqual(frame)
    expect(encodeSlcan(frame)).toBe(text)
  })
  // Source: the same: `r1230` is a remote frame, without data; nine bytes and an identifier above 7FF are none.
  it.each(['r1230', 't1239112233445566778899', 't8000', 't12321', 'T2ABCDEF00', ''])(
    '%s is no data frame',
    (text) => expect(decodeSlcan(text)).toBeNull(),
  )
  // Source: the slcan text as adapters give it with time stamps on: four digits behind the data (from memory).
  it('with a time stamp behind it is the same frame', () => {
    expect(decodeSlcan('t4563112233A1F0')).toEqual({ id: 0x456, data: Uint8Array.of(0x11, 0x22, 0x33) })
    expect(decodeSlcan('T12ABCDEF00042')).toEqual({ id: 0x12abcdef, extended: true, data: new Uint8Array() })
    expect(decodeSlcan('t4563112233A1')).toBeNull()
    expect(decodeSlcan('t4563112233A1F001')).toBeNull()
  })
  // Source: Linux kernel, drivers/net/can/slcan: `s` and the state with two counters of three digits, `e` and as many
  // letters as its digit says (from memory).
  it.each([
    ['sa000000', { state: 'active' }],
    ['sw096000', { state: 'warning' }],
    ['sp000135', { state: 'passive' }],
    ['sb000256', { state: 'off' }],
    ['e1a', { errors: ['nobody acknowledged'] }],
    ['e3ccf', { errors: ['a checksum does not hold', 'a frame of the wrong form'] }],
    ['sx000000', null],
    ['sa00000', null],
    ['e2a', null],
    ['e1z', null],
    ['t1230', null],
  ])('%s is told as what the bus does', (text, notice) => expect(busNotice(text)).toEqual(notice))
  it('of any text is read without throwing', () => {
    fc.assert(fc.property(fc.string(), (text) => void decodeSlcan(text)))
  })
})

describe('an adapter behind a serial line', () => {
  const settings: SerialSettings = { baudRate: 2_000_000, dataBits: 8, parity: 'none', stopBits: 1 }
  async function bench() {
    const clock = virtualClock(turn)
    let rate = 0
    const bus = canBus(clock, () => rate || 500_000)
    const line = serialLine({ name: 'adapter', clock, unit: settings })
    await line.host.open(settings)
    void serveSlcan(line.unit, bus.join('adapter'), (chosen) => (rate = chosen)).catch(() => {})
    return { clock, bus, line, can: slcanPort(line.host, clock), rate: () => rate }
  }
  it('sets the rate, sends and hears', async () => {
    const { can, bus, rate } = await bench()
    const peer = bus.join('unit')
    await can.join(500_000)
    expect(rate()).toBe(500_000)
    await can.send({ id: 0x7e0, data: Uint8Array.of(2, 0x10, 3) })
    expect(await peer.receive(0)).toEqual({ id: 0x7e0, data: Uint8Array.of(2, 0x10, 3) })
    await peer.send({ id: 0x18daf110, extended: true, data: Uint8Array.of(1) })
    expect(await can.receive(100)).toEqual({ id: 0x18daf110, extended: true, data: Uint8Array.of(1) })
    expect(await can.receive(20)).toBeNull()
  })
  // Source: the same: S6 is 500 kbit/s, a refusal is a bell; there is no digit for 42 kbit/s.
  it('refuses an unknown rate and a frame while closed', async () => {
    const { can, line } = await bench()
    await expect(can.join(42_000)).rejects.toMatchObject({ facts: { kind: 'slcan-refused' } })
    await line.host.write(asciiBytes('t1230\r'))
    expect(asciiText((await line.host.read(10, 100))!)).toBe('\x07')
  })
  /** An adapter by hand: it answers each command with what is given, one after the other. */
  async function byHand(...answers: string[]) {
    const clock = virtualClock(turn)
    const line = serialLine({ name: 'adapter', clock, unit: settings })
    await line.host.open(settings)
    void (async () => {
      let got = ''
      for (const answer of answers) {
        while (!got.includes('\r')) got += asciiText((await line.unit.read(64, Infinity))!)
        got = got.slice(got.indexOf('\r') + 1)
        await line.unit.write(asciiBytes(answer))
      }
    })().catch(() => {})
    return { can: slcanPort(line.host, clock), line, clock }
  }
  const frame = { id: 0x7e0, data: Uint8Array.of(2, 0x10, 3) }
  it('that went off the bus says so at once, with what it met', async () => {
    const { can, clock } = await byHand('e2as\rsb000256\r')
    await expect(can.send(frame)).rejects.toMatchObject({
      facts: { kind: 'can-bus-off', found: 'nobody acknowledged; too many equal bits in a row' },
    })
    expect(clock.now()).toBeLessThan(10)
    // It stays so for whoever listens, until the bus is joined anew.
    await expect(can.receive(1000)).rejects.toMatchObject({ facts: { kind: 'can-bus-off' } })
  })
  it('that joined the bus again after it went off is heard again', async () => {
    const { can, line } = await byHand('sb000256\r', '\r', '\r', '\r')
    await expect(can.send(frame)).rejects.toMatchObject({ facts: { kind: 'can-bus-off' } })
    await can.join(500_000)
    await line.unit.write(asciiBytes('t7E83025003\r'))
    expect(await can.receive(100)).toMatchObject({ id: 0x7e8 })
    // Each command had its own answer: none is left over that a frame could take for its acknowledge.
    await expect(can.send(frame)).rejects.toMatchObject({ facts: { kind: 'slcan-silent' } })
  })
  it('that only warns goes on, and its errors stand with the silence', async () => {
    const { can } = await byHand('sw096000\re1a\rz\r', 'e1a\r')
    await can.send(frame)
    await expect(can.send(frame)).rejects.toMatchObject({
      facts: { kind: 'slcan-silent', found: 't7E03021003; nobody acknowledged' },
    })
  })
  it('says so when nobody on the bus acknowledges', async () => {
    const { can } = await bench()
    await can.join(500_000)
    await expect(can.send({ id: 1, data: new Uint8Array() })).rejects.toMatchObject({
      facts: { kind: 'slcan-silent' },
    })
  })
})
