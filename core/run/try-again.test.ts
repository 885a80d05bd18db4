import { describe, expect, it, vi } from 'vitest'
import { Problem } from '../kernel'
import { stepActs } from './steps'
import type { StepContext } from './step-context'
import type { Step, StepKind } from './step'
import { tryAgain, type Tries } from './try-again'
import type { WakeBody } from './wake'

/* PRACTICE H6, common practice: as it is, with a new entry, at a lower speed, over another adapter; never without a record. */

const plan = (['enter', 'compare', 'erase', 'write', 'verify', 'restart'] as StepKind[]).map(
  (kind): Step => ({ kind, says: kind, predictedMs: 0, personMs: 0, handsOff: false }),
)
const at = (kind: StepKind) => plan.findIndex((step) => step.kind === kind)
const problem = (kind: string) => new Problem({ kind, says: 'it broke', remedy: 'Mend it.' })

interface Form {
  step?: StepKind
  policy?: { asIs: number; reEnter: number; otherAdapter: boolean } | undefined
  /** What asking the bootloader comes to, try by try; it answers when the list is over. */
  attach?: (Problem | Error)[]
  slower?: (number | null | Error)[]
  /** The place that failed in `steps`; by its kind where it is not told. */
  at?: number
  entered?: boolean
  /** What the bootloader says of the unit on the cable. */
  says?: string[] | Error
  answers?: string[]
  steps?: readonly Step[]
  tries?: Partial<Tries>
}

async function again(error: unknown, form: Form = {}) {
  const events: WakeBody[] = []
  const attach = [...(form.attach ?? [])]
  const slower = form.slower && [...form.slower]
  const answers = [...(form.answers ?? [])]
  const opened: string[] = []
  const asked: Parameters<StepContext['ask']>[0][] = []
  const bench = {
    step: form.at ?? at(form.step ?? 'write'),
    goesOnAt: 512,
    inBootloader: form.entered ?? true,
    family: {
      entry: [],
      components: [],
      snapshot: [
        { field: 'serial', label: 'Serial', reads: 'serial {value}', change: 'must-not' },
        { field: 'version.main', label: 'Firmware', reads: 'fw {value}', change: 'must' },
      ],
      retries: 'policy' in form ? form.policy : { asIs: 1, reEnter: 1, otherAdapter: true },
    },
    wake: { record: async (body: WakeBody) => void events.push(body) },
    loader: {
      attach: async () => {
        const next = attach.shift()
        if (next) throw next
      },
      identify: async () => {
        if (form.says instanceof Error) throw form.says
        return form.says ?? []
      },
    },
    unit: { serial: 'TG4-0117' },
    clock: { now: () => 0 },
    driver: {
      open: async () => void opened.push('open'),
      close: async () => void opened.push('close'),
      ...(slower && {
        slower: async () => {
          const next = slower.shift()
          if (next instanceof Error) throw next
          return next ?? null
        },
      }),
    },
    ask: async (question: Parameters<StepContext['ask']>[0]) => {
      asked.push(question)
      opened.push(question.id)
      return answers.shift() ?? 'stop'
    },
  } as unknown as StepContext
  const tries: Tries = { asIs: 0, reEnter: 0, adapters: 0, ...form.tries }
  const back = await tryAgain(bench, form.steps ?? plan, error, tries)
  const why = events.flatMap((body) =>
    body.type === 'retry' ? [body.why.replace(/^it broke; again, /, '')] : [],
  )
  return { back, why, tries, opened, asked, bench }
}
const silent = problem('no-answer')

describe('a try that failed', () => {
  it('is made once more as it is, from before the first change', async () => {
    const { back, why, bench } = await again(silent)
    expect(back).toBe(at('erase'))
    expect(why).toEqual(['as it is'])
    // Nothing of what is in the unit is relied on.
    expect(bench.goesOnAt).toBeNull()
    expect((await again(silent, { step: 'compare' })).back).toBe(at('compare'))
    expect((await again(silent, { step: 'verify' })).back).toBe(at('erase'))
  })
  it('then with a new entry, and each try is used once', async () => {
    expect((await again(silent, { attach: [silent] })).why).toEqual(['as it is', 'with a new entry'])
    expect((await again(silent, { tries: { asIs: 1 } })).why).toEqual(['with a new entry'])
    const { tries } = await again(silent, { attach: [silent] })
    expect(tries).toEqual({ asIs: 1, reEnter: 1, adapters: 0 })
  })
  it('then at each lower speed that the bootloader takes up', async () => {
    const used = { asIs: 1, reEnter: 1 }
    const one = await again(silent, { tries: used, slower: [57_600] })
    expect(one.why).toEqual([expect.stringMatching(/^at 57\s600 baud$/)])
    expect(one.back).toBe(at('erase'))
    const two = await again(silent, { tries: used, slower: [57_600, 19_200], attach: [silent, silent] })
    expect(two.why.map((each) => each.replace(/\s/g, ' '))).toEqual(
      ['at 57 600 baud', 'at 19 200 baud', 'over another adapter'].slice(0, two.why.length),
    )
    const none = await again(silent, { tries: used, slower: [null], answers: ['stop'] })
    expect(none.why).toEqual([])
    expect(
      (await again(silent, { tries: used, slower: [problem('port-busy')], answers: ['stop'] })).back,
    ).toBeNull()
  })
  it('then over another adapter, which the person joins: asked first, the port closed and opened anew', async () => {
    const used = { asIs: 1, reEnter: 1 }
    const joined = await again(silent, { tries: used, answers: ['again'] })
    expect(joined).toMatchObject({
      back: at('erase'),
      why: ['over another adapter'],
      opened: ['other-adapter', 'close', 'open'],
    })
    const stopped = await again(silent, { tries: used, answers: ['stop'] })
    expect(stopped).toMatchObject({ back: null, why: [], opened: ['other-adapter'] })
    // Twice at the most.
    const twice = await again(silent, {
      tries: used,
      answers: ['again', 'again', 'again'],
      attach: [problem('port-lost'), problem('port-lost'), problem('port-lost')],
    })
    expect(twice).toMatchObject({ back: null, why: ['over another adapter', 'over another adapter'] })
    expect(twice.tries.adapters).toBe(2)
  })
  it('says what failed and what to do, and leaves the choice', async () => {
    const { asked } = await again(silent, { tries: { asIs: 1, reEnter: 1 } })
    expect(asked).toEqual([
      {
        id: 'other-adapter',
        says: 'It failed again: it broke. Join another adapter at the same port; leave the unit powered.',
        answers: [
          { id: 'stop', says: 'Stop here' },
          { id: 'again', says: 'It is joined: try again' },
        ],
      },
    ])
  })
  it('of several components begins with the one that failed, not with the first', async () => {
    const two = [0, 1].flatMap((piece) =>
      (['erase', 'write', 'verify'] as const).map((kind) => ({ ...plan[0]!, kind, piece })),
    )
    const steps = [plan[0]!, ...two]
    expect((await again(silent, { steps, at: 6 })).back).toBe(4)
    expect((await again(silent, { steps, at: 5 })).back).toBe(4)
    expect((await again(silent, { steps, at: 3 })).back).toBe(1)
    // Of a memory that needs no erase the write is the first that changes it.
    const bare = [plan[0]!, ...[0, 1].map((piece) => ({ ...plan[0]!, kind: 'write' as const, piece }))]
    expect((await again(silent, { steps: bare, at: 2 })).back).toBe(2)
  })
  it('enters by the family’s way where the bootloader does not answer any more, and never over a lost port', async () => {
    const enter = vi.spyOn(stepActs, 'enter').mockResolvedValue(undefined as never)
    try {
      const there = await again(silent, { tries: { asIs: 1 } })
      expect(there.bench.inBootloader).toBe(true)
      expect(enter).not.toHaveBeenCalled()
      const gone = await again(silent, { tries: { asIs: 1 }, attach: [silent] })
      expect(enter).toHaveBeenCalledTimes(1)
      expect(gone).toMatchObject({ back: at('erase'), why: ['with a new entry'] })
      // Whether it is in its bootloader is not known until the entry says so.
      expect(gone.bench.inBootloader).toBe(false)
      enter.mockClear()
      await again(silent, { tries: { asIs: 1 }, attach: [problem('port-lost')] })
      await expect(again(silent, { tries: { asIs: 1 }, attach: [new TypeError('x')] })).rejects.toThrow()
      expect(enter).not.toHaveBeenCalled()
    } finally {
      enter.mockRestore()
    }
  })
  it('a bootloader that is joined anew counts as entered', async () => {
    const { bench } = await again(silent, { tries: { asIs: 1 }, entered: false })
    expect(bench.inBootloader).toBe(true)
  })
  it('a defect while the speed is lowered ends the run', async () => {
    const used = { asIs: 1, reEnter: 1 }
    await expect(again(silent, { tries: used, slower: [new TypeError('defect')] })).rejects.toThrow(TypeError)
  })
  // PRACTICE A1: the unit on the cable is known before a byte goes into it, also where the cable was in a hand meanwhile.
  describe('over another adapter', () => {
    const form = { tries: { asIs: 1, reEnter: 1 }, answers: ['again', 'again'] }
    it('goes into no other unit: one that says another serial ends it at once', async () => {
      const other = again(silent, { ...form, says: ['fw 1.3', 'serial TG4-0118'] })
      await expect(other).rejects.toMatchObject({
        facts: { kind: 'wrong-unit', expected: 'serial TG4-0117', found: 'serial TG4-0118' },
      })
    })
    it('goes on with the right one, and with one whose bootloader does not say which it is', async () => {
      for (const says of [['serial TG4-0117'], ['fw 1.3'], []])
        expect((await again(silent, { ...form, says })).back, says.join()).toBe(at('erase'))
    })
    it('goes on where the bootloader answers and cannot say which unit it is, and not over a port that is gone', async () => {
      expect((await again(silent, { ...form, says: silent })).back).toBe(at('erase'))
      const gone = await again(silent, { ...form, says: problem('port-lost') })
      expect(gone).toMatchObject({ back: null, tries: { adapters: 2 } })
      await expect(again(silent, { ...form, says: new TypeError('defect') })).rejects.toThrow(TypeError)
    })
  })
  it('is not made over another adapter where the family does not say so', async () => {
    const own = { asIs: 0, reEnter: 0, otherAdapter: false }
    expect(await again(silent, { policy: own })).toMatchObject({ back: null, why: [], opened: [] })
    // Where the profile says nothing: once as it is, once with a new entry, and no more.
    const usual = await again(silent, { policy: undefined, attach: [silent, problem('port-lost')] })
    expect(usual).toMatchObject({ back: null, why: ['as it is', 'with a new entry'], opened: [] })
  })
  it.each(['write-abandoned', 'supply-low', 'image-outside', 'debug-protected', 'port-lost', 'same-image'])(
    'is not made again by itself after %s',
    async (kind) => {
      expect(await again(problem(kind))).toMatchObject({ back: null, why: [] })
    },
  )
  it('is not made again outside of compare, dry run, erase, write and check', async () => {
    for (const step of ['enter', 'restart'] as const) expect((await again(silent, { step })).back).toBeNull()
    for (const step of ['compare', 'erase', 'write', 'verify'] as const)
      expect((await again(silent, { step })).back, step).not.toBeNull()
  })
  it('a defect of the program or a journal that cannot be written ends the run', async () => {
    expect((await again(new TypeError('defect'))).back).toBeNull()
    await expect(again(silent, { attach: [new TypeError('defect')] })).rejects.toThrow(TypeError)
  })
})
