import { describe, expect, it } from 'vitest'
import { Problem, virtualClock } from '../kernel'
import { holdForSupply, type SupplySight } from './hold-for-supply'
import { turn } from './rehearsal.test-support'
import type { StepContext } from './step-context'
import { voltsAtLastByte } from './supply-trend'
import type { WakeBody } from './wake'
import { watchSupply, type UnderWay } from './watch-supply'

/*
 * PRACTICE D1, D2, common practice: the supply is measured before what cannot be undone and watched through it; what is below the
 * floor, or on its way there by the last byte, holds the run before the first byte and is told after it.
 */

const floorVolts = 11.5
const power = { floorVolts, ceilingVolts: 14.5, measure: { at: 'at the terminals of the drive' } }

interface Held {
  /** What the meter says, time by time. */
  volts: (number | null)[]
  readings?: { at: number; volts: number }[]
  /** From now to the last byte, ms. */
  ahead?: number
  answers?: string[]
  released?: string[]
  asked?: boolean
}
async function hold({ volts, readings = [], ahead = 0, answers = [], released = [], asked = false }: Held) {
  const prompts: { id: string; says: string; answers: { id: string; says: string }[] }[] = []
  const left = [...volts]
  const replies = [...answers]
  const byHand = { asked }
  const sight: SupplySight = { measure: async () => left.shift() ?? null, readings: () => readings }
  const bench = {
    family: { power },
    clock: { now: () => 100_000 },
    step: 4,
    planned: (step: number) => (step === 4 ? ahead : Number.NaN),
    releases: released.map((rule) => ({ rule, name: 'M. Tarn', reason: 'Known good.' })),
    ask: async (prompt: (typeof prompts)[number]) => {
      prompts.push(prompt)
      return replies.shift() ?? 'stop'
    },
  } as unknown as StepContext
  const outcome = await holdForSupply(bench, sight, byHand).then(
    () => 'goes on' as const,
    (error: unknown) => error as Problem,
  )
  return { prompts, outcome, byHand, measured: volts.length - left.length }
}
/** So many readings, one a second to the moment of the question, each lower by so much; the last one as given. */
const falling = (count: number, each: number, last: number) =>
  Array.from({ length: count }, (_, index) => ({
    at: 100_000 - (count - 1 - index) * 1000,
    volts: last + (count - 1 - index) * each,
  }))

describe('before the first byte', () => {
  it('what reads the floor itself goes on and asks nothing', async () => {
    expect(await hold({ volts: [11.5] })).toMatchObject({ outcome: 'goes on', prompts: [] })
  })
  it('a hundredth below it is held, with both figures; nothing was done yet', async () => {
    const { prompts, outcome } = await hold({ volts: [11.49] })
    expect(prompts).toHaveLength(1)
    expect(prompts[0]!.id).toBe('supply-low')
    expect(prompts[0]!.says).toBe(
      'The supply reads 11.49 V; the floor is 11.50 V. Nothing of this step is done yet. Put a charger on it, or take loads off, then measure again.',
    )
    expect(prompts[0]!.answers.map(({ id }) => id)).toEqual(['again', 'stop'])
    expect(outcome).toBeInstanceOf(Problem)
    expect((outcome as Problem).facts).toMatchObject({
      kind: 'supply-low',
      says: 'the supply reads 11.49 V; the floor is 11.50 V',
      expected: 'at least 11.50 V',
      found: '11.49 V',
      remedy: expect.stringMatching(/^Leave the unit powered/),
    })
  })
  it('measured again and up, it goes on; measured again and low, it asks again', async () => {
    const up = await hold({ volts: [11.2, 11.6], answers: ['again'] })
    expect(up).toMatchObject({ outcome: 'goes on', measured: 2 })
    const low = await hold({ volts: [11.2, 11.3, 11.6], answers: ['again', 'again'] })
    expect(low.outcome).toBe('goes on')
    expect(low.prompts.map(({ says }) => /\d\d\.\d\d V/.exec(says)![0])).toEqual(['11.20 V', '11.30 V'])
  })
  it('what falls is held where its line meets the last byte below the floor, and not where it meets it at the floor', async () => {
    // 1/8 V a second from 12.5 V: after 8 s it is at 11.5 V.
    const readings = falling(8, 0.125, 12.5)
    expect(await hold({ volts: [12.5], readings, ahead: 8000 })).toMatchObject({ outcome: 'goes on' })
    const { prompts, outcome } = await hold({ volts: [12.5], readings, ahead: 10_000 })
    expect(prompts[0]!.says).toMatch(/^The supply is on its way to 11\.25 V; the floor is 11\.50 V\./)
    expect((outcome as Problem).facts).toMatchObject({ found: '11.25 V', expected: 'at least 11.50 V' })
  })
  it('of fewer than eight readings no way is told: the step when the load came on is still among them', async () => {
    expect(await hold({ volts: [12.5], readings: falling(7, 0.125, 12.5), ahead: 60_000 })).toMatchObject({
      outcome: 'goes on',
    })
  })
  it('after a person brought it up, the way that it went before is not held against it', async () => {
    const readings = falling(8, 0.125, 11.4)
    expect(await hold({ volts: [11.4, 12.8], readings, ahead: 60_000, answers: ['again'] })).toMatchObject({
      outcome: 'goes on',
      measured: 2,
    })
  })
})

describe('where nothing measures', () => {
  it('the person does, once a leg, and is told where and between what', async () => {
    const { prompts, outcome, byHand } = await hold({ volts: [null], answers: ['holds'] })
    expect(outcome).toBe('goes on')
    expect(byHand.asked).toBe(true)
    expect(prompts).toHaveLength(1)
    expect(prompts[0]).toMatchObject({
      id: 'supply-by-hand',
      says: 'Nothing measures the supply. Measure it now at the terminals of the drive: it has to read 11.50 V or more, and not above 14.50 V.',
      answers: [{ id: 'holds', says: 'It reads 11.50 V or more' }, { id: 'stop' }],
    })
    expect(await hold({ volts: [null], asked: true })).toMatchObject({ outcome: 'goes on', prompts: [] })
  })
  it('a supply that does not hold stops it', async () => {
    const { outcome } = await hold({ volts: [null], answers: ['stop'] })
    expect((outcome as Problem).facts).toMatchObject({
      kind: 'supply-low',
      says: 'the supply does not read what the unit needs',
      expected: 'from 11.50 to 14.50 V',
      remedy: expect.stringMatching(/^Leave the unit powered/),
    })
  })
  it.each(['supply-measured', 'supply-described'])('who released %s by name is not asked', async (rule) => {
    expect(await hold({ volts: [null], released: [rule] })).toMatchObject({
      outcome: 'goes on',
      prompts: [],
      byHand: { asked: false },
    })
  })
  it('a release of something else is none of this', async () => {
    expect(
      (await hold({ volts: [null], released: ['supply-floor'], answers: ['holds'] })).prompts,
    ).toHaveLength(1)
  })
  it('a meter that falls silent between two measurements is the person’s to stand in for', async () => {
    const { prompts, outcome } = await hold({ volts: [11.2, null], answers: ['again', 'holds'] })
    expect(prompts.map(({ id }) => id)).toEqual(['supply-low', 'supply-by-hand'])
    expect(outcome).toBe('goes on')
  })
})

/** A supply whose volts follow the clock. */
function watched(volts: (ms: number) => number | null | Error, underWay: () => UnderWay | null = () => null) {
  const clock = virtualClock(turn)
  const records: (WakeBody & { at: number })[] = []
  let asked = 0
  const meter = {
    volts: async () => {
      asked++
      const now = volts(clock.now())
      if (now instanceof Error) throw now
      return now
    },
  }
  const wake = { record: async (body: WakeBody) => void records.push({ ...body, at: clock.now() }) }
  const watch = watchSupply({ meter, clock, wake } as never, underWay)
  const of = <Type extends WakeBody['type']>(type: Type) =>
    records.filter((each) => each.type === type) as (Extract<WakeBody, { type: Type }> & { at: number })[]
  return { clock, watch, of, asked: () => asked }
}

describe('all through a run', () => {
  it('a steady supply is read every second and recorded every five', async () => {
    const { clock, watch, of, asked } = watched(() => 12.6)
    watch.start()
    await clock.sleep(10_500)
    await watch.end()
    expect(of('supply').map(({ at }) => at)).toEqual([0, 5000, 10_000])
    expect(asked()).toBe(11)
    expect(watch.readings().map(({ at }) => at)).toEqual(
      Array.from({ length: 11 }, (_, second) => second * 1000),
    )
  })
  it('a change of five millivolts is recorded at once; four are the meter’s own noise', async () => {
    const { clock, watch, of } = watched((ms) => (ms < 2000 ? 12 : ms < 3000 ? 12.004 : 12.0101))
    watch.start()
    await clock.sleep(3500)
    await watch.end()
    expect(of('supply').map(({ at, volts }) => [at, volts])).toEqual([
      [0, 12],
      [3000, 12.0101],
    ])
    const half = watched((ms) => (ms < 1000 ? 0 : 0.005))
    half.watch.start()
    await half.clock.sleep(1500)
    await half.watch.end()
    expect(half.of('supply')).toHaveLength(2)
  })
  it('a meter that falls silent is recorded once as that, and its silence is no reading', async () => {
    const { clock, watch, of } = watched((ms) => (ms < 1000 ? 12 : ms < 3000 ? new Error('no answer') : 12))
    watch.start()
    await clock.sleep(3500)
    await watch.end()
    expect(of('supply').map(({ at, volts }) => [at, volts])).toEqual([
      [0, 12],
      [1000, null],
      [3000, 12],
    ])
    expect(watch.readings().map(({ at }) => at)).toEqual([0, 3000])
  })
  it('zero volts are a reading, and none is not zero', async () => {
    const { clock, watch, of } = watched((ms) => (ms < 1000 ? null : 0))
    watch.start()
    await clock.sleep(1500)
    await watch.end()
    expect(of('supply').map(({ volts }) => volts)).toEqual([null, 0])
  })
  it('is paused while a person is waited for, and goes on after', async () => {
    const { clock, watch, asked } = watched(() => 12.6)
    watch.start()
    await clock.sleep(1500)
    watch.pause()
    await clock.sleep(10_000)
    expect(asked()).toBe(2)
    watch.resume()
    await clock.sleep(1500)
    await watch.end()
    expect(asked()).toBe(4)
    await clock.sleep(5000)
    expect(asked()).toBe(4)
    // After its end nothing begins it again.
    watch.resume()
    watch.start()
    await clock.sleep(5000)
    expect(asked()).toBe(4)
  })
  it('is begun once, and by a resume not at all', async () => {
    const { clock, watch, asked } = watched(() => 12.6)
    watch.resume()
    await clock.sleep(2500)
    expect(asked()).toBe(0)
    watch.start()
    watch.start()
    await clock.sleep(2500)
    await watch.end()
    expect(asked()).toBe(3)
  })
  it('without a meter measures nothing, and says so', async () => {
    const clock = virtualClock(turn)
    const records: WakeBody[] = []
    const wake = { record: async (body: WakeBody) => void records.push(body) }
    const watch = watchSupply({ clock, wake } as never, () => null)
    watch.start()
    expect(await watch.measure()).toBeNull()
    await clock.sleep(3000)
    await watch.end()
    expect(records).toEqual([])
  })
  it('one measurement in between is recorded, and the watch goes on; a pause stays one', async () => {
    const { clock, watch, of, asked } = watched(() => 12.6)
    watch.start()
    await clock.sleep(1500)
    expect(await watch.measure()).toBe(12.6)
    expect(of('supply').map(({ at }) => at)).toEqual([0, 1500])
    await clock.sleep(2200)
    expect(asked()).toBe(6)
    watch.pause()
    await clock.sleep(1)
    const before = asked()
    expect(await watch.measure()).toBe(12.6)
    await clock.sleep(5000)
    expect(asked()).toBe(before + 1)
    await watch.end()
  })
  it('a measurement that the meter does not answer is none, and not recorded as one', async () => {
    const { watch, of } = watched(() => new Error('no answer'))
    expect(await watch.measure()).toBeNull()
    expect(of('supply')).toEqual([])
  })
})

describe('in erase and write', () => {
  const writing = (form: Partial<UnderWay> = {}): UnderWay => ({
    step: 4,
    since: 0,
    endsAt: 60_000,
    floorVolts,
    ...form,
  })
  const warnings = async (
    volts: (ms: number) => number | null,
    underWay: (ms: number) => UnderWay | null,
    ms: number,
  ) => {
    const made = watched(volts, () => underWay(made.clock.now()))
    made.watch.start()
    await made.clock.sleep(ms)
    await made.watch.end()
    return made.of('supply-warning')
  }

  it('the floor itself is no warning; a millivolt below it is one, with the step and the reading', async () => {
    expect(
      await warnings(
        () => 11.5,
        () => writing(),
        3500,
      ),
    ).toEqual([])
    const told = await warnings(
      () => 11.499,
      () => writing(),
      3500,
    )
    expect(told).toEqual([{ type: 'supply-warning', at: 0, step: 4, volts: 11.499, atLastByte: null }])
  })
  it('is told once, and once more when it is up again', async () => {
    const told = await warnings(
      (ms) => (ms >= 1000 && ms < 3000 ? 11.2 : 12),
      () => writing(),
      4500,
    )
    expect(told.map(({ at, volts }) => [at, volts])).toEqual([
      [1000, 11.2],
      [3000, null],
    ])
    expect(told[1]!.atLastByte).toBeNull()
  })
  it('a supply above the floor is told where it meets the last byte below it, from six readings on', async () => {
    // 1/16 V a second from 12.5 V; at 60 s it would read 8.75 V.
    const told = await warnings(
      (ms) => 12.5 - ms / 16_000,
      () => writing(),
      8500,
    )
    expect(told).toHaveLength(1)
    expect(told[0]).toMatchObject({ at: 5000, step: 4, volts: 12.1875 })
    expect(told[0]!.atLastByte).toBeCloseTo(8.75, 6)
  })
  it('where the line meets the last byte at the floor it is not told; with a second more it is', async () => {
    const volts = (ms: number) => 12.5 - ms / 16_000
    expect(await warnings(volts, () => writing({ endsAt: 16_000 }), 8500)).toEqual([])
    expect(await warnings(volts, () => writing({ endsAt: 17_000 }), 8500)).toHaveLength(1)
  })
  it('what was read before the step began says nothing of its load', async () => {
    // It fell before the step, and is steady in it.
    const volts = (ms: number) => Math.max(12, 13 - ms / 4000)
    const since = 4000
    expect(await warnings(volts, (ms) => (ms < since ? null : writing({ since })), 12_500)).toEqual([])
  })
  it('one that is below the floor and rises is told as low as it reads', async () => {
    const told = await warnings(
      (ms) => 11 + ms / 100_000,
      (ms) => (ms < 6000 ? null : writing()),
      8500,
    )
    expect(told[0]!.at).toBe(6000)
    expect(told[0]!.atLastByte).toBeCloseTo(11.06, 6)
    expect(told[0]!.volts).toBeCloseTo(11.06, 6)
  })
  it('outside of them nothing is told, and the next step tells it anew', async () => {
    const told = await warnings(
      () => 11.2,
      (ms) => (ms < 2000 ? null : ms < 4000 ? writing() : ms < 6000 ? null : writing({ step: 5 })),
      8500,
    )
    expect(told.map(({ at, step }) => [at, step])).toEqual([
      [2000, 4],
      [6000, 5],
    ])
  })
  it('a silent meter takes back no warning', async () => {
    const told = await warnings(
      (ms) => (ms < 2000 ? 11.2 : null),
      () => writing(),
      5500,
    )
    expect(told).toHaveLength(1)
  })
})

// Source: ordinary least squares, worked by hand: the points (2; 11), (3; 10), (4; 9) lie on one line.
describe('the line through readings', () => {
  const at = (...volts: number[]) => volts.map((each, index) => ({ at: index, volts: each }))
  it('goes through the second half of them', () => {
    expect(voltsAtLastByte(at(20, 20, 11, 10, 9), 10)).toBeCloseTo(3, 9)
    expect(voltsAtLastByte(at(20, 20, 11, 10, 9), 2)).toBeCloseTo(11, 9)
  })
  it('lies between readings that lie on none', () => {
    // Points (2; 11), (3; 11), (4; 8): mean 10 at 3, slope -3/2.
    expect(voltsAtLastByte(at(9, 9, 11, 11, 8), 5)).toBeCloseTo(7, 9)
  })
  it('is none through two readings, or through one moment', () => {
    expect(voltsAtLastByte(at(12, 11), 5)).toBeNull()
    expect(voltsAtLastByte(at(12, 11, 10), 5)).not.toBeNull()
    expect(
      voltsAtLastByte(
        [
          { at: 1, volts: 12 },
          { at: 1, volts: 12 },
          { at: 1, volts: 11 },
        ],
        5,
      ),
    ).toBeNull()
  })
})
