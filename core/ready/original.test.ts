import { drivenLink } from '@bench-wake/core/family'
import { demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { judgeOriginal, readOnce, waivable, wantsOriginal } from '.'

// PRACTICE G4, common practice: some families ship a different image in every unit; in others one school skips the backup.
it.each([
  ['tide-logger', 'family', 'own', 'go', /is read out before the first write/],
  ['mains-relay', 'family', 'own', 'hold', /cannot read the original/],
  ['mains-relay', 'family', 'universal', 'go', /can be had again/],
  ['mains-relay', 'always', 'universal', 'note', /cannot read the original/],
  ['station-inverter', 'always', 'universal', 'go', /is read out before the first write/],
] as const)('%s, workshop %s, image %s: %s', (familyId, backup, firmware, level, says) => {
  const family = { ...demoFamily(familyId), backup: { firmware } }
  const [finding] = judgeOriginal(family, drivenLink(family)!, { backup }).findings
  expect(finding).toMatchObject({ level, says: expect.stringMatching(says) })
})

// PRACTICE G3, G5, common practice: what is left out is left out by a name and a reason, and nothing is held by it.
it('names what may be waived: a second reading, and settings that are kept elsewhere', () => {
  const radio = demoFamily('marine-radio')
  const radioGate = judgeOriginal(radio, drivenLink(radio)!, { backup: 'family' })
  const tide = demoFamily('tide-logger')
  const tideGate = judgeOriginal(tide, drivenLink(tide)!, { backup: 'family' })
  const rules = (gate: typeof radioGate) =>
    gate.findings.filter(({ rule }) => waivable.has(rule)).map(({ rule, level }) => [rule, level])
  expect(rules(radioGate)).toEqual([['settings-backup', 'note']])
  expect(rules(tideGate)).toEqual([['backup-once', 'note']])
})

// PRACTICE G1, G4: what this bench put in and proved needs no reading out; anything else does.
describe('what is known of the bytes in a unit', () => {
  const tide = demoFamily('tide-logger')
  const link = drivenLink(tide)!
  const judge = (
    known: { inside: string | null; original: string | null },
    backup: 'family' | 'always' = 'family',
  ) => judgeOriginal(tide, link, { backup }, known).findings
  it('is on the shelf where it was written and proved here, with or without its original', () => {
    const [finding, ...more] = judge({ inside: 'logger 2.1', original: null })
    expect(finding).toMatchObject({ rule: 'backup', level: 'go' })
    expect(finding!.says).toMatch(/nothing is read out/)
    expect(finding!.because).toBe(
      'This bench wrote logger 2.1 into it and proved it. What it came with was not kept.',
    )
    expect(more).toEqual([])
    expect(judge({ inside: 'logger 2.1', original: 'first' })[0]!.because).toMatch(
      /The original is kept: first\.$/,
    )
  })
  it('is read out all the same where the workshop always does', () => {
    const findings = judge({ inside: 'logger 2.1', original: null }, 'always')
    expect(findings[0]!.says).toMatch(/^The original is read out before the first write, twice/)
    expect(findings.map(({ rule }) => rule)).toContain('backup-once')
  })
  it('is read out beside an original that is kept, when something else came in', () => {
    const [finding] = judge({ inside: null, original: 'first' })
    expect(finding!.says).toMatch(/kept beside the original\.$/)
    expect(finding!.because).toMatch(/^The original is kept: first\. /)
  })
  it('decides whether a run reads first: the workshop, then the profile, then what is inside', () => {
    const own = { backup: { firmware: 'own' as const } }
    const universal = { backup: { firmware: 'universal' as const } }
    expect(wantsOriginal(own, {})).toBe(true)
    expect(wantsOriginal({}, {})).toBe(true)
    expect(wantsOriginal(universal, {})).toBe(false)
    expect(wantsOriginal(universal, { backup: 'always' })).toBe(true)
    expect(wantsOriginal(own, {}, { inside: 'logger 2.1' })).toBe(false)
    expect(wantsOriginal(own, { backup: 'always' }, { inside: 'logger 2.1' })).toBe(true)
    // A chip is read whole: it may hold more than its firmware.
    const chip = { ...link, drive: { speaks: 'spi-flash' } } as unknown as typeof link
    expect(wantsOriginal(universal, {}, {}, chip)).toBe(true)
    expect(wantsOriginal(universal, {}, {}, link)).toBe(false)
  })
  it('may be read once of a job that only reads out, and of no other', () => {
    expect(readOnce('read-out').map(({ rule }) => rule)).toEqual(['backup-once'])
    for (const task of ['write', 'check', 'codes', 'chip']) expect(readOnce(task)).toEqual([])
  })
})
it('a profile that says nothing of its image is treated as if each unit held its own', () => {
  const { backup: _backup, ...silent } = demoFamily('mains-relay')
  const [finding] = judgeOriginal(silent, drivenLink(demoFamily('mains-relay'))!, {
    backup: 'family',
  }).findings
  expect(finding).toMatchObject({ level: 'hold' })
  expect(finding!.because).toMatch(/does not say/)
  expect(finding!.remedy).toMatch(/answer for it by name/)
})
