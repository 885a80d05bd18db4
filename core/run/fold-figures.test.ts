import { describe, expect, it } from 'vitest'
import { bytesPerSecond, openStepLeft, supplyNow, timeLeft } from '.'
import { cut, done, folded, opened, progress, started, step, type Spoken } from './fold.test-support'
import type { WakeBody } from './wake'

/* Time left, pace and supply of a run, worked by hand. */

describe('time left', () => {
  it('is all that is planned, hands included, before it begins; none when it is over', () => {
    // 1 + 6 + 2 + 3 + 0.5 + 4 + 10 + 3 + 1 + 2 s.
    expect(timeLeft(folded(opened()), 500)).toBe(32_500)
    expect(timeLeft(folded(opened(), cut), 500)).toBeNull()
  })
  it('leaves out what is done, and of the open step what has passed', () => {
    const state = folded(opened(), started(0), done(0), started(1))
    expect(timeLeft(state, 3000)).toBe(31_500)
    expect(timeLeft(state, 5000)).toBe(29_500)
    // A step that takes longer than it should has nothing left, and the others their own.
    expect(timeLeft(state, 60_000)).toBe(25_500)
  })
  const write = (more: object = {}) => opened({ plan: [step('write', 10_000, more)] as never })
  const left = (now: number, ...bodies: Spoken[]) => {
    const state = folded(...bodies)
    return openStepLeft(state, state.steps[0]!, now)
  }
  it('of a write goes by the plan before the first byte, by what was measured from a tenth on, and by both between', () => {
    expect(left(3000, write(), started(0))).toBe(8000)
    expect(left(3000, write(), started(0), progress(0, 0))).toBe(8000)
    // A tenth in 4 s: nine tenths in 36 s more, told 1 s ago.
    expect(left(6000, write(), started(0), [5000, progress(0, 800)])).toBeCloseTo(35_000, 6)
    // A twentieth in 4 s: half of 76 s and half of 9.5 s.
    expect(left(5000, write(), started(0), [5000, progress(0, 400)])).toBeCloseTo(42_750, 6)
    expect(left(90_000, write(), started(0), [5000, progress(0, 800)])).toBe(0)
  })
  it('counts what comes behind the last byte once, whatever was measured', () => {
    // Half in 4 s: 4 s more, and the tail of 2 s.
    expect(left(5000, write({ tailMs: 2000 }), started(0), [5000, progress(0, 4000)])).toBeCloseTo(6000, 6)
    // A twentieth in 4 s: half of 76 + 2 s and half of 0.95 × 8 + 2 s.
    expect(left(5000, write({ tailMs: 2000 }), started(0), [5000, progress(0, 400)])).toBeCloseTo(43_800, 6)
  })
  it('the pace is bytes by the time since the step began', () => {
    const pace = (...bodies: Spoken[]) => bytesPerSecond(folded(write(), ...bodies))
    expect(pace(started(0), [5000, progress(0, 800)])).toBe(200)
    expect(pace(started(0))).toBeNull()
    expect(pace(started(0), [1000, progress(0, 800)])).toBeNull()
    expect(pace(started(0), [5000, progress(0, 2, 8, { unit: 'sectors' })])).toBeNull()
    expect(pace(started(0), [5000, progress(0, 800)], done(0))).toBeNull()
  })
})

describe('the supply of a run', () => {
  const volts = (each: number | null): WakeBody => ({ type: 'supply', volts: each })
  it('never read is none; a silent meter is no reading', () => {
    expect(supplyNow(folded(opened(), volts(null)))).toBeNull()
    expect(folded(opened(), volts(12), volts(null), volts(11.9)).supply).toEqual([
      { at: 1000, volts: 12 },
      { at: 3000, volts: 11.9 },
    ])
  })
  it('is as it was read last, with the lowest of all and the floor', () => {
    expect(supplyNow(folded(opened(), volts(12), volts(11.2), volts(11.9)))).toEqual({
      now: 11.9,
      lowest: 11.2,
      atLastByte: null,
      floor: 11.5,
    })
  })
  it('is drawn on to the last byte by what was read in the write alone', () => {
    // Flat before the write; in it a tenth of a volt a second. 10 s are planned for the write, 6 are gone.
    const state = folded(
      opened({ plan: [step('erase', 1), step('write', 10_000), step('verify', 3000)] as never }),
      volts(13),
      volts(13),
      started(1),
      ...[12.6, 12.5, 12.4, 12.3, 12.2, 12.1].map(volts),
    )
    expect(supplyNow(state)!.atLastByte).toBeCloseTo(12.1 - 0.4, 9)
  })
  it('is not drawn on from the step that the load makes: a battery that bears it is not shown below its floor', () => {
    // Common practice: a battery gives way by a tenth of a volt as a load comes on, and stands there then.
    const plan = [step('write', 25_000)] as never
    const readings = [12.53, 12.47, 12.44, 12.44, 12.44].map(volts)
    for (let count = 0; count <= readings.length; count++)
      expect(
        supplyNow(folded(opened({ plan }), volts(12.53), started(0), ...readings.slice(0, count)))!
          .atLastByte,
      ).toBeNull()
    expect(
      supplyNow(folded(opened({ plan }), started(0), ...readings, volts(12.44)))!.atLastByte,
    ).toBeCloseTo(12.44, 9)
  })
  it('counts the writes that come behind it, and what lies between them; not what comes after', () => {
    const plan = [
      step('write', 10_000, { piece: 0 }),
      step('verify', 2000, { piece: 0 }),
      step('write', 5000, { piece: 1 }),
      step('restart', 9000),
    ] as never
    const readings = [12.6, 12.5, 12.4, 12.3, 12.2, 12.1].map(volts)
    const state = folded(opened({ plan }), started(0), ...readings)
    // 6 s gone of 10; 4 + 2 + 5 s to the last byte.
    expect(supplyNow(state)!.atLastByte).toBeCloseTo(12.1 - 1.1, 9)
    expect(supplyNow(folded(opened({ plan }), started(0), ...readings, done(0)))!.atLastByte).toBeNull()
    expect(
      supplyNow(folded(opened({ plan }), started(0), ...readings, done(0), started(1)))!.atLastByte,
    ).toBeNull()
  })
})
