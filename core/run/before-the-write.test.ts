import { crc32, hexNumber } from '@bench-wake/core/kernel'
import { demoFirmware, demoImages } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { checksumVerification } from '../link'
import { rehearse, turn } from './rehearsal.test-support'
import { scenarios } from './scenarios.test-support'
import { simulateRun } from './simulate-run.test-support'
import type { WakeEvent } from '.'

const over = (unitId: string) => scenarios.find((each) => each.unitId === unitId)!
const bodies = <T extends WakeEvent['body']['type']>(events: readonly WakeEvent[], type: T) =>
  events.flatMap(({ body }) => (body.type === type ? [body as Extract<WakeEvent['body'], { type: T }>] : []))

/** Bytes that end in their own CRC-32, low byte first, as images do. */
function withTrailer(length: number, fill: number): Uint8Array {
  const bytes = new Uint8Array(length).fill(fill)
  new DataView(bytes.buffer).setUint32(length - 4, crc32(bytes.subarray(0, length - 4)), true)
  return bytes
}

describe('a checksum over an image', () => {
  const unitWith = (memory: Uint8Array) => async (offset: number, length: number) =>
    hexNumber(crc32(memory.subarray(offset, offset + length)), 8)

  // Source: catalogue of parametrised CRC algorithms, CRC-32/ISO-HDLC: residue debb20e3, which the final inversion makes 2144df1c.
  it('of the whole is the same for every image that ends in its own CRC-32', () => {
    expect(hexNumber(crc32(withTrailer(0x1000, 1)), 8)).toBe('2144DF1C')
    expect(hexNumber(crc32(withTrailer(0x1000, 2)), 8)).toBe('2144DF1C')
  })
  it('tells two such images apart all the same, since it is asked over the halves', async () => {
    const [mine, other] = [withTrailer(0x1000, 1), withTrailer(0x1000, 2)]
    expect((await checksumVerification(mine, unitWith(mine))).outcome).toBe('equal-checksum')
    const told = await checksumVerification(mine, unitWith(other))
    expect(told.outcome).toBe('different')
    expect(told.found).not.toBe(told.expected)
  })
  it('says so when the unit gives none, and works on images of a few bytes', async () => {
    expect(await checksumVerification(withTrailer(64, 1), async () => '')).toMatchObject({
      outcome: 'not-comparable',
      found: 'no checksum',
    })
    const tiny = Uint8Array.of(1, 2, 3)
    expect((await checksumVerification(tiny, unitWith(tiny))).outcome).toBe('equal-checksum')
  })
})

// PRACTICE H2, common practice: a dry run and a compare of the image come before the real write.
describe('before anything is erased', () => {
  it('the image is held against what is in the unit, and the difference is in the record', async () => {
    for (const unitId of ['radio-3', 'inverter-1', 'launch-2', 'beacon-7', 'tide-2', 'relay-2']) {
      const { events } = await simulateRun(over(unitId), [], 7, turn)
      const held = bodies(events, 'held-against')
      expect(held.length, unitId).toBeGreaterThan(0)
      expect(
        held.every(({ outcome }) => outcome === 'different'),
        unitId,
      ).toBe(true)
      const at = (type: string) => events.findIndex(({ body }) => body.type === type)
      expect(at('held-against')).toBeLessThan(at('verified'))
    }
  })
  const holdsIt = () => {
    const flash = new Uint8Array(0x40000).fill(0xff)
    flash.set(demoFirmware(demoImages[0]!.image))
    return flash
  }
  it('a unit that holds the image already is not asked about twice where that was released by name', async () => {
    const flash = holdsIt()
    const release = { rule: 'version-direction', name: 'A. Lund', reason: 'a test' }
    const again = await rehearse({ flash, releases: [release] })
    expect(bodies(again.events, 'held-against')[0]!.outcome).toBe('equal-checksum')
    expect(again.outcome).toBe('proved')
  })
  it('the whole image goes over the davit’s link once, with nothing written', async () => {
    const { events } = await simulateRun(over('davit-1'), [], 3, turn)
    const opened = bodies(events, 'run.opened')[0]!
    const dry = opened.plan.findIndex(({ kind }) => kind === 'dry-run')
    const write = opened.plan.findIndex(({ kind }) => kind === 'write')
    expect(dry).toBeGreaterThan(0)
    expect(dry).toBeLessThan(opened.plan.findIndex(({ kind }) => kind === 'erase'))
    const of = (step: number) => bodies(events, 'progress').filter((each) => each.step === step)
    expect(of(dry).at(-1)).toMatchObject({ done: opened.image!.bytes, unit: 'bytes' })
    expect(of(write).at(-1)).toMatchObject({ done: opened.image!.bytes, unit: 'bytes' })
    // Compared after the dry run the memory would still be the old one: erase finds all its sectors.
    expect(bodies(events, 'progress').some(({ unit, step }) => unit === 'sectors' && step > dry)).toBe(true)
  })
  it('a davit that is cut in its dry run still holds what it held', async () => {
    for (let seed = 1; seed < 60; seed++) {
      const { events, state } = await simulateRun(over('davit-1'), ['cable pulled'], seed, turn)
      const leg = events.findIndex(({ body }) => body.type === 'leg.opened')
      const dry = bodies(events, 'run.opened')[0]!.plan.findIndex(({ kind }) => kind === 'dry-run')
      if (leg < 0 || bodies(events.slice(0, leg), 'failed')[0]?.step !== dry) continue
      expect(state.pastLegs[0]!.acknowledged).toBe(0)
      expect(bodies(events.slice(leg), 'leg.opened')[0]!.goesOnAt).toBeUndefined()
      return
    }
    throw new Error('no simulated run was cut in its dry run')
  })
})

// PRACTICE H6, common practice: then another adapter, then a lower speed.
describe('a line that does not carry its speed', () => {
  it('is tried at the next lower one within the same leg, where the bootloader follows', async () => {
    const { events, state } = await simulateRun(over('relay-2'), ['weak line'], 2, turn)
    const why = bodies(events, 'retry').map((each) => each.why)
    expect(why.findIndex((text) => text.endsWith('again, as it is'))).toBeGreaterThanOrEqual(0)
    expect(why.some((text) => /again, at 57.600 baud$/.test(text))).toBe(true)
    expect(why.some((text) => /again, at 19.200 baud$/.test(text))).toBe(false)
    expect(state.outcome).toBe('proved')
    expect(state.leg).toBe(1)
  })
  it('ends its leg where the link has one speed, and is brought home in the next', async () => {
    const { state } = await simulateRun(over('inverter-1'), ['weak line'], 2, turn)
    expect(state.pastLegs).toHaveLength(1)
    expect(state.outcome).toBe('proved')
  })
})

// PRACTICE D, common practice: a brown-out in the write is the classic way to kill a unit; after the first byte it can only be warned of.
describe('a supply that falls in the write', () => {
  const falling = { restVolts: 12.1, voltsPerAh: 110, ohms: 0.02, slowOhms: 0.05, slowSeconds: 4 }
  it('is warned of before it is at its floor, and the write goes on', async () => {
    const { events, state } = await rehearse({ supply: falling })
    const [warning] = bodies(events, 'supply-warning')
    const floor = state.facts.floorVolts
    // Before: it still stands above the floor, and by the last byte it will not.
    expect(warning!.volts!).toBeGreaterThanOrEqual(floor)
    expect(warning!.atLastByte!).toBeLessThan(floor)
    const plan = bodies(events, 'run.opened')[0]!.plan
    expect(['erase', 'write']).toContain(plan[warning!.step]!.kind)
  })
  it('is not cried of where it holds', async () => {
    const { events } = await rehearse()
    expect(bodies(events, 'supply-warning')).toEqual([])
  })
})
