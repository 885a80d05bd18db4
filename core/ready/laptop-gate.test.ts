import { describe, expect, it } from 'vitest'
import { judgeLaptopFor, laptopSayForMs } from '.'
import { clockSlackMs } from './isolation'

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
  it('of which nobody said when counts from now on; one that is longer gone never counts up', () => {
    const { at: _at, ...timeless } = battery
    expect(judgeLaptopFor(timeless, 25 * minute, [], at + laptopSayForMs).verdict).toBe('go')
    // A clock that was set back a little adds no minutes.
    expect(judgeLaptopFor(battery, 25 * minute, [], at - 1000).numbers['minutesLeft']).toBe(60)
  })
  it('said by a clock that stood ahead is not known: a reminder, whatever was said', () => {
    const mains = { onMains: true, minutesLeft: null, at }
    const judge = (now: number) => judgeLaptopFor(mains, minute, [], now).verdict
    expect(judge(at - clockSlackMs)).toBe('go')
    expect(judge(at - clockSlackMs - 1)).toBe('note')
  })
  it('with a bank lasts for both together, and with a bank of which alone is known for that', () => {
    // 50 Wh at 85 % (from memory: what a bank gives of what stands on it) over 25 W are 102 min; 60 of its own beside.
    const bank = { wattHours: 50, laptopWatts: 25 }
    const both = judgeLaptopFor({ ...battery, bank }, minute, [], at).numbers['minutesLeft']!
    const alone = judgeLaptopFor({ ...battery, minutesLeft: null, bank }, minute, [], at).numbers[
      'minutesLeft'
    ]!
    expect(both - alone).toBeCloseTo(60, 6)
    expect(alone).toBeCloseTo(102, 6)
    const none = judgeLaptopFor({ ...battery, bank: null }, minute, [], at).numbers['minutesLeft']
    expect(none).toBe(60)
  })
  it('of which neither mains nor minutes were said is no go', () => {
    const silent = { onMains: false, minutesLeft: null, at }
    expect(judgeLaptopFor(silent, minute, [], at).verdict).not.toBe('go')
  })
  it('has nothing to last for where nothing runs and nothing starts', () => {
    const gate = judgeLaptopFor({ onMains: false, minutesLeft: 1, at }, null, [], at)
    expect(gate).toMatchObject({ id: 'laptop', name: 'Laptop', verdict: 'go' })
    expect(gate.findings[0]!.because).not.toContain('Under way')
  })
  it('on mains it lasts for all of them; unsaid it is a reminder', () => {
    const task = [{ name: 'Davit', leftMs: 300 * minute }]
    expect(judgeLaptopFor({ onMains: true, minutesLeft: null }, minute, task, at).verdict).toBe('go')
    expect(judgeLaptopFor(undefined, minute, task, at).verdict).toBe('note')
  })
})
