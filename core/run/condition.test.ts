import { describe, expect, it } from 'vitest'
import { conditionOf, goesOnFrom, goesOnWith, troubleAt } from '.'
import {
  cut,
  done,
  failed,
  folded,
  oneImage,
  opened,
  progress,
  started,
  step,
  type Spoken,
} from './fold.test-support'
import type { WakeBody } from './wake'

/* What a unit is after a run that did not reach its end, and where the next leg goes on. */

describe('the next leg', () => {
  const leg = (more: object = {}): WakeBody =>
    ({
      type: 'leg.opened',
      leg: 2,
      port: { id: 'serial:2', name: 'Second port', standIn: false },
      speed: 1,
      floorVolts: 11.8,
      releases: [],
      plan: oneImage,
      ...more,
    }) as never
  const first: Spoken[] = [
    opened({
      adapter: { id: 'a', name: 'Cable A', standing: 'genuine' },
      shed: ['Heater'],
      link: { id: 'l', name: 'Line' },
    }),
    started(5),
    progress(5, 100, 8000, { retries: 2 }),
    { type: 'note', step: 5, says: 'It hums.' },
    [9000, cut],
  ]
  it('keeps how the one before ended, and stands on its own bench', () => {
    const state = folded(...first, [20_000, leg({ goesOnAt: 96 })])
    expect(state.pastLegs).toEqual([
      {
        leg: 1,
        startedAt: 0,
        endedAt: 3000,
        outcome: 'cut',
        trouble: 'Cut in write at byte 100 of 8\u00a0000.',
        acknowledged: 100,
        retries: 1,
      },
    ])
    expect(state).toMatchObject({
      leg: 2,
      legAt: 20_000,
      startedAt: 0,
      outcome: 'running',
      left: 'half-written',
      pieces: ['part'],
      goesOnAt: 96,
      open: null,
      progress: null,
      acknowledged: 100,
      retries: [],
      questions: [],
      notes: [],
      problem: null,
    })
    expect(state).not.toHaveProperty('cutWhy')
    expect(state).not.toHaveProperty('endedAt')
    expect(state.facts).toMatchObject({ floorVolts: 11.8, port: { id: 'serial:2' }, unit: { id: 'unit-1' } })
    for (const gone of ['adapter', 'shed', 'link', 'plan', 'bench', 'leg'])
      expect(state.facts).not.toHaveProperty(gone)
  })
  it('keeps the page before the first write, and nothing that was judged of it', () => {
    const page = (when: 'before' | 'after'): WakeBody => ({
      type: 'snapshot',
      step: 0,
      when,
      snapshot: { at: 1 } as never,
    })
    const check = { type: 'verified', step: 6, outcome: 'different', expected: '', found: '' } as never
    const state = folded(opened(), page('before'), page('after'), check, failed(6), leg())
    expect(state).toMatchObject({
      before: { at: 1 },
      after: null,
      verified: null,
      compared: [],
      findings: [],
      problem: null,
    })
    expect(state.goesOnAt).toBeNull()
  })
  it('begins anew with each component where the one before was stopped before its first byte', () => {
    const also = [
      {
        component: { id: 'power', name: 'Power board' },
        image: { id: 'i', name: 'p', sha256: 'cd', bytes: 500 },
      },
    ]
    const plan = [
      step('enter', 1),
      step('write', 1, { piece: 0 }),
      step('write', 1, { piece: 1 }),
      step('restart', 1),
    ] as never
    const between = folded(opened({ also, plan }), started(1), done(1), cut, leg({ plan }))
    expect(between).toMatchObject({ left: 'between-components', pieces: ['whole', 'untouched'] })
    const restarted = folded(
      opened({ also, plan }),
      started(1),
      done(1),
      started(2),
      done(2),
      started(3),
      failed(3),
      leg({ plan }),
    )
    expect(restarted).toMatchObject({ left: 'new-firmware-not-proved', pieces: ['untouched', 'untouched'] })
  })
  it('that is opened after one without an end ends it at that moment', () => {
    expect(folded(opened(), started(5), [7000, leg()]).pastLegs[0]).toMatchObject({
      endedAt: 7000,
      outcome: 'cut',
    })
  })
})

// PRACTICE H7, common practice: what a unit is after a failure decides what is done with it.
describe('what the unit is then', () => {
  const after = (...bodies: Spoken[]) => conditionOf(folded(opened(), ...bodies, failed(0)))
  it.each([
    ['before anything', [started(0)], 'as-it-was'],
    ['in its bootloader', [started(2)], 'in-bootloader'],
    ['erased', [started(2), done(2), started(4)], 'half-written'],
    ['in the write', [started(5), progress(5, 100)], 'half-written'],
    ['after the last byte', [started(5), progress(5, 8000)], 'written-not-verified'],
    ['in the check', [started(5), done(5), started(6)], 'written-not-verified'],
    ['started', [started(5), done(5), started(6), done(6), started(7)], 'new-firmware-not-proved'],
  ] as [string, Spoken[], string][])('%s', (_, bodies, condition) => {
    expect(after(...bodies)).toBe(condition)
  })
  it('chip and card by what a person was about to do', () => {
    expect(conditionOf(folded(opened({ plan: [step('swap', 1)] as never }), started(0), failed(0)))).toBe(
      'chip-out',
    )
    expect(conditionOf(folded(opened({ plan: [step('media', 1)] as never }), started(0), failed(0)))).toBe(
      'taking-files',
    )
  })
  it('a proved one is proved, whatever its steps say', () => {
    expect(conditionOf(folded(opened(), started(5), { type: 'run.closed', outcome: 'proved' }))).toBe(
      'proved',
    )
  })
  it('the next leg that is stopped before its erase leaves what the first one left', () => {
    const leg = { ...(opened() as object), type: 'leg.opened', leg: 2 } as never
    expect(conditionOf(folded(opened(), started(5), progress(5, 100), cut, leg, started(2), failed(2)))).toBe(
      'half-written',
    )
    expect(conditionOf(folded(opened(), started(2), cut, leg, started(0), failed(0)))).toBe('as-it-was')
  })
  it('a reading leaves it in its bootloader until it was started again', () => {
    const plan = [step('enter', 1), step('backup', 1), step('restart', 1)] as never
    const reads = opened({ task: 'backup', plan } as never)
    expect(conditionOf(folded(reads, started(0), failed(0)))).toBe('in-bootloader')
    expect(conditionOf(folded(reads, started(0), done(0), started(2), done(2), failed(0)))).toBe('as-it-was')
    expect(conditionOf(folded(reads, started(0), { type: 'run.closed', outcome: 'done' }))).toBe('as-it-was')
  })
  it('a write goes on behind the last byte that was acknowledged, where a part is there', () => {
    const from = (...bodies: Spoken[]) => goesOnFrom(folded(opened(), ...bodies))
    expect(from(started(5), progress(5, 100), failed(5))).toBe(100)
    expect(from(started(5), progress(5, 100))).toBeNull()
    expect(from(started(5), failed(5))).toBeNull()
    expect(from(started(5), progress(5, 8000), failed(5))).toBeNull()
    expect(from(started(5), progress(5, 100), { type: 'run.closed', outcome: 'proved' })).toBeNull()
    expect(goesOnWith({ pieces: ['whole', 'part', 'untouched'] })).toBe(1)
    expect(goesOnWith({ pieces: ['whole', 'whole'] })).toBe(0)
  })
  it('is said in a sentence, in the write with its byte', () => {
    const says = (...bodies: Spoken[]) => troubleAt(folded(opened(), ...bodies))
    expect(says(started(5), progress(5, 1234), failed(5))).toBe(
      'The unit does not answer at byte 1\u00a0234 of 8\u00a0000.',
    )
    expect(says(started(2), failed(2))).toBe('The unit does not answer.')
    expect(says(started(2), cut)).toBe('Cut in enter.')
    expect(says(cut)).toBe('Cut.')
    expect(says(started(0), { type: 'run.closed', outcome: 'abandoned' })).toBe(
      'Stopped before the first byte. Nothing was written.',
    )
    expect(says(started(2), { type: 'run.closed', outcome: 'abandoned' })).toBe(
      'Stopped before the first byte. Nothing was written.',
    )
    expect(says(started(5), progress(5, 8), { type: 'run.closed', outcome: 'abandoned' })).toBe(
      'Abandoned at byte 8 of 8\u00a0000.',
    )
    expect(says(started(5))).toBeNull()
    expect(says({ type: 'run.closed', outcome: 'proved' })).toBeNull()
  })
})
