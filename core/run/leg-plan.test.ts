import { describe, expect, it } from 'vitest'
import { legPlan, powerStood, type RunState, type Step, type StepKind } from '.'

/* PRACTICE H6, H7, common practice: a half-written unit is not powered down, and is asked only what is still needed. */

const order: StepKind[] = [
  'power-up',
  'connect',
  'identify',
  'settings',
  'enter',
  'backup',
  'compare',
  'dry-run',
  'erase',
  'write',
  'verify',
  'restart',
  'prove',
  'faults',
]
const plan = order.map((kind): Step => ({
  kind,
  says: kind,
  predictedMs: 1000,
  personMs: kind === 'power-up' ? 90_000 : 0,
  handsOff: false,
}))

/** A run whose last leg broke off in a step. */
function brokeIn(kind: StepKind, more: Partial<RunState> = {}): RunState {
  const at = order.indexOf(kind)
  return {
    facts: {} as RunState['facts'],
    outcome: 'cut',
    left: 'as-it-was',
    pieces: [at < order.indexOf('erase') ? 'untouched' : at < order.indexOf('verify') ? 'part' : 'whole'],
    verified: null,
    progress: null,
    steps: plan.map((step, index) => ({
      ...step,
      state: index < at ? 'done' : index === at ? 'broken' : 'waiting',
      ...(index <= at ? { startedAt: index } : {}),
    })),
    ...more,
  } as RunState
}
const equal = { outcome: 'equal-checksum', by: 'CRC-32', expected: '', found: '' } as const
const kindsOf = (state: RunState) => legPlan(plan, state).map(({ kind }) => kind)

describe('the plan of the next leg', () => {
  it('begins anew where nothing was touched', () => {
    for (const kind of ['power-up', 'connect', 'identify', 'settings'] as const) {
      expect(kindsOf(brokeIn(kind)), kind).toEqual(order)
      expect(powerStood(brokeIn(kind)), kind).toBe(false)
    }
    expect(legPlan(plan, brokeIn('connect'))[0]!.personMs).toBe(90_000)
  })
  it('asks for the settings again while nothing is erased, and for power in one question', () => {
    for (const kind of ['enter', 'backup', 'compare', 'dry-run'] as const) {
      expect(kindsOf(brokeIn(kind)), kind).toEqual(order)
      expect(powerStood(brokeIn(kind)), kind).toBe(true)
      expect(legPlan(plan, brokeIn(kind))[0]!.personMs, kind).toBeLessThan(90_000)
    }
  })
  it('asks for nothing that is erased', () => {
    for (const kind of ['erase', 'write', 'verify'] as const) {
      const kinds = kindsOf(brokeIn(kind))
      for (const gone of ['settings', 'backup', 'compare', 'dry-run'] as const)
        expect(kinds, `${kind}: ${gone}`).not.toContain(gone)
      for (const left of ['enter', 'erase', 'write', 'verify', 'restart', 'prove'] as const)
        expect(kinds, `${kind}: ${left}`).toContain(left)
      expect(powerStood(brokeIn(kind)), kind).toBe(true)
    }
  })
  it('only proves where the check was equal and the restart had begun', () => {
    const kinds = ['power-up', 'connect', 'identify', 'restart', 'prove', 'faults']
    expect(kindsOf(brokeIn('restart', { verified: equal }))).toEqual(kinds)
    expect(kindsOf(brokeIn('prove', { verified: equal }))).toEqual(kinds)
    // And so a leg that was itself only to prove.
    const short = brokeIn('prove')
    short.steps = short.steps.filter(({ kind }) => kinds.includes(kind))
    expect(kindsOf(short)).toEqual(kinds)
  })
  it('writes again where the check was not equal, or where the proof itself failed', () => {
    for (const outcome of ['different', 'not-comparable', 'version-only'] as const)
      expect(
        kindsOf(brokeIn('restart', { verified: { outcome, expected: '', found: '' } })),
        outcome,
      ).toContain('write')
    expect(kindsOf(brokeIn('restart'))).toContain('write')
    expect(kindsOf(brokeIn('prove', { verified: equal, outcome: 'failed' }))).toContain('write')
  })
  it('asks of power alone whether it stands, with a person’s time for one look', () => {
    const [power, ...others] = legPlan(plan, brokeIn('write'))
    expect(power).toMatchObject({ kind: 'power-up', says: 'Power as it stood for the leg before' })
    // A look at one switch: 10 s (common practice).
    expect(power!.personMs).toBe(10_000)
    for (const step of others) expect(step).toMatchObject({ says: step.kind, personMs: 0 })
    // Where nothing is touched yet, the order is gone through as it was told.
    expect(legPlan(plan, brokeIn('connect'))[0]!.says).toBe('power-up')
  })
  it('of several components writes those anew that were not checked, and only those', () => {
    const two = [
      ...plan.slice(0, 5),
      ...[0, 1].flatMap((piece) =>
        (['erase', 'write', 'verify'] as const).map((kind) => ({ ...plan[0]!, kind, says: kind, piece })),
      ),
      ...plan.slice(-3),
    ]
    const broken = two.findIndex(({ kind, piece }) => kind === 'write' && piece === 1)
    const state = (pieces: RunState['pieces']) =>
      ({
        ...brokeIn('write'),
        pieces,
        steps: two.map((step, index) => ({
          ...step,
          state: index < broken ? 'done' : index === broken ? 'broken' : 'waiting',
          ...(index <= broken ? { startedAt: index } : {}),
        })),
      }) as RunState
    const left = (pieces: RunState['pieces']) =>
      legPlan(two, state(pieces)).flatMap(({ kind, piece }) =>
        piece === undefined ? [] : [`${kind} ${piece}`],
      )
    expect(left(['checked', 'part'])).toEqual(['verify 0', 'erase 1', 'write 1', 'verify 1'])
    const all = ['erase 0', 'write 0', 'verify 0', 'erase 1', 'write 1', 'verify 1']
    for (const first of ['untouched', 'erased', 'part', 'whole'] as const)
      expect(left([first as RunState['pieces'][number], 'part']), first).toEqual(all)
  })
  it('of one that was proved is the whole of it, as a new write', () => {
    expect(legPlan(plan, brokeIn('faults', { outcome: 'proved', verified: equal }))).toEqual(plan)
  })
  it('of a chip in its socket is the whole of it, mains off first', () => {
    const swap = (['power-up', 'swap', 'look'] as const).map((kind): Step => ({ ...plan[0]!, kind }))
    const state = {
      ...brokeIn('connect'),
      steps: swap.map((step, index) => ({
        ...step,
        state: index === 1 ? 'broken' : index ? 'waiting' : 'done',
        startedAt: 1,
      })),
    } as RunState
    expect(legPlan(swap, state)).toEqual(swap)
    expect(powerStood(state)).toBe(false)
  })
})
