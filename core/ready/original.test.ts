import { drivenLink } from '@bench-wake/core/family'
import { demoFamily } from '@bench-wake/demo'
import { expect, it } from 'vitest'
import { judgeOriginal, waivable } from '.'

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
