import { virtualClock } from '@bench-wake/core/kernel'
import { describe, expect, it } from 'vitest'
import { nextTurn, paceOf } from './host-time'

/** A host whose timers keep whole milliseconds only, and nothing below one. */
function coarseHost(start = 0) {
  let now = start
  return {
    now: () => now,
    after(ms: number, act: () => void) {
      now += Math.max(1, Math.ceil(ms))
      void Promise.resolve().then(act)
      return () => {}
    },
    pass: (ms: number) => (now += ms),
  }
}

describe('the pace of a stand-in', () => {
  it.each([1, 10, 60])(
    'at %i times real time keeps to the whole, in steps of a fraction of a millisecond',
    async (speed) => {
      const host = coarseHost()
      const clock = virtualClock(nextTurn, 0, paceOf(speed, host))
      for (let step = 0; step < 5000; step++) await clock.sleep(0.3)
      expect(clock.now()).toBeCloseTo(1500, 6)
      // A host that waits a millisecond for each of them would need 5 000.
      expect(Math.abs(host.now() - 1500 / speed)).toBeLessThan(4)
    },
  )
  it('does not hurry after a pause that a person made', async () => {
    const host = coarseHost()
    const pace = paceOf(1, host)
    await pace(100)
    host.pass(60_000)
    const from = host.now()
    await pace(100)
    expect(host.now() - from).toBeGreaterThanOrEqual(100)
  })
})
