import { demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import type { Family } from '../family'
import { virtualClock } from '../kernel'
import {
  carryOut,
  JournalLost,
  type RunEnvironment,
  type RunRequest,
  type Step,
  type StepKind,
  type WakeBody,
} from '.'

/*
 * A plan is carried out step by step, each recorded before its act and after it; who is asked what, where it may stop, and how it
 * ends (docs/architecture.md). The steps are those of hands alone, so that nothing but the engine is looked at.
 */

const desk = demoFamily('signal-desk')
const family = {
  ...desk,
  powerOrder: { on: [{ id: 'fuse', does: 'Put the fuse in.', caution: 'Mains.' }], off: [] },
  backup: { settings: { says: 'Write the settings down.' } },
  retries: { asIs: 0, reEnter: 0, otherAdapter: false },
} as unknown as Family
const plan = (...kinds: StepKind[]): Step[] =>
  kinds.map((kind) => ({ kind, says: kind, predictedMs: 100, personMs: 0, handsOff: false }))

interface Form {
  request?: Partial<RunRequest>
  says?: (prompt: string) => string
  environment?: Partial<RunEnvironment>
  /** Is told each event as it is recorded; what it throws the journal throws. */
  on?: (body: WakeBody) => void
  owe?: (body: WakeBody) => Promise<void>
}
async function run(kinds: StepKind[], { request, says = () => 'done', environment, on, owe }: Form = {}) {
  const events: WakeBody[] = []
  const owed: WakeBody[] = []
  const asked: string[] = []
  const outcome = await carryOut(
    plan(...kinds),
    {
      family,
      component: desk.components[0]!,
      link: null,
      unit: { id: 'u', serial: '1' },
      image: null,
      releases: [],
      ...request,
    },
    {
      channel: null,
      clock: virtualClock(() => new Promise<void>((done) => setImmediate(done))),
      wake: {
        async record(body) {
          on?.(body)
          events.push(body)
        },
        owe: owe ?? (async (body) => void owed.push(body)),
      },
      answers: {
        async wait(prompt) {
          asked.push(prompt)
          return says(prompt)
        },
      },
      abandon: { raised: false },
      halt: { raised: false },
      ...environment,
    },
  )
  const types = events.map((body) =>
    'step' in body
      ? `${body.type} ${body.step}`
      : body.type === 'run.closed'
        ? `closed ${body.outcome}`
        : body.type,
  )
  const answers = events.flatMap((body) =>
    body.type === 'prompt.asked' ? [[body.prompt, ...body.answers.map(({ id }) => id)]] : [],
  )
  return { outcome, events, types, asked, answers, owed }
}

describe('a plan', () => {
  it('is carried out in its order, each step recorded before and behind its act', async () => {
    const { outcome, types, events } = await run(['power-up', 'settings'])
    expect(outcome).toBe('proved')
    expect(types).toEqual([
      'step.started 0',
      'prompt.asked 0',
      'prompt.answered 0',
      'step.done 0',
      'step.started 1',
      'prompt.asked 1',
      'prompt.answered 1',
      'step.done 1',
      'closed proved',
    ])
    expect(events[1]).toMatchObject({ prompt: 'power-up.fuse', says: 'Put the fuse in.', caution: 'Mains.' })
    expect(events[2]).toMatchObject({ prompt: 'power-up.fuse', answer: 'done' })
  })
  it('of a task that writes nothing ends as done', async () => {
    const of = async (task: RunRequest['task']) =>
      (await run(['settings'], { request: { task: task! } })).outcome
    expect([await of('write'), await of('chip')]).toEqual(['proved', 'proved'])
    expect([await of('check'), await of('read-out'), await of('codes')]).toEqual(['done', 'done', 'done'])
  })
})

describe('a program that is told to end', () => {
  /** Told so while a step of this number is under way. */
  const halted = (kinds: StepKind[], during: number) => {
    const halt = { raised: false }
    return run(kinds, {
      environment: { halt },
      on: (body) => {
        if (body.type === 'step.started' && body.step === during) halt.raised = true
      },
    })
  }
  it('stops behind a step that leaves the unit as it is, and says why', async () => {
    const { outcome, types, events } = await halted(['power-up', 'settings', 'swap'], 0)
    expect(outcome).toBe('cut')
    expect(types.slice(-2)).toEqual(['step.done 0', 'cut'])
    expect(events.at(-1)).toMatchObject({ why: expect.stringMatching(/told to end/) })
  })
  it('goes on behind one that does not, to the next that does', async () => {
    const { outcome, types } = await halted(['swap', 'settings', 'swap'], 0)
    expect(outcome).toBe('cut')
    expect(types.filter((type) => type.startsWith('step.done'))).toEqual(['step.done 0', 'step.done 1'])
  })
  it('has nothing to stop behind the last step', async () => {
    expect((await halted(['power-up', 'settings'], 1)).types.at(-1)).toBe('closed proved')
    expect((await halted(['swap'], 0)).types.at(-1)).toBe('closed proved')
  })
})

describe('the way out of a question', () => {
  it('is there until the first change, and not behind it', async () => {
    const { answers } = await run(['power-up', 'swap', 'settings'])
    expect(answers[0]).toEqual(['power-up.fuse', 'done', 'stop'])
    expect(answers.length).toBeGreaterThan(2)
    for (const [prompt, ...ids] of answers.slice(1)) expect([prompt, ids]).toEqual([prompt, ['done']])
  })
  it('is there in every question of a plan that changes nothing', async () => {
    const { answers } = await run(['power-up', 'settings'], { request: { task: 'check' } })
    expect(answers.map((each) => each.at(-1))).toEqual(['stop', 'stop'])
  })
  it('says what is true of a unit that an earlier leg has written', async () => {
    const words = async (alreadyWritten: boolean) => {
      const { events } = await run(['settings'], { request: { alreadyWritten } })
      const [asked] = events.flatMap((body) => (body.type === 'prompt.asked' ? [body] : []))
      return asked!.answers.at(-1)
    }
    expect(await words(false)).toEqual({ id: 'stop', says: 'Stop here, nothing is written' })
    expect(await words(true)).toEqual({ id: 'stop', says: 'Stop here' })
  })
  it('is not added to a question that has its own', async () => {
    // Before the write nothing measures the supply, and the person is asked.
    const { answers } = await run(['write'], { says: () => 'stop' })
    expect(answers).toEqual([['supply-by-hand', 'holds', 'stop']])
  })
  it('ends the run as abandoned, and nothing more is begun', async () => {
    const { outcome, types } = await run(['power-up', 'settings'], { says: () => 'stop' })
    expect(outcome).toBe('abandoned')
    expect(types).toEqual(['step.started 0', 'prompt.asked 0', 'prompt.answered 0', 'closed abandoned'])
  })
})

describe('a step that fails', () => {
  it('is recorded with what it says, and the run ends there', async () => {
    const { outcome, events, types } = await run(['power-up', 'connect', 'settings'])
    expect(outcome).toBe('failed')
    expect(types.slice(-2)).toEqual(['step.started 1', 'failed 1'])
    expect(events.at(-1)).toMatchObject({ problem: { kind: 'no-link' } })
  })
  it('by a fault of the program is called one', async () => {
    const broken = (error: unknown) =>
      run(['settings'], {
        says: () => {
          throw error
        },
      })
    const of = async (error: unknown) => (await broken(error)).events.at(-1)
    expect(await of(new Error('boom'))).toMatchObject({
      type: 'failed',
      problem: { kind: 'defect', found: 'boom' },
    })
    expect(await of('words')).toMatchObject({ problem: { kind: 'defect', found: 'words' } })
  })
  it('is tried again by the family’s policy alone', async () => {
    const retries = async (asIs: number) => {
      const own = { ...family, retries: { asIs, reEnter: 0, otherAdapter: false } } as Family
      const { types, outcome } = await run(['erase'], {
        request: {
          family: own,
          image: { name: 'i', identity: null, memory: [{ address: 0, bytes: new Uint8Array(16) }] },
        },
      })
      expect(outcome).toBe('failed')
      return types.filter((type) => type.startsWith('retry')).length
    }
    expect([await retries(0), await retries(2)]).toEqual([0, 2])
  })
})

describe('a supply that is measured', () => {
  const meter = (volts: number) => {
    const read = { times: 0 }
    return { read, meter: { volts: async () => (read.times++, volts) } as unknown as RunEnvironment['meter'] }
  }
  it('is watched from the step on that asks the unit who it is', async () => {
    const before = meter(12.5)
    const { types } = await run(['power-up', 'settings'], { environment: { meter: before.meter! } })
    expect([before.read.times, types.includes('supply')]).toEqual([0, false])
    const from = meter(12.5)
    const asked = await run(['identify'], { environment: { meter: from.meter! } })
    expect(from.read.times).toBeGreaterThan(0)
    expect(asked.outcome).toBe('failed')
  })
  it('holds before erase and before write, and before nothing else', async () => {
    const low = family.power.floorVolts - 1
    const prompts = async (kind: StepKind) => {
      const { asked, outcome, events } = await run([kind], {
        environment: { meter: meter(low).meter! },
        says: () => 'stop',
      })
      return [asked, outcome, events.at(-1)]
    }
    for (const kind of ['erase', 'write'] as const) {
      const [asked, outcome, last] = await prompts(kind)
      expect([asked, outcome]).toEqual([['supply-low'], 'failed'])
      expect(last).toMatchObject({ problem: { kind: 'supply-low' } })
    }
    expect((await prompts('verify'))[0]).toEqual([])
  })
})

describe('a journal that cannot be written', () => {
  const lostAt = (
    type: WakeBody['type'],
    step: number,
    error: Error = new JournalLost(new Error('disk full')),
  ) => ({
    on: (body: WakeBody) => {
      if (body.type === type && (!('step' in body) || body.step === step)) throw error
    },
  })
  it('ends the run as cut, and what it announces is not done', async () => {
    const { outcome, types, asked, owed } = await run(['power-up', 'settings'], lostAt('step.started', 1))
    expect(outcome).toBe('cut')
    expect(types.at(-1)).toBe('step.done 0')
    expect(asked).toEqual(['power-up.fuse'])
    expect(owed).toEqual([{ type: 'cut', why: expect.stringMatching(/could not be written: disk full/) }])
  })
  it('at the record of a failure keeps what failed', async () => {
    const { outcome, owed } = await run(['connect'], lostAt('failed', 0))
    expect(outcome).toBe('cut')
    expect(owed).toEqual([{ type: 'cut', why: expect.stringMatching(/disk full.*not over a link/s) }])
  })
  it('and keeps no debts ends in its own error', async () => {
    const lost = new JournalLost(new Error('disk full'))
    const act = run(['settings'], {
      ...lostAt('step.started', 0, lost),
      owe: async () => {
        throw lost
      },
    })
    await expect(act).rejects.toBe(lost)
  })
  it('for a reason of its own is no failure of the unit', async () => {
    const broken = new TypeError('no such column')
    await expect(run(['connect'], lostAt('failed', 0, broken))).rejects.toBe(broken)
  })
})
