import { drivenLink } from '@bench-wake/core/family'
import { demoFamily } from '@bench-wake/demo'
import { expect, it } from 'vitest'
import { judgeOriginal } from '.'

// PRACTICE G4, common practice: some families ship a different image in every unit; in others one school skips the backup.
it.each([
  ['tide-logger', 'family', 'own', 'go', /is read out before the first write/],
  ['mains-relay', 'family', 'own', 'hold', /cannot read the original/],
  ['mains-relay', 'family', 'universal', 'go', /can be had again/],
  ['mains-relay', 'always', 'universal', 'note', /cannot read the original/],
  ['station-inverter', 'always', 'universal', 'go', /is read out before the first write/],
] as const)('%s, house %s, image %s: %s', (familyId, backup, firmware, level, says) => {
  const family = { ...demoFamily(familyId), backup: { firmware } }
  const [finding] = judgeOriginal(family, drivenLink(family)!, { backup }).findings
  expect(finding).toMatchObject({ level, says: expect.stringMatching(says) })
})
