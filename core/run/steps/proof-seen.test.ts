import { describe, expect, it } from 'vitest'
import { Problem } from '../../kernel'
import type { StepContext } from '../step-context'
import type { WakeBody } from '../wake'
import { stepActs } from '.'

/* PRACTICE I1: what proves a write, and what does not, for each answer that a unit or a person can give. */

const silence = new Problem({ kind: 'no-answer', says: 'nobody answers', remedy: 'Look at the cable.' })
const refusal = new Problem({ kind: 'unit-refused', says: 'it said no', remedy: 'Mend it.' })

const component = { id: 'main', name: 'Main processor' }
const family = {
  snapshot: [
    { field: 'serial', label: 'Serial', change: 'must-not' },
    {
      field: 'version.main',
      label: 'Program',
      change: 'must',
      by: 'boot-screen',
    },
  ],
  components: [component],
}
const page = (version: string, serial = 'S-1') => ({
  lines: [`Serial: ${serial}`, `Program: ${version}`],
  inBootloader: false,
})
const inBootloader = { lines: ['Loader 1.0'], inBootloader: true }
const before = {
  at: 1,
  source: 'link',
  lines: [
    { field: 'serial', label: 'Serial', value: 'S-1' },
    { field: 'version.main', label: 'Program', value: '1.0' },
  ],
}

function benchOf(own: Record<string, unknown>, pages: (unknown | Problem)[] = [], answer = 'none') {
  const events: WakeBody[] = []
  const waits: number[] = []
  const asked: { id: string; says: string; answers: { id: string; says: string }[] }[] = []
  const image = { name: 'a.hex', memory: [], identity: { version: '2.0' } }
  const bench = {
    step: 7,
    family,
    component,
    image,
    pieces: [{ component, image }],
    before,
    link: null,
    cameInBootloader: false,
    clock: { now: () => 5, sleep: async (ms: number) => void waits.push(ms) },
    wake: { record: async (body: WakeBody) => void events.push(body) },
    ask: async (prompt: (typeof asked)[number]) => {
      asked.push(prompt)
      return answer
    },
    driver: {
      page: async () => {
        const next = pages.shift()
        if (next instanceof Error) throw next
        return next
      },
    },
    ...own,
  } as unknown as StepContext
  const act = async (kind: 'prove' | 'look') =>
    stepActs[kind](bench).then(
      () => null,
      (error: unknown) => (error instanceof Problem ? error.facts : error),
    )
  const of = (type: WakeBody['type']) => events.filter((body) => body.type === type)
  return { act, events, of, waits, asked, left: pages }
}

describe('the page after a write', () => {
  it('proves it with the version that was written and every other line as before', async () => {
    const made = benchOf({}, [page('2.0')])
    expect(await made.act('prove')).toBeNull()
    expect(made.of('snapshot')).toMatchObject([{ when: 'after', snapshot: { at: 5, source: 'link' } }])
    expect(made.of('compared')).toMatchObject([{ step: 7 }])
    expect(made.asked).toEqual([])
  })
  it.each([
    ['the old version', page('1.0')],
    ['a third one', page('2.1')],
    ['none', { lines: ['Serial: S-1'], inBootloader: false }],
    ['another serial', page('2.0', 'S-2')],
    ['no serial any more', { lines: ['Program: 2.0'], inBootloader: false }],
    ['nothing', { lines: [], inBootloader: false }],
  ])('does not with %s, which is recorded all the same', async (_, read) => {
    const made = benchOf({}, [read])
    expect(await made.act('prove')).toMatchObject({ kind: 'not-proved' })
    expect(made.events.map(({ type }) => type)).toEqual(['snapshot', 'compared'])
  })
  it('is asked three times of a unit that is silent or still in its bootloader, half a second apart', async () => {
    const late = benchOf({}, [silence, inBootloader, page('2.0')])
    expect(await late.act('prove')).toBeNull()
    expect(late.waits).toEqual([500, 500])
    expect(late.of('retry').map((body) => (body as { why: string }).why)).toEqual([
      'The new firmware did not answer yet.',
      'The unit is still in its bootloader.',
    ])
    const dead = benchOf({}, [silence, silence, silence, page('2.0')])
    expect(await dead.act('prove')).toMatchObject({ kind: 'no-answer' })
    expect(dead.left).toHaveLength(1)
    const stuck = benchOf({}, [inBootloader, inBootloader, inBootloader, page('2.0')])
    expect(await stuck.act('prove')).toMatchObject({ kind: 'not-proved' })
    expect(stuck.of('snapshot')).toMatchObject([{ snapshot: { inBootloader: true } }])
  })
  it('is not asked again where the unit refused, or something is broken', async () => {
    for (const fault of [refusal, new TypeError('a defect')]) {
      const made = benchOf({}, [fault, page('2.0')])
      expect(await made.act('prove')).toBe(fault instanceof Problem ? fault.facts : fault)
      expect(made.waits).toEqual([])
    }
  })
  it('of every component has to say its own version', async () => {
    const second = { id: 'radio', name: 'Radio' }
    const two = {
      family: {
        snapshot: [...family.snapshot, { field: 'version.radio', label: 'Radio', change: 'must' }],
        components: [component, second],
      },
      pieces: [
        { component, image: { identity: { version: '2.0' } } },
        { component: second, image: { identity: { version: '7' } } },
      ],
    }
    const read = (radio: string) => ({
      lines: [...page('2.0').lines, `Radio: ${radio}`],
      inBootloader: false,
    })
    expect(await benchOf(two, [read('7')]).act('prove')).toBeNull()
    expect(await benchOf(two, [read('6')]).act('prove')).toMatchObject({ kind: 'not-proved' })
    expect(await benchOf(two, [page('2.0')]).act('prove')).toMatchObject({ kind: 'not-proved' })
  })
})

describe('a task that writes nothing', () => {
  it('has to leave every line as it was', async () => {
    const task = { task: 'check' }
    expect(await benchOf(task, [page('1.0')]).act('prove')).toBeNull()
    for (const read of [page('1.1'), page('1.0', 'S-2')])
      expect(await benchOf(task, [read]).act('prove')).toMatchObject({ kind: 'unit-changed' })
  })
  it('compares no page of a unit that it found in its bootloader', async () => {
    const made = benchOf({ task: 'check', cameInBootloader: true }, [page('9')])
    expect(await made.act('prove')).toBeNull()
    expect(made.events).toEqual([
      { type: 'note', step: 7, says: 'Nothing to compare: it has no page in its bootloader.' },
    ])
    // A write has to prove itself there all the same.
    expect(await benchOf({ cameInBootloader: true }, [page('1.0')]).act('prove')).toMatchObject({
      kind: 'not-proved',
    })
  })
})

// Common practice: where no link reads it, the person looks at the unit itself; what nobody chose is not seen.
describe('a version that only a person sees', () => {
  const link = { drive: { speaks: 'script', operations: {} } }
  const bare = { lines: [], inBootloader: false }
  const known = { before: { ...before, lines: before.lines.slice(1) } }
  it('proves a write over a link that reads no page', async () => {
    const made = benchOf({ link, ...known }, [bare], 'wanted')
    expect(await made.act('prove')).toBeNull()
    expect(made.asked).toMatchObject([
      {
        id: 'look',
        says: 'Which version does the unit show, read from its boot screen?',
        answers: [{ id: 'none' }, { id: 'other' }, { id: 'wanted', says: '2.0' }],
      },
    ])
    expect(made.of('snapshot')).toMatchObject([
      { snapshot: { lines: [{ field: 'version.main', value: '2.0', source: 'boot-screen' }] } },
    ])
  })
  it.each([
    ['none', 'the unit shows no version'],
    ['other', 'the unit shows another version'],
  ])('does not where it is %s', async (answer, says) => {
    const made = benchOf({ link, ...known }, [bare], answer)
    expect(await made.act('prove')).toMatchObject({
      kind: 'not-proved',
      says,
      found: 'Seen by the person after the power cycle: this link cannot read it.',
    })
    expect(made.of('compared')).toHaveLength(1)
  })
  it('is not asked for where the link reads the page', async () => {
    const reads = { drive: { speaks: 'script', operations: { page: {} } } }
    const made = benchOf({ link: reads }, [page('2.0')], 'none')
    expect(await made.act('prove')).toBeNull()
    expect(made.asked).toEqual([])
  })
  it.each([
    ['wanted', null],
    ['none', 'the unit shows no version'],
    ['other', 'the unit shows another version'],
    ['starts', 'the unit shows another version'],
    ['', 'the unit shows another version'],
  ])('of an image put in by hand: %j', async (answer, says) => {
    const made = benchOf({}, [], answer)
    const fault = await made.act('look')
    if (says === null) expect(fault).toBeNull()
    else expect(fault).toMatchObject({ kind: 'not-proved', says, expected: '2.0' })
    expect(made.of('snapshot')).toMatchObject([
      { snapshot: { source: 'boot-screen', lines: says === null ? [{ value: '2.0' }] : [] } },
    ])
  })
  it('of an image whose version nobody knows is at least seen to start', async () => {
    const unsaid = { image: { name: 'a', memory: [], identity: null }, pieces: [] }
    const starts = benchOf(unsaid, [], 'starts')
    expect(await starts.act('look')).toBeNull()
    expect(starts.asked[0]!.answers.map(({ id }) => id)).toEqual(['none', 'starts'])
    for (const answer of ['none', 'other', ''])
      expect(await benchOf(unsaid, [], answer).act('look')).toMatchObject({ kind: 'not-proved' })
  })
  it('is compared with the line of before, wherever that was read, and with no other line of it', async () => {
    const seen = { ...before, source: 'boot-screen' }
    for (const own of [{ before: seen }, { before: null, lastPage: seen }]) {
      const made = benchOf(own, [], 'wanted')
      expect(await made.act('look')).toBeNull()
      const [{ rows, findings, step }] = made.of('compared') as never as [
        { rows: { field: string; before?: string }[]; findings: { level: string }[]; step: number },
      ]
      expect(rows).toMatchObject([{ field: 'version.main', before: '1.0', after: '2.0', ok: true }])
      expect(findings.filter(({ level }) => level === 'stop' || level === 'hold')).toEqual([])
      expect(step).toBe(7)
    }
    const unknown = benchOf({ before: null }, [], 'wanted')
    await unknown.act('look')
    expect(unknown.of('compared')).toMatchObject([{ rows: [{ field: 'version.main', after: '2.0' }] }])
  })
  it('is asked by the name of its component where the page has no line for it', async () => {
    const bare = { family: { ...family, snapshot: [] }, before: null }
    const made = benchOf(bare, [], 'wanted')
    expect(await made.act('look')).toBeNull()
    expect(made.asked[0]!.says).toBe('Which version does the unit show?')
    expect(made.of('snapshot')).toMatchObject([
      { snapshot: { source: 'boot-screen', lines: [{ label: 'Version of Main processor', value: '2.0' }] } },
    ])
  })
  it('leads on by what was changed: a chip back into its socket, a card looked at again', async () => {
    const card = (await benchOf({}, [], 'none').act('look')) as { remedy: string }
    expect(card.remedy).toMatch(/^Leave its supply on\./)
    const socket = { family: { ...family, chipReplacement: [] } }
    const chip = (await benchOf(socket, [], 'none').act('look')) as { remedy: string }
    expect(chip.remedy).toMatch(/^Mains off\. Put the old chip back/)
  })
  it('of a chip that came ready is the one on its label', async () => {
    const chip = { image: null, pieces: [], chip: { label: 'QS 3.1', mark: 'red dot', version: '3.1' } }
    const made = benchOf(chip, [], 'wanted')
    expect(await made.act('look')).toBeNull()
    expect(made.asked[0]!.answers.at(-1)).toEqual({ id: 'wanted', says: '3.1' })
  })
})
