import { describe, expect, it } from 'vitest'
import type { RunState } from './fold'
import { progressShare, retryMarks } from '.'

/** As much of a run as a bar is drawn from. */
const run = (form: { startedAt?: number; done?: number; at?: number; retries?: number[] }) =>
  ({
    open: 1,
    steps: [{ kind: 'erase' }, { kind: 'write', startedAt: form.startedAt }],
    progress: form.done === undefined ? null : { done: form.done, total: 1000, at: form.at },
    retries: [
      { step: 0, at: 1500, why: 'another step' },
      ...(form.retries ?? []).map((at) => ({ step: 1, at, why: '' })),
    ],
  }) as unknown as RunState

// Source: worked by hand.
describe('the bar of a step', () => {
  it('is as long as what is acknowledged', () => {
    expect(progressShare(run({ done: 250, at: 2000 }))).toBe(0.25)
    expect(progressShare(run({}))).toBe(0)
  })
  it('marks what was sent again at its place in time, and no other step’s', () => {
    // Half way in time of a step that is at a half: a quarter of the whole bar.
    expect(retryMarks(run({ startedAt: 1000, done: 500, at: 3000, retries: [2000] }))).toEqual([0.25])
    expect(retryMarks(run({ startedAt: 1000, done: 500, at: 3000, retries: [3500, 900] }))).toEqual([0.5, 0])
  })
  it('has no marks before it began', () => {
    expect(retryMarks(run({ done: 500, at: 3000, retries: [2000] }))).toEqual([])
    expect(retryMarks(run({ startedAt: 1000, retries: [2000] }))).toEqual([])
  })
})
