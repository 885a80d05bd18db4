import { serialLine, type Disturb } from '@bench-wake/standins'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { asciiBytes, isProblem, virtualClock } from '../../kernel'
import type { SerialSettings } from '../port'
import { decodeKwp, encodeKwp, kwpLength, kwpTransport, readWakeUp } from '.'
import { wireBench } from './wire-bench.test-support'

const turn = () => new Promise<void>((done) => setImmediate(done))
const settings: SerialSettings = { baudRate: 10_400, dataBits: 8, parity: 'none', stopBits: 1 }
const bytes = (text: string) => Uint8Array.from(text.split(' '), (pair) => parseInt(pair, 16))

const bench = (
  wake: 'fast' | 'five-baud',
  wakes: readonly ('fast' | 'five-baud')[] = ['fast', 'five-baud'],
  disturb?: Disturb,
) => wireBench({ unit: { wakes }, tester: { wake }, ...(disturb ? { disturb } : {}) })

describe('messages on the single wire', () => {
  // Source: ISO 14230-2, clause 4.4 and the initialisation example in wide use: 83 F1 11 C1 8F EF C4 answers the start of
  // communication; C1 33 F1 81 66 asks all units at once (functional, which is not for one unit).
  it('are read as published', () => {
    expect(decodeKwp(bytes('83 F1 11 C1 8F EF C4'))).toEqual({
      target: 0xf1,
      source: 0x11,
      data: bytes('C1 8F EF'),
    })
    expect([...encodeKwp({ target: 0xf1, source: 0x11, data: bytes('C1 8F EF') })]).toEqual([
      ...bytes('83 F1 11 C1 8F EF C4'),
    ])
    expect(() => decodeKwp(bytes('C1 33 F1 81 66'))).toThrow(/not addressed to one unit/)
    expect(() => decodeKwp(bytes('83 F1 11 C1 8F EF C5'))).toThrow(/sum/)
  })
  // Source: ISO 14230-2, clause 4.2.1: up to 63 in the format byte, up to 255 in a byte of its own.
  it.each([1, 63, 64, 255])('hold %i bytes', (length) => {
    const frame = encodeKwp({ target: 1, source: 2, data: new Uint8Array(length).fill(7) })
    expect(frame.length).toBe(length + (length < 64 ? 4 : 5))
    expect(kwpLength(frame)).toBe(frame.length)
    expect(decodeKwp(frame).data.length).toBe(length)
  })
  it('hold no more, and no fewer', () => {
    for (const length of [0, 256])
      expect(() => encodeKwp({ target: 1, source: 2, data: new Uint8Array(length) })).toThrow(RangeError)
  })
  it('of any bytes are read with no error but our own', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 80 }), (any) => {
        try {
          decodeKwp(any)
        } catch (error) {
          expect(isProblem(error, 'kwp-frame')).toBe(true)
        }
      }),
    )
  })
})

describe('waking', () => {
  // Source: ISO 14230-2, table 5: TiniL 25 ± 1 ms, TWuP 50 ± 1 ms.
  it.each([
    [25, 48, null],
    [25, 49, 'fast'],
    [25, 50, 'fast'],
    [24, 50, 'fast'],
    [23, 60, null],
    [27, 60, null],
  ] as const)('low for %i ms, seen at %i ms: %s', (lowMs, now, wake) =>
    expect(
      readWakeUp(
        [
          { low: true, at: 0 },
          { low: false, at: lowMs },
        ],
        now,
      ),
    ).toBe(wake),
  )
  // Source: worked by hand: 0x33 is 0011 0011, so low from 0 (start), high at 200 (bits 0, 1), low at 600 (bits 2, 3),
  // high at 1 000 (bits 4, 5), low at 1 400 (bits 6, 7), high at 1 800 (stop).
  it('at five baud reads the address, least significant bit first', () => {
    const edges = [0, 200, 600, 1000, 1400, 1800].map((at, index) => ({ low: index % 2 === 0, at }))
    expect(readWakeUp(edges, 1850)).toBeNull()
    expect(readWakeUp(edges, 1900)).toEqual({ address: 0x33 })
  })
  it.each(['fast', 'five-baud'] as const)('%s opens the line for services', async (wake) => {
    const { tester, client } = await bench(wake)
    await tester.wake()
    expect([...(await client.readData(0xf190))]).toEqual([...asciiBytes('LM-7')])
  })
  it('a unit that knows only five baud does not wake to the fast pattern', async () => {
    const { tester } = await bench('fast', ['five-baud'])
    await expect(tester.wake()).rejects.toMatchObject({ facts: { kind: 'kwp-no-wake', found: 'silence' } })
  })
  it('a unit that was not woken stays silent', async () => {
    const { client } = await bench('fast')
    await expect(client.readData(0xf190)).rejects.toMatchObject({ facts: { kind: 'uds-silent' } })
  })
})

describe('one wire for both', () => {
  it('is told when it does not carry our own bytes back', async () => {
    const clock = virtualClock(turn)
    const line = serialLine({ name: 'line', clock, unit: settings })
    await line.host.open(settings)
    const tester = kwpTransport(line.host, clock, { target: 0x11, source: 0xf1, wake: 'fast' })
    await expect(tester.send(Uint8Array.of(0x3e, 0))).rejects.toMatchObject({
      facts: { kind: 'kwp-echo', says: 'the line does not carry our own bytes back' },
    })
  })
  // Source: ISO 14230-2, table 6: P4 at least 5 ms between the tester's bytes until other times are agreed on.
  it('is quick only once the times are agreed on', async () => {
    const { tester, client, clock } = await bench('fast')
    await tester.wake()
    const began = clock.now()
    await client.readData(0xf190)
    // 7 bytes there, 12 back, 1.04 characters a millisecond, and the turning round.
    expect(clock.now() - began).toBeLessThan(25)
  })
})
