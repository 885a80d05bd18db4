import { describe, expect, it } from 'vitest'
import { Problem, type Release } from '../../kernel'
import type { CheckOutcome, Verification } from '../../link'
import type { StepContext } from '../step-context'
import type { Task } from '../task'
import type { WakeBody } from '../wake'
import { stepActs } from '.'

/*
 * Single steps with a bench made by hand: what each does when what it asks for does not come. The whole run over stand-ins
 * is in run.test.ts and families.test.ts.
 */

interface Form {
  outcomes?: (CheckOutcome | Problem)[]
  can?: 'read-back' | 'checksum' | 'version-only'
  changed?: boolean
  releases?: Release[]
  answer?: string
  loads?: number
  task?: Task
}

function benchOf(form: Form) {
  const events: WakeBody[] = []
  const asked: { id: string; says: string; answers: { id: string }[] }[] = []
  const outcomes = [...(form.outcomes ?? ['equal-checksum' as const])]
  let verified = 0
  const bench = {
    step: 3,
    ...(form.task ? { task: form.task } : {}),
    pieces: [{}],
    piece: 0,
    left: new Set(),
    changed: form.changed ?? false,
    releases: form.releases ?? [],
    loads: Array.from({ length: form.loads ?? outcomes.length }, () => ({
      address: 0,
      bytes: new Uint8Array(4),
    })),
    loader: {
      can: { verify: form.can ?? 'checksum' },
      verify: async (): Promise<Verification> => {
        const outcome = outcomes[verified++]!
        if (outcome instanceof Problem) throw outcome
        return { outcome, expected: 'the image', found: `${outcome} found` }
      },
    },
    wake: { record: async (body: WakeBody) => void events.push(body) },
    ask: async (prompt: (typeof asked)[number]) => {
      asked.push(prompt)
      return form.answer ?? prompt.answers[0]!.id
    },
  } as unknown as StepContext
  return { bench, events, asked, verified: () => verified }
}
const problem = (kind: string) => new Problem({ kind, says: 'it said no', remedy: 'Mend it.' })
const notes = (events: WakeBody[]) => events.flatMap((body) => (body.type === 'note' ? [body.says] : []))

// PRACTICE H2, common practice: the image is compared with the unit before the real write.
describe('compare', () => {
  const compare = async (form: Form) => {
    const made = benchOf(form)
    const error = await stepActs.compare(made.bench).then(
      () => null,
      (reason: unknown) => reason as Problem,
    )
    return { ...made, error }
  }
  it('leaves a unit alone that holds the image already, unless the person says otherwise', async () => {
    const left = await compare({ outcomes: ['equal-read-back'] })
    expect(left.asked.map(({ id }) => id)).toEqual(['same-image'])
    expect(left.asked[0]!.says).toContain('equal at every byte, read back')
    expect(left.asked[0]!.answers.map(({ id }) => id)).toEqual(['leave', 'write'])
    expect(left.error!.facts.kind).toBe('same-image')
    const written = await compare({ outcomes: ['equal-checksum'], answer: 'write' })
    expect(written.asked).toHaveLength(1)
    expect(written.error).toBeNull()
    for (const answer of ['leave', '', 'done'])
      expect((await compare({ answer })).error?.facts.kind, answer).toBe('same-image')
  })
  it('only compares where nothing else was asked: the same is an answer, and nothing compared is none', async () => {
    const same = await compare({ task: 'check', outcomes: ['equal-read-back'] })
    expect(same).toMatchObject({ asked: [], error: null })
    expect((await compare({ task: 'check', outcomes: ['different'] })).error).toBeNull()
    for (const form of [
      { outcomes: ['not-comparable' as const] },
      { outcomes: ['equal-checksum' as const, 'version-only' as const] },
      { outcomes: [problem('uds-refused')] },
      { can: 'version-only' as const },
      { loads: 0, outcomes: [] },
    ]) {
      const { error, events } = await compare({ task: 'check', ...form })
      expect(error?.facts.kind, JSON.stringify(form)).toBe('not-compared')
      expect(notes(events)).toEqual([])
    }
  })
  it('asks only where every piece is the same', async () => {
    const one = await compare({ outcomes: ['equal-checksum', 'different'] })
    expect(one.asked).toEqual([])
    expect(one.error).toBeNull()
    expect(one.events.map((body) => (body as { outcome?: string }).outcome)).toEqual([
      'equal-checksum',
      'different',
    ])
    const both = await compare({ outcomes: ['equal-checksum', 'equal-read-back'] })
    expect(both.asked).toHaveLength(1)
  })
  it.each(['not-comparable', 'version-only'] as const)(
    'never calls a unit the same of which nothing was compared: %s',
    async (outcome) => {
      const { asked, error, events } = await compare({ outcomes: ['equal-checksum', outcome] })
      expect(asked).toEqual([])
      expect(error).toBeNull()
      expect(notes(events)).toEqual([`Not compared: ${outcome} found.`])
    },
  )
  it('does not ask a link that compares nothing, and says so', async () => {
    const { asked, events, verified } = await compare({ can: 'version-only' })
    expect(verified()).toBe(0)
    expect(asked).toEqual([])
    expect(notes(events)).toEqual(['Not compared: this link cannot read the unit back.'])
  })
  it('compares nothing where there is nothing of the image', async () => {
    const { asked, events } = await compare({ loads: 0 })
    expect(asked).toEqual([])
    expect(notes(events)).toEqual(['Not compared: nothing of the image belongs into this unit.'])
  })
  it('compares nothing of a unit that an earlier leg has changed', async () => {
    const { verified, events } = await compare({ changed: true })
    expect(verified()).toBe(0)
    expect(notes(events)).toEqual(['Not compared: what is in the unit now is not what it came with.'])
  })
  it('does not ask again whoever released the same version', async () => {
    const by = (rule: string) => [{ rule, name: 'A. Lund', reason: 'garbled' }]
    expect((await compare({ releases: by('version-direction') })).asked).toEqual([])
    expect((await compare({ releases: by('backup') })).asked).toHaveLength(1)
  })
  it('goes on where the unit refuses to be compared, and not where it is silent', async () => {
    const refused = await compare({ outcomes: [problem('unit-refused')] })
    expect(refused.error).toBeNull()
    expect(notes(refused.events)).toEqual(['Not compared: it said no.'])
    expect((await compare({ outcomes: [problem('no-answer')] })).error!.facts.kind).toBe('no-answer')
    const broken = benchOf({})
    ;(broken.bench.loader as { verify: unknown }).verify = async () => {
      throw new TypeError('a defect')
    }
    await expect(stepActs.compare(broken.bench)).rejects.toThrow(TypeError)
  })
})

describe('verify', () => {
  const verify = async (form: Form) => {
    const made = benchOf(form)
    const error = await stepActs.verify(made.bench).then(
      () => null,
      (reason: unknown) => reason as Problem,
    )
    return { ...made, error }
  }
  it.each([
    ['equal-checksum', null],
    ['equal-read-back', null],
    ['version-only', null],
    ['not-comparable', 'verify-failed'],
    ['different', 'verify-failed'],
  ] as const)('%s: %s', async (outcome, kind) => {
    const { error, events } = await verify({ outcomes: [outcome] })
    expect(error?.facts.kind ?? null).toBe(kind)
    expect(events).toEqual([
      { type: 'verified', step: 3, outcome, expected: 'the image', found: `${outcome} found` },
    ])
  })
  it('fails for one piece of several', async () => {
    const { error, verified } = await verify({ outcomes: ['equal-checksum', 'different', 'equal-checksum'] })
    expect(error!.facts).toMatchObject({ kind: 'verify-failed', found: 'different found' })
    expect(verified()).toBe(2)
  })
  it('of nothing is no check', async () => {
    expect((await verify({ loads: 0 })).error!.facts.kind).toBe('verify-failed')
  })
})

// PRACTICE G3, common practice: settings are another backup; they are kept before the update, or that is waived by name.
describe('settings', () => {
  const family = {
    backup: { firmware: 'own', settings: { says: 'Photograph the list.', back: 'Enter it.' } },
  }
  const settings = async (form: Form, own: unknown = family) => {
    const made = benchOf(form)
    ;(made.bench as { family: unknown }).family = own
    await stepActs.settings(made.bench)
    return made
  }
  it('are asked for in the words of the profile', async () => {
    const { asked, events } = await settings({})
    expect(asked).toEqual([
      { id: 'settings', says: 'Photograph the list.', answers: [{ id: 'done', says: 'They are kept' }] },
    ])
    expect(events).toEqual([])
  })
  it('are not asked for where that was waived by name, and the record says by whom and why', async () => {
    const { asked, events } = await settings({
      releases: [{ rule: 'settings-backup', name: 'A. Lund', reason: 'kept on the shore side' }],
    })
    expect(asked).toEqual([])
    expect(notes(events)).toEqual(['No backup of the settings: waived by A. Lund, kept on the shore side.'])
    const other = await settings({ releases: [{ rule: 'backup', name: 'A. Lund', reason: 'x' }] })
    expect(other.asked).toHaveLength(1)
  })
  it('are not asked for where the update erases none', async () => {
    expect((await settings({}, { backup: { firmware: 'own' } })).asked).toEqual([])
    expect((await settings({}, {})).asked).toEqual([])
  })
})

// PRACTICE D4, H6, common practice: a half-written unit is not switched off for an order of power.
describe('power-up', () => {
  const on = [
    { id: 'one', does: 'Panel breaker off.', caution: 'Panels are live.' },
    { id: 'two', does: 'Battery on.' },
  ]
  const powerUp = async (powerStood: boolean, answer?: string) => {
    const made = benchOf({ ...(answer ? { answer } : {}) })
    Object.assign(made.bench, { family: { powerOrder: { on, off: [] } }, powerStood })
    await stepActs['power-up'](made.bench)
    return made.asked
  }
  it('goes through each thing for a first leg', async () => {
    const asked = await powerUp(false)
    expect(asked).toEqual([
      {
        id: 'power-up.one',
        says: 'Panel breaker off.',
        caution: 'Panels are live.',
        answers: [{ id: 'done', says: 'Done' }],
      },
      { id: 'power-up.two', says: 'Battery on.', answers: [{ id: 'done', says: 'Done' }] },
    ])
  })
  it('has nothing to go through where the family orders nothing, and no caution where none is written', async () => {
    const made = benchOf({})
    Object.assign(made.bench, { family: {}, powerStood: false })
    await stepActs['power-up'](made.bench)
    expect(made.asked).toEqual([])
    const calm = benchOf({ answer: 'stands' })
    Object.assign(calm.bench, { family: { powerOrder: { on: [on[1]], off: [] } }, powerStood: true })
    await stepActs['power-up'](calm.bench)
    expect(calm.asked).toHaveLength(1)
    expect(calm.asked[0]).not.toHaveProperty('caution')
  })
  it('asks once for a later one, with every caution, and goes through it only where something was switched', async () => {
    const [asked, ...more] = await powerUp(true, 'stands')
    expect(asked).toMatchObject({ id: 'power-stands', caution: 'Panels are live.' })
    expect(asked!.says).toContain('Battery on.')
    expect(more).toEqual([])
    expect(asked!.answers.map(({ id }) => id)).toEqual(['stands', 'again'])
    for (const answer of ['again', 'done', ''])
      expect(
        (await powerUp(true, answer || 'again')).map(({ id }) => id),
        answer,
      ).toEqual(['power-stands', 'power-up.one', 'power-up.two'])
  })
})
