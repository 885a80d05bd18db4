import { virtualClock } from '@bench-wake/core/kernel'
import { readExactly } from '@bench-wake/core/link'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { batterySupply, norFlash, serialLine } from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))
const region = {
  name: 'Application',
  use: 'application' as const,
  address: 0x1000,
  length: 0x2000,
  sectorBytes: 0x1000,
  pageBytes: 256,
  eraseMsPerSector: 45,
  programMsPerPage: 0.6,
}

describe('NOR flash', () => {
  // Source: JEDEC JESD68.01 and the makers' sheets: programming only clears bits, erasing sets a whole sector.
  it('only clears bits when it is programmed', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.uint8Array({ minLength: 1, maxLength: 64 }),
        fc.uint8Array({ minLength: 1, maxLength: 64 }),
        async (old, data) => {
          const bytes = new Uint8Array(0x2000).fill(0xff)
          bytes.set(old)
          await norFlash(region, virtualClock(turn), bytes).program(0x1000, data)
          data.forEach((byte, at) => expect(bytes[at]).toBe((old[at] ?? 0xff) & byte))
        },
      ),
      { numRuns: 50 },
    )
  })
  it('is erased by whole sectors, each in its time', async () => {
    const clock = virtualClock(turn)
    const bytes = new Uint8Array(0x2000)
    const flash = norFlash(region, clock, bytes)
    await flash.erase(0x1800, 0x10, async () => {})
    expect([bytes[0], bytes[0xfff], bytes[0x1000]]).toEqual([0xff, 0xff, 0])
    expect(clock.now()).toBe(45)
    await flash.erase(0x1fff, 2, async () => {})
    expect(clock.now()).toBe(135)
    await expect(flash.erase(0x0fff, 2, async () => {})).rejects.toThrow(RangeError)
  })
  it('takes its time for each page', async () => {
    const clock = virtualClock(turn)
    await norFlash(region, clock, new Uint8Array(0x2000).fill(0xff)).program(0x1000, new Uint8Array(1000))
    expect(clock.now()).toBeCloseTo(4 * 0.6, 9)
  })
})

describe('a battery under load', () => {
  const form = { restVolts: 12.6, voltsPerAh: 0.02, ohms: 0.1, slowOhms: 0.1, slowSeconds: 20 }
  // Source: Ohm's law and the step response of a first-order circuit, 1 - exp(-t/T).
  it('drops at once by its resistance and slowly by the rest', () => {
    const supply = batterySupply(form)
    expect(supply.voltsAt(0, 2)).toBeCloseTo(12.6 - 0.2, 9)
    const later = supply.voltsAt(20_000, 2)
    expect(later).toBeCloseTo(12.6 - 0.2 - 0.2 * (1 - Math.exp(-1)) - 0.02 * ((2 * 20) / 3600), 9)
  })
  it('counts its ampere-hours: 2 A for half an hour is 1 Ah', () => {
    const supply = batterySupply(form)
    supply.voltsAt(0, 2)
    supply.voltsAt(1_800_000, 0)
    expect(supply.usedAh).toBeCloseTo(1, 9)
  })
  it('never stands higher under more load', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 20, noNaN: true }),
        fc.double({ min: 0, max: 20, noNaN: true }),
        (a, b) => {
          const [less, more] = [Math.min(a, b), Math.max(a, b)]
          expect(batterySupply(form).voltsAt(0, more)).toBeLessThanOrEqual(
            batterySupply(form).voltsAt(0, less),
          )
        },
      ),
    )
  })
})

describe('a serial line', () => {
  const settings = { baudRate: 9600, dataBits: 8, parity: 'none', stopBits: 1 } as const
  // Source: 10 bits a character at 8N1: 960 characters take a second at 9 600 baud.
  it('carries characters at its own pace, both ways at once', async () => {
    const clock = virtualClock(turn)
    const line = serialLine({ name: 'line', clock, unit: settings })
    await line.host.open(settings)
    const [there, back] = [readExactly(line.unit, 960, 5000), readExactly(line.host, 960, 5000)]
    await Promise.all([line.host.write(new Uint8Array(960)), line.unit.write(new Uint8Array(960))])
    expect((await there)!.length + (await back)!.length).toBe(1920)
    expect(clock.now()).toBeCloseTo(1000, 6)
  })
  it('fails on both sides when the plug is pulled', async () => {
    const line = serialLine({ name: 'line', clock: virtualClock(turn), unit: settings })
    await line.host.open(settings)
    const pending = expect(line.host.read(1, 60_000)).rejects.toMatchObject({ facts: { kind: 'port-lost' } })
    line.pull()
    await pending
    await expect(line.host.write(Uint8Array.of(1))).rejects.toMatchObject({ facts: { kind: 'port-lost' } })
  })
})
