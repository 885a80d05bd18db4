import { describe, expect, it } from 'vitest'
import {
  bareSteps,
  learnTimes,
  median,
  planElsewhere,
  stretchesOf,
  timeOf,
  timePlan,
  withoutOutliers,
  type RunState,
  type Step,
} from '.'
import { demoFamily } from '@bench-wake/demo'
import { componentOf } from '../family'
import { rehearse } from './rehearsal.test-support'

const step = (kind: Step['kind'], predictedMs: number, form: Partial<Step> = {}): Step => ({
  kind,
  says: kind,
  predictedMs,
  personMs: 0,
  handsOff: false,
  ...form,
})
/** A proved run whose write took `writeMs` where 10 s were predicted. */
const ran = (writeMs: number, outcome: RunState['outcome'] = 'proved') =>
  ({
    outcome,
    goesOnAt: null,
    facts: { port: { standIn: true } },
    questions: [{ at: 4000, answeredAt: 9000, step: 1 }],
    steps: [
      { ...step('write', 10_000), state: 'done', startedAt: 0, endedAt: writeMs },
      { ...step('restart', 2000, { personMs: 15_000 }), state: 'done', startedAt: 0, endedAt: 8000 },
    ],
  }) as unknown as RunState

describe('times learned from past runs', () => {
  it('are the median of actual over predicted, of proved runs alone, without the person’s time', () => {
    const learned = learnTimes([ran(9000), ran(11_000), ran(30_000), ran(90_000, 'cut')])
    expect(learned.count).toBe(3)
    // Worked by hand: 0.9, 1.1, 3.0: the middle is 1.1.
    expect(learned.ratios.write).toEqual({ median: 1.1, min: 0.9, max: 3, count: 3 })
    // 8 s less 5 s of question: 3 s where 2 s were predicted.
    expect(learned.ratios.restart!.median).toBe(1.5)
  })
  it('correct the plan and give its range; without runs the wire is the least', () => {
    const plan = [step('write', 20_000, { handsOff: true }), step('restart', 1000, { personMs: 10_000 })]
    const none = timeOf(timePlan(plan, learnTimes([])), learnTimes([]))
    expect(none).toMatchObject({ handsOffMs: 20_000, personMs: 10_000, totalMs: 31_000, learnedFrom: 0 })
    // 20 s and half of ten; a fifth more on both steps and twice ten.
    expect(none.minMs).toBe(20_000 + 1000 + 5000)
    expect(none.maxMs).toBe(24_000 + 1200 + 20_000)
    // The machine alone: what is not a person's.
    expect(none.aloneMs).toBe(21_000)
    const learned = learnTimes([ran(9000), ran(11_000), ran(30_000)])
    expect(timePlan(plan, learned)[0]).toMatchObject({ likelyMs: 22_000, minMs: 18_000, maxMs: 60_000 })
  })
  // Common practice: what a simulated unit takes says nothing of a real one.
  it('come from real units alone, once there is one', () => {
    const real = (writeMs: number) => {
      const run = ran(writeMs)
      return { ...run, facts: { ...run.facts, port: { standIn: false } } } as RunState
    }
    const learned = learnTimes([ran(9000), real(13_000), ran(9000), ran(9000)])
    expect(learned.ratios.write).toMatchObject({ median: 1.3, count: 1 })
    expect(learned.count).toBe(1)
    // A real one that was cut is none.
    const cut = { ...real(50_000), outcome: 'cut' } as RunState
    expect(learnTimes([ran(9000), cut]).ratios.write).toMatchObject({ median: 0.9, count: 1 })
  })
  it('come from whole steps alone: a write that a leg went on with in the middle tells nothing', () => {
    const resumed = { ...ran(1000), goesOnAt: 90_000 } as RunState
    const learned = learnTimes([ran(9000), resumed])
    expect(learned.ratios.write).toMatchObject({ median: 0.9, count: 1 })
    // The restart of that leg was whole.
    expect(learned.ratios.restart!.count).toBe(2)
  })
  it('come from a step that began, ended and was long enough to tell anything', () => {
    type Form = { startedAt?: number | undefined; endedAt?: number | undefined; predictedMs?: number }
    const written = (form: Form) => {
      const run = ran(9000)
      return { ...run, steps: [{ ...run.steps[0]!, ...form }, run.steps[1]!] } as RunState
    }
    const ratios = (form: Form) => learnTimes([written(form)]).ratios.write
    expect(ratios({ startedAt: undefined })).toBeUndefined()
    expect(ratios({ endedAt: undefined })).toBeUndefined()
    expect(ratios({ predictedMs: 199 })).toBeUndefined()
    expect(ratios({ predictedMs: 200, startedAt: 0, endedAt: 220 })).toMatchObject({ median: 1.1 })
    // A step that did not count leaves the others of its run.
    expect(learnTimes([written({ endedAt: undefined })]).ratios.restart!.count).toBe(1)
  })
  it('do without a question that nobody answered, and without those of other steps', () => {
    const asked = (questions: object[]) =>
      learnTimes([{ ...ran(9000), questions } as unknown as RunState]).ratios
    expect(asked([{ at: 4000, step: 1 }]).restart!.median).toBe(4)
    expect(asked([{ at: 4000, answeredAt: 9000, step: 0 }])).toMatchObject({
      write: { median: 0.4 },
      restart: { median: 4 },
    })
    expect(
      asked([
        { at: 1000, answeredAt: 2000, step: 1 },
        { at: 4000, answeredAt: 7000, step: 1 },
      ]).restart!.median,
    ).toBe(2)
  })
  it('of an erase that a leg went on with tell nothing either, and of work without a proof they do', () => {
    const erased = { ...ran(9000), goesOnAt: 4096 }
    const steps = [{ ...erased.steps[0]!, kind: 'erase' as const }, erased.steps[1]!]
    expect(learnTimes([{ ...erased, steps } as RunState]).ratios.erase).toBeUndefined()
    expect(learnTimes([{ ...erased, steps, goesOnAt: null } as RunState]).ratios.erase!.count).toBe(1)
    expect(learnTimes([ran(9000, 'done')]).count).toBe(1)
    for (const outcome of ['cut', 'failed', 'running'] as const)
      expect(learnTimes([ran(9000, outcome)]).count, outcome).toBe(0)
  })
  it('are learned for each link by itself', () => {
    const over = (id: string, ms: number) =>
      ({ ...ran(ms), facts: { port: { standIn: true }, link: { id, name: id } } }) as unknown as RunState
    const runs = [over('bus', 10_000), over('line', 30_000), ran(50_000)]
    expect(learnTimes(runs, 'bus').ratios.write).toMatchObject({ median: 1, count: 1 })
    expect(learnTimes(runs, 'line').ratios.write).toMatchObject({ median: 3, count: 1 })
    expect(learnTimes(runs, 'stick').count).toBe(0)
  })
  // Hampel identifier, by hand: median 1.03; deviations 0.03 0.01 0 0.01 1.97, their median 0.01; 3 x 1.4826 x 0.01 = 0.044.
  it('leave out what lies far from all others, and nothing while there are few', () => {
    expect(withoutOutliers([1, 1.02, 1.03, 1.04, 3])).toEqual([1, 1.02, 1.03, 1.04])
    expect(withoutOutliers([1, 1.02, 1.03, 1.108, 1.11])).toEqual([1, 1.02, 1.03, 1.108, 1.11])
    expect(withoutOutliers([1, 1.1, 3])).toEqual([1, 1.1, 3])
    expect(withoutOutliers([1, 1, 1, 1, 3])).toEqual([1, 1, 1, 1, 3])
    // Median 4, deviations 4 1 0 1 4: a spread of 1 x 1.4826, so 4.4478 to either side; what lies at it stays.
    expect(withoutOutliers([0, 3, 4, 5, 8])).toEqual([0, 3, 4, 5, 8])
    expect(withoutOutliers([-1, 3, 4, 5, 8.4])).toEqual([3, 4, 5, 8.4])
  })
  it('are what the supply is judged over', () => {
    const { power } = demoFamily('fog-signal')
    const plan = timePlan([step('write', 10_000)], learnTimes([ran(30_000)]))
    expect(stretchesOf(power, plan)).toEqual([{ name: 'write', ms: 30_000, unitAmps: power.amps.write }])
  })
  it('have the middle of an odd list and the mean of the two middle ones of an even', () => {
    expect(median([3, 1, 2])).toBe(2)
    expect(median([4, 1, 3, 2])).toBe(2.5)
  })
  it('are kept beside the arithmetic, not in its place', () => {
    const bare = { kind: 'write', says: 'Write', predictedMs: 10_000, personMs: 5, handsOff: true } as const
    const learned = learnTimes([ran(30_000)])
    expect(bareSteps(timePlan([bare], learned))).toEqual([bare])
    const whole = { ...bare, piece: 0, tailMs: 12 }
    expect(bareSteps(timePlan([whole], learned))).toEqual([whole])
    expect(Object.keys(bareSteps([bare])[0]!)).not.toContain('piece')
    expect(Object.keys(bareSteps([bare])[0]!)).not.toContain('tailMs')
  })
  it('of a real run on the stand-in lie close to the link’s own arithmetic', async () => {
    const { state } = await rehearse()
    const learned = learnTimes([state])
    expect(learned.ratios.write!.median).toBeGreaterThan(0.97)
    expect(learned.ratios.write!.median).toBeLessThan(1.05)
  })
})

describe('the plan of a write that another tool carries out', () => {
  // PRACTICE H3, common practice: about 1 min processor A and considerably longer B; 11 min or 5–15 min an inverter.
  it('is timed by the family’s usual time', () => {
    const family = demoFamily('station-inverter')
    const plan = planElsewhere(family, componentOf(family, 'panel'), [
      { address: 0x0800_8000, length: 0x20000 },
    ])
    const write = plan
      .filter(({ handsOff }) => handsOff)
      .reduce((sum, { predictedMs }) => sum + predictedMs, 0)
    expect(write).toBeGreaterThan(5 * 60_000)
    expect(write).toBeLessThan(15 * 60_000)
  })
})
