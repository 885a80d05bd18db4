import { describe, expect, it } from 'vitest'
import type { Finding } from '../kernel'
import { rehearse } from '../run/rehearsal.test-support'
import { foldWake, type RunState } from '../run'
import { cameTo, overtaken, standing, withRelease, type KeptRelease } from '.'

const hold = (rule: string, says: string, level: Finding['level'] = 'hold'): Finding => ({
  rule,
  level,
  says,
  because: '',
})
const release = (rule: string, says: string): KeptRelease => ({
  rule,
  says,
  name: 'M. Tarn',
  reason: 'agreed',
  at: 1,
})

// A person answers for what they read, and for nothing else (common practice).
describe('a release that a job keeps', () => {
  const kept = [release('way-back', 'There is no way back from 4.1.')]
  it('stands while the hold says the same', () => {
    expect(standing(kept, [hold('way-back', 'There is no way back from 4.1.')])).toEqual(kept)
    expect(overtaken(kept, [hold('way-back', 'There is no way back from 4.1.')])).toEqual([])
  })
  it('does not stand for other facts under the same rule; it is asked anew, and shown', () => {
    const now = [hold('way-back', 'There is no way back from 4.2.')]
    expect(standing(kept, now)).toEqual([])
    expect(overtaken(kept, now)).toEqual(kept)
  })
  it('does not stand where one of two holds of its rule says something else', () => {
    const now = [
      hold('way-back', 'There is no way back from 4.1.'),
      hold('way-back', 'There is no way back from 4.2.'),
    ]
    expect(standing(kept, now)).toEqual([])
  })
  it('of a note that may be waived stands the same way', () => {
    const note = [hold('way-back', 'There is no way back from 4.1.', 'note')]
    expect(standing(kept, note)).toEqual(kept)
    expect(standing(kept, [hold('way-back', 'There is no way back from 4.1.', 'go')])).toEqual([])
  })
  it('lets no stop pass, and is of no use where nothing holds', () => {
    const stop = [hold('way-back', 'There is no way back from 4.1.', 'stop')]
    for (const now of [stop, [], [hold('another', 'There is no way back from 4.1.')]]) {
      expect(standing(kept, now)).toEqual([])
      expect(overtaken(kept, now)).toEqual([])
    }
  })
  it('goes when the same hold is released once more', () => {
    const next = release('way-back', 'There is no way back from 4.2.')
    const other = release('version-direction', 'It is older.')
    expect(withRelease([...kept, other], next)).toEqual([other, next])
  })
})

describe('what a job came to (PRACTICE I3, J4)', () => {
  it('is said of every end', async () => {
    const { state: proved } = await rehearse()
    const said = (outcome: RunState['aftercare'][number]['outcome']): RunState => ({
      ...proved,
      aftercare: [{ item: 'horn', does: 'Sound the horn.', outcome, by: 'M. Tarn', at: 1 }],
    })
    expect(cameTo(proved)).toBe('fit-for-use')
    expect(cameTo(said('done'))).toBe('fit-for-use')
    expect(cameTo(said('not-needed'))).toBe('fit-for-use')
    expect(cameTo(said('failed'))).toBe('written-not-fit')
    const stopped = await rehearse({ says: () => 'stop' })
    expect(cameTo(stopped.state)).toBe('not-done')
    const half = await rehearse({ abandonAtByte: 4096 })
    expect(cameTo(half.state)).toBe('half-written')
    const { events, plan } = await rehearse()
    const cutIn = (kind: string) => {
      const step = plan.findIndex((each) => each.kind === kind)
      const end = events.findIndex(({ body }) => body.type === 'step.started' && body.step === step)
      return { ...foldWake(events.slice(0, end + 1))!, outcome: 'cut' as const }
    }
    expect(cameTo(cutIn('restart'))).toBe('written-not-proved')
    expect(cameTo(cutIn('verify'))).toBe('written-not-proved')
    expect(cameTo(cutIn('erase'))).toBe('half-written')
    expect(cameTo(cutIn('enter'))).toBe('not-done')
    expect(cameTo(null)).toBe('not-done')
    expect(cameTo(null, false)).toBe('nothing-to-do')
  })
})
