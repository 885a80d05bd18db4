import { describe, expect, it } from 'vitest'
import { judgeLaptopFor } from '.'

const minute = 60_000
const at = Date.UTC(2026, 10, 24, 8)

// PRACTICE D3, common practice: any stop of the laptop is as bad as one of the unit; twice the run is wanted.
describe('one laptop for every run', () => {
  const battery = { onMains: false, minutesLeft: 60, at }
  it('has to last for the longest of them, not for the one at hand', () => {
    const alone = judgeLaptopFor(battery, 10 * minute, [], at)
    expect(alone.verdict).toBe('go')
    const beside = judgeLaptopFor(battery, 10 * minute, [{ name: 'Davit', leftMs: 40 * minute }], at)
    expect(beside.verdict).toBe('hold')
    expect(beside.numbers['wantedMinutes']).toBe(80)
    expect(beside.findings[0]!.because).toMatch(/Under way: Davit, 40 min/)
    const stop = judgeLaptopFor(battery, 10 * minute, [{ name: 'Davit', leftMs: 61 * minute }], at)
    expect(stop.verdict).toBe('stop')
  })
  it('counts down from when it was said', () => {
    expect(judgeLaptopFor(battery, 25 * minute, [], at).verdict).toBe('go')
    expect(judgeLaptopFor(battery, 25 * minute, [], at + 20 * minute).verdict).toBe('hold')
    expect(judgeLaptopFor(battery, 25 * minute, [], at + 90 * minute).numbers['minutesLeft']).toBe(0)
  })
  it('on mains it lasts for all of them; unsaid it is a reminder', () => {
    const task = [{ name: 'Davit', leftMs: 300 * minute }]
    expect(judgeLaptopFor({ onMains: true, minutesLeft: null }, minute, task, at).verdict).toBe('go')
    expect(judgeLaptopFor(undefined, minute, task, at).verdict).toBe('note')
  })
})
