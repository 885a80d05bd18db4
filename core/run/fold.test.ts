import { describe, expect, it } from 'vitest'
import { foldEvent, foldWake } from '.'
import {
  answered,
  asked,
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
  wake,
} from './fold.test-support'
import type { WakeBody } from './wake'

/* What a run is, event by event. */

describe('a wake', () => {
  it('without its first event is no run', () => {
    expect(foldWake([])).toBeNull()
    expect(foldWake(wake(started(0), done(0)))).toBeNull()
  })
  it('begins with all that is to be done, and nothing done', () => {
    const state = folded([5000, opened()])
    expect(state).toMatchObject({
      leg: 1,
      legAt: 5000,
      startedAt: 5000,
      seq: 1,
      at: 5000,
      outcome: 'running',
      open: null,
      left: 'as-it-was',
      pieces: ['untouched'],
      acknowledged: 0,
      goesOnAt: null,
    })
    expect(state.steps.map(({ state: is }) => is)).toEqual(oneImage.map(() => 'waiting'))
  })
  it('keeps what the bench was out of the fold', () => {
    const { facts } = folded(opened({ bench: {} as never, gates: [] }))
    expect(Object.keys(facts)).not.toContain('bench')
    expect(Object.keys(facts)).not.toContain('gates')
    expect(Object.keys(facts)).not.toContain('plan')
    expect(Object.keys(facts)).not.toContain('type')
  })
  it('an event that was folded before changes nothing; the state before never changes', () => {
    const events = wake(opened(), started(0), done(0))
    const two = foldWake(events.slice(0, 2))!
    const copy = structuredClone(two)
    expect(foldEvent(two, events[1]!)).toBe(two)
    expect(foldEvent(two, events[0]!)).toBe(two)
    expect(foldEvent(two, events[2]!)).not.toBe(two)
    expect(two).toEqual(copy)
  })
})

describe('a step', () => {
  it('is open from its start to its end, and each is timed', () => {
    const state = folded(opened(), started(0))
    expect(state.open).toBe(0)
    expect(state.steps[0]).toMatchObject({ state: 'open', startedAt: 1000 })
    expect(state.steps[1]).not.toHaveProperty('startedAt')
    const after = folded(opened(), started(0), done(0))
    expect(after.open).toBeNull()
    expect(after.steps[0]).toMatchObject({ state: 'done', startedAt: 1000, endedAt: 2000 })
  })
  it('begins without the progress of the one before', () => {
    expect(folded(opened(), started(5), progress(5, 100), done(5), started(6)).progress).toBeNull()
  })
  it('acknowledges bytes in a write, none of a backup, and none any more after an erase', () => {
    expect(folded(opened(), started(5), progress(5, 100)).acknowledged).toBe(100)
    expect(folded(opened(), started(1), progress(1, 900)).acknowledged).toBe(0)
    const dry = opened({ plan: [step('dry-run', 1000)] as never })
    expect(folded(dry, started(0), progress(0, 900)).acknowledged).toBe(0)
    const erased = folded(
      opened(),
      started(5),
      progress(5, 100),
      started(4),
      progress(4, 1, 4, { unit: 'sectors' }),
    )
    expect(erased.acknowledged).toBe(0)
    expect(erased.progress).toMatchObject({ done: 1, total: 4, unit: 'sectors' })
  })
  it('tells a block that was sent again when it was, once', () => {
    const again = (retries: number) => progress(5, 100, 8000, { retries })
    const state = folded(opened(), started(5), again(0), again(1), again(1), again(3))
    expect(state.retries.map(({ at, step: index }) => [at, index])).toEqual([
      [3000, 5],
      [5000, 5],
    ])
    expect(folded(opened(), started(2), { type: 'retry', step: 2, why: 'no answer' }).retries).toEqual([
      { at: 2000, step: 2, why: 'no answer' },
    ])
  })
})

describe('what of an image is in the unit', () => {
  const pieces = (...bodies: Spoken[]) => folded(opened(), ...bodies).pieces
  it('goes by erase, write and check', () => {
    expect(pieces(started(3), done(3))).toEqual(['untouched'])
    expect(pieces(started(4))).toEqual(['part'])
    expect(pieces(started(4), done(4))).toEqual(['part'])
    expect(pieces(started(5), progress(5, 7999))).toEqual(['part'])
    // The last byte is acknowledged before the step is over: nothing of it is missing then.
    expect(pieces(started(5), progress(5, 8000))).toEqual(['whole'])
    expect(pieces(started(5), done(5))).toEqual(['whole'])
    expect(pieces(started(6))).toEqual(['whole'])
    expect(pieces(started(6), done(6))).toEqual(['checked'])
    expect(pieces(started(6), done(6), started(7), done(7))).toEqual(['checked'])
  })
  it('is told of erased sectors that all are erased, and not that all is written', () => {
    expect(pieces(started(4), progress(4, 4, 4, { unit: 'sectors' }))).toEqual(['part'])
  })
  it('is kept apart for each component', () => {
    const also = [
      {
        component: { id: 'power', name: 'Power board' },
        image: { id: 'i', name: 'p', sha256: 'cd', bytes: 500 },
      },
    ]
    const plan = [step('write', 1, { piece: 0 }), step('write', 1, { piece: 1 })] as never
    expect(folded(opened({ also, plan }), started(1)).pieces).toEqual(['untouched', 'part'])
    expect(folded(opened({ also, plan }), started(0), done(0), started(1)).pieces).toEqual(['whole', 'part'])
  })
})

describe('a question', () => {
  it('stands until it is answered, and is timed', () => {
    const state = folded(opened(), started(2), asked(2))
    expect(state.prompt).toMatchObject({ prompt: 'power-up', says: 'Battery switch on.' })
    expect(state.prompt).not.toHaveProperty('type')
    const after = folded(opened(), started(2), asked(2), answered(2), asked(2), answered(2))
    expect(after.prompt).toBeNull()
    expect(after.questions).toEqual([
      { at: 2000, answeredAt: 3000, step: 2 },
      { at: 4000, answeredAt: 5000, step: 2 },
    ])
    const open = folded(opened(), started(2), asked(2), answered(2), asked(2))
    expect(open.questions).toEqual([
      { at: 2000, answeredAt: 3000, step: 2 },
      { at: 4000, step: 2 },
    ])
  })
})

describe('what was read and judged', () => {
  const snapshot = (version: string) =>
    ({ at: 1, source: 'link', lines: [{ field: 'version', label: 'Version', value: version }] }) as never
  const page = (when: 'before' | 'after', version: string, refused?: string): WakeBody => ({
    type: 'snapshot',
    step: 0,
    when,
    snapshot: snapshot(version),
    ...(refused ? { refused } : {}),
  })
  it('of the pages before the first counts, of those after the last', () => {
    const state = folded(
      opened(),
      page('before', '1'),
      page('before', '2'),
      page('after', '3'),
      page('after', '4'),
    )
    expect(state.before).toEqual(snapshot('1'))
    expect(state.after).toEqual(snapshot('4'))
  })
  it('a page of another unit counts for neither', () => {
    const state = folded(
      opened(),
      page('before', '1', 'another serial'),
      page('after', '2', 'another serial'),
    )
    expect(state).toMatchObject({ before: null, after: null })
  })
  const check = (outcome: string, type: 'verified' | 'held-against' = 'verified'): WakeBody =>
    ({ type, step: 6, outcome, expected: 'a', found: 'b' }) as never
  it('of several checks the weakest counts, whichever came last', () => {
    expect(folded(opened(), check('equal-read-back'), check('version-only')).verified!.outcome).toBe(
      'version-only',
    )
    expect(folded(opened(), check('different'), check('equal-read-back')).verified!.outcome).toBe('different')
    const held = folded(
      opened(),
      check('different', 'held-against'),
      check('equal-read-back', 'held-against'),
    )
    expect(held.heldAgainst!.outcome).toBe('different')
    expect(held.verified).toBeNull()
  })
  it('a check that is begun again is judged again, and only that', () => {
    const both: Spoken[] = [opened(), check('different'), check('different', 'held-against')]
    expect(folded(...both, started(6))).toMatchObject({
      verified: null,
      heldAgainst: { outcome: 'different' },
    })
    expect(folded(...both, started(3))).toMatchObject({
      verified: { outcome: 'different' },
      heldAgainst: null,
    })
    expect(folded(...both, started(5))).toMatchObject({
      verified: { outcome: 'different' },
      heldAgainst: { outcome: 'different' },
    })
  })
  it('findings, compared lines, notes, faults and backups are kept as they were said', () => {
    const finding = { rule: 'r' } as never
    expect(folded(opened(), { type: 'findings', step: 0, findings: [finding] }).findings).toEqual([finding])
    const compared = folded(opened(), {
      type: 'compared',
      step: 8,
      rows: [{ field: 'v' } as never],
      findings: [finding],
    })
    expect(compared).toMatchObject({ compared: [{ field: 'v' }], findings: [{ rule: 'r' }] })
    expect(folded(opened(), { type: 'note', step: 0, says: 'It hums.' }).notes).toEqual([
      { at: 1000, says: 'It hums.' },
    ])
    expect(folded(opened(), { type: 'faults', step: 8, before: 'E4', after: '' }).faults).toEqual({
      step: 8,
      before: 'E4',
      after: '',
    })
    const backup = { step: 1, name: 'flash', address: 0, bytes: 4, sha256: 'ef', reads: 2, findings: [] }
    expect(folded(opened(), { type: 'backup', ...backup }, { type: 'backup', ...backup }).backups).toEqual([
      backup,
      backup,
    ])
  })
  it('of what is due afterwards the newest word on each counts', () => {
    const care = (item: string, outcome: 'done' | 'failed'): WakeBody => ({
      type: 'aftercare',
      item,
      does: 'function-test',
      outcome,
      by: 'M. Tarn',
    })
    const { aftercare } = folded(
      opened(),
      care('turns', 'failed'),
      care('stops', 'done'),
      care('turns', 'done'),
    )
    expect(aftercare.map(({ item, outcome, at }) => [item, outcome, at])).toEqual([
      ['stops', 'done', 2000],
      ['turns', 'done', 3000],
    ])
  })
})

describe('an end', () => {
  it('that failed leaves its step broken, and asks nothing any more', () => {
    const warned: WakeBody = { type: 'supply-warning', step: 5, volts: 11.2, atLastByte: 10.9 }
    const before = folded(opened(), started(5), asked(5), warned)
    expect(before.supplyWarning).toEqual({ at: 3000, volts: 11.2, atLastByte: 10.9 })
    const state = folded(opened(), started(5), asked(5), warned, failed(5))
    expect(state).toMatchObject({
      outcome: 'failed',
      endedAt: 4000,
      open: null,
      prompt: null,
      supplyWarning: null,
    })
    expect(state.problem).toMatchObject({ kind: 'link' })
    expect(state.steps[5]).toMatchObject({ state: 'broken', endedAt: 4000 })
    expect(state.steps[4]!.state).toBe('waiting')
  })
  it('that was cut was so when the last was heard of it, and not when it was found', () => {
    const state = folded(opened(), started(5), progress(5, 100), [90_000, cut])
    expect(state).toMatchObject({ outcome: 'cut', endedAt: 2000, cutWhy: 'the program ended' })
    expect(state.steps[5]).toMatchObject({ state: 'broken', endedAt: 2000 })
  })
  it.each(['proved', 'done'] as const)('that is %s breaks nothing', (outcome) => {
    const state = folded(opened(), started(8), { type: 'run.closed', outcome })
    expect(state).toMatchObject({ outcome, endedAt: 2000, open: null })
    expect(state.steps.some(({ state: is }) => is === 'broken')).toBe(false)
  })
  it('that was abandoned leaves the open step broken, between two steps none', () => {
    const away: WakeBody = { type: 'run.closed', outcome: 'abandoned' }
    expect(folded(opened(), started(5), away).steps[5]!.state).toBe('broken')
    expect(folded(opened(), started(4), done(4), away).steps.every(({ state: is }) => is !== 'broken')).toBe(
      true,
    )
  })
  it('a warning that is over is none', () => {
    const over: WakeBody = { type: 'supply-warning', step: 5, volts: null, atLastByte: null }
    expect(folded(opened(), { ...over, volts: 11.1 }, over).supplyWarning).toBeNull()
  })
})
