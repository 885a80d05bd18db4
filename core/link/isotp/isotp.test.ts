import { canBus, type DisturbFrame } from '@bench-wake/standins'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { equalBytes, hexOf, isProblem, virtualClock } from '../../kernel'
import { canFrameBits } from '../can'
import { decodeSeparation, decodeTp, encodeSeparation, encodeTp, isoTp, tpFrames, type IsoTpForm } from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))
const patterned = (length: number) => Uint8Array.from({ length }, (_, at) => (at * 31 + (at >> 8)) & 255)
const bytes = (text: string) => Uint8Array.from(text.split(' '), (pair) => parseInt(pair, 16))

function bench(asks: Partial<IsoTpForm> = {}, disturb?: DisturbFrame, own: Partial<IsoTpForm> = {}) {
  const clock = virtualClock(turn)
  const bus = canBus(clock, () => 500_000, disturb)
  const [near, far] = [bus.join('tester'), bus.join('unit')]
  return {
    clock,
    bus,
    near,
    far,
    tester: isoTp(near, clock, { sendId: 0x7e0, receiveId: 0x7e8, ...own }),
    unit: isoTp(far, clock, { sendId: 0x7e8, receiveId: 0x7e0, ...asks }),
  }
}

describe('frames', () => {
  // Source: ISO 15765-2, clause 9 (PCI bytes), with the reading of a 17-character identification number that diagnostic
  // literature shows as its example (from memory): 20 bytes in a first and two consecutive frames.
  it('of the identification number are read as published', () => {
    expect(decodeTp(bytes('10 14 49 02 01 31 47 31'))).toEqual({
      kind: 'first',
      length: 20,
      data: bytes('49 02 01 31 47 31'),
    })
    expect(decodeTp(bytes('21 4A 43 35 34 34 34 52'))).toMatchObject({ kind: 'consecutive', sequence: 1 })
    expect(decodeTp(bytes('30 00 00'))).toEqual({
      kind: 'flow',
      status: 'continue',
      blockSize: 0,
      separationMs: 0,
    })
    expect(decodeTp(bytes('02 10 03 CC CC CC CC CC'))).toEqual({ kind: 'single', data: bytes('10 03') })
  })
  // Source: ISO 15765-2, clause 9.6.2.1, table 14: single frames are padded to eight bytes; the escape sequence for more
  // than 4 095 bytes is 10 00 and 32 bits.
  it('are eight bytes long, and long messages tell their length in 32 bits', () => {
    expect([...encodeTp({ kind: 'single', data: bytes('3E 00') })]).toEqual([
      ...bytes('02 3E 00 CC CC CC CC CC'),
    ])
    const first = encodeTp({ kind: 'first', length: 70_000, data: patterned(70_000) })
    expect([...first.subarray(0, 6)]).toEqual([...bytes('10 00 00 01 11 70')])
    expect(decodeTp(first)).toMatchObject({ kind: 'first', length: 70_000 })
  })
  // Source: ISO 15765-2, clause 10.3.4 (extended addressing): the target's address is the first byte of each frame, and what
  // follows has one byte less. The frames are those that scapy 2.5 makes of the same twenty bytes to F1.
  it('with a byte of address before them carry one byte less', () => {
    const data = Uint8Array.from({ length: 20 }, (_, at) => at)
    const frames = [
      encodeTp({ kind: 'first', length: 20, data }, 'none', 0xf1),
      encodeTp({ kind: 'consecutive', sequence: 1, data: data.subarray(5) }, 'none', 0xf1),
      encodeTp({ kind: 'consecutive', sequence: 2, data: data.subarray(11) }, 'none', 0xf1),
      encodeTp({ kind: 'consecutive', sequence: 3, data: data.subarray(17) }, 'none', 0xf1),
    ]
    expect(frames.map(hexOf)).toEqual([
      'f110140001020304',
      'f12105060708090a',
      'f1220b0c0d0e0f10',
      'f123111213',
    ])
    expect(decodeTp(frames[0]!, true)).toEqual({ kind: 'first', length: 20, data: data.subarray(0, 5) })
    expect(decodeTp(bytes('F1 06 1 2 3 4 5 6'), true)).toEqual({ kind: 'single', data: bytes('1 2 3 4 5 6') })
    // Seven bytes need a first frame here, and a single frame cannot have them.
    expect(decodeTp(bytes('F1 10 07 1 2 3 4 5'), true)).toMatchObject({ kind: 'first', length: 7 })
    expect(decodeTp(bytes('F1 07 1 2 3 4 5 6 7'), true)).toBeNull()
    expect(decodeTp(bytes('F1 10 06 1 2 3 4 5'), true)).toBeNull()
    expect(decodeTp(bytes('F1 10 14 1 2 3 4'), true)).toBeNull()
  })
  // Source: ISO 15765-2, clause 10.4.2: with optimized length a frame is as long as what it carries.
  it('without padding are as long as what they carry', () => {
    expect([...encodeTp({ kind: 'single', data: bytes('3E 00') }, 'none')]).toEqual([2, 0x3e, 0])
    expect([...encodeTp({ kind: 'single', data: bytes('3E 00') }, 0x55)].slice(3)).toEqual(
      Array(5).fill(0x55),
    )
  })
  // Source: ISO 15765-2, table 20: 00–7F ms, F1–F9 hundreds of microseconds, the rest reserved and taken as 127 ms.
  it.each([
    [0x00, 0],
    [0x14, 20],
    [0x7f, 127],
    [0x80, 127],
    [0xf1, 0.1],
    [0xf9, 0.9],
    [0xfa, 127],
  ])('STmin %i is %s ms', (value, ms) => expect(decodeSeparation(value)).toBeCloseTo(ms, 9))
  it('never ask for less separation than was meant', () => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 127, noNaN: true }), (ms) => {
        expect(decodeSeparation(encodeSeparation(ms))).toBeGreaterThanOrEqual(ms - 1e-6)
      }),
    )
  })
  // Source: ISO 15765-2, clause 9.6.2.2 and 9.6.3.2: such lengths are ignored.
  it.each(['00', '08 1 2 3 4 5 6 7', '10 07 1 2 3 4 5 6', '10 14 1 2', '33 00 00', '40 1 2', '20'])(
    '%s is none',
    (text) => expect(decodeTp(bytes(text))).toBeNull(),
  )
  it('of any bytes are read without throwing', () => {
    fc.assert(fc.property(fc.uint8Array({ maxLength: 12 }), (any) => void decodeTp(any)))
  })
})

describe('messages', () => {
  // Source: ISO 15765-2, clause 9.6.2: a first frame carries six bytes up to a length of 4 095, two with the escape.
  it.each([
    [7, 1],
    [8, 2],
    [4095, 1 + 585],
    [4096, 1 + 585],
    [5000, 1 + 714],
  ])('of %i bytes take %i frames, as many as really go', async (length, frames) => {
    expect(tpFrames(length)).toBe(frames)
    const { tester, unit, bus } = bench()
    await Promise.all([unit.receive(1000), tester.send(patterned(length))])
    expect(bus.carried).toBe(frames + (length > 7 ? 1 : 0))
  })
  it.each([1, 7, 8, 13, 14, 62, 4095, 4096, 5000])('of %i bytes arrive whole', async (length) => {
    const { tester, unit } = bench()
    const message = patterned(length)
    const [got] = await Promise.all([unit.receive(1000), tester.send(message)])
    expect(equalBytes(got!, message)).toBe(true)
  })
  // Source: the same by its clause 10.3.4, worked by hand: 7 bytes need two frames, 4 095 take 5 and then 6 at a time.
  it.each([
    [6, 1],
    [7, 2],
    [4095, 1 + 682],
    [4096, 1 + 683],
  ])('of %i bytes take %i frames with a byte of address, and arrive whole', async (length, frames) => {
    expect(tpFrames(length, 7)).toBe(frames)
    const { tester, unit, bus } = bench({ addresses: { sent: 0xf1, heard: 0x10 } }, undefined, {
      addresses: { sent: 0x10, heard: 0xf1 },
    })
    const message = patterned(length)
    const [got] = await Promise.all([unit.receive(1000), tester.send(message)])
    expect(equalBytes(got!, message)).toBe(true)
    expect(bus.carried).toBe(frames + (length > 6 ? 1 : 0))
  })
  it('to another address are not taken, to all of them they are', async () => {
    const addresses = { sent: 0xf1, heard: 0x10, alsoHeard: 0xfe }
    const { near, unit } = bench({ addresses, alsoReceiveId: 0x7df })
    const say = (id: number, text: string) => near.send({ id, data: bytes(text) })
    await say(0x7e0, '11 02 3E 00')
    await say(0x7e0, 'FE 02 3E 00')
    await say(0x7df, '10 02 3E 00')
    expect(await unit.receive(100)).toBeNull()
    await say(0x7df, 'FE 02 3E 80')
    expect([...(await unit.receive(100))!]).toEqual([0x3e, 0x80])
    await say(0x7e0, '10 02 3E 00')
    expect([...(await unit.receive(100))!]).toEqual([0x3e, 0])
  })
  // Source: ISO 15765-2, clause 9.6.5: BS frames, then a new flow control; at least STmin between two frames.
  it('keep to block size and separation', async () => {
    const { tester, unit, clock, bus } = bench({ blockSize: 8, separationMs: 5 })
    const message = patterned(6 + 7 * 20)
    const began = clock.now()
    await Promise.all([unit.receive(1000), tester.send(message)])
    // First, 20 consecutive, flow controls before frames 1, 9 and 17.
    expect(bus.carried).toBe(1 + 20 + 3)
    const { min, max } = canFrameBits(8)
    expect(clock.now() - began).toBeGreaterThanOrEqual((24 * min) / 500 + 17 * 5)
    expect(clock.now() - began).toBeLessThanOrEqual((24 * max) / 500 + 17 * 5)
  })
  // Source: ISO 15765-2, clause 9.8.4: N_WFTmax; each wait starts N_Bs anew.
  it('bear ten waits and not eleven', async () => {
    for (const waits of [10, 11]) {
      const { tester, far } = bench()
      const sending = tester.send(patterned(10)).catch((error: unknown) => error)
      await far.receive(1000)
      for (let count = 0; count < waits; count++) await far.send({ id: 0x7e8, data: bytes('31 00 00') })
      if (waits === 10) await far.send({ id: 0x7e8, data: bytes('30 00 00') })
      const outcome = await sending
      if (waits === 10) expect(outcome).toBeUndefined()
      else expect(isProblem(outcome, 'isotp-waits')).toBe(true)
    }
  })
  // Source: ISO 15765-2, table 16: N_Bs 1 000 ms.
  it('are given up a second after the first frame when no flow control comes', async () => {
    const { tester, clock } = bench()
    const error = await tester.send(patterned(10)).catch((reason: unknown) => reason)
    expect(isProblem(error, 'isotp-no-flow')).toBe(true)
    // A second, and the first frame's own time: 111 to 135 bits at 500 kbit/s.
    expect(clock.now()).toBeGreaterThanOrEqual(1000 + 111 / 500)
    expect(clock.now()).toBeLessThanOrEqual(1000 + 135 / 500)
  })
  it('that are too long for the other side are refused by it', async () => {
    const { tester, unit } = bench({ maxBytes: 100 })
    const receiving = unit.receive(2000)
    await expect(tester.send(patterned(101))).rejects.toMatchObject({ facts: { kind: 'isotp-overflow' } })
    expect(await receiving).toBeNull()
  })
  // Source: ISO 15765-2, clause 9.8.3: wrong sequence number ends the reception; N_Cr 1 000 ms ends it as well.
  it('with a lost or doubled frame are never given as whole', async () => {
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 1, max: 40 }), fc.constantFrom(0, 2), async (which, copies) => {
        let count = 0
        const { tester, unit } = bench({}, (frame, from) =>
          from === 'tester' && count++ === which ? Array.from({ length: copies }, () => frame) : [frame],
        )
        const message = patterned(6 + 7 * 40)
        const receiving = unit.receive(2000).catch((error: unknown) => error)
        await tester.send(message).catch(() => {})
        const got = await receiving
        if (got instanceof Uint8Array) expect(equalBytes(got, message)).toBe(true)
        else expect(isProblem(got)).toBe(true)
      }),
      { numRuns: 40 },
    )
  })
  // PRACTICE wants a link that is no slower than its wire: block size 0, STmin 0.
  it('take no longer than their frames, and no less than they would without stuff bits', async () => {
    const { tester, unit, clock, bus } = bench()
    const message = patterned(4095)
    await Promise.all([unit.receive(1000), tester.send(message)])
    expect(clock.now()).toBeLessThanOrEqual(bus.carried * (canFrameBits(8).max / 500))
    expect(clock.now()).toBeGreaterThan(bus.carried * (canFrameBits(8).min / 500))
  })
})
