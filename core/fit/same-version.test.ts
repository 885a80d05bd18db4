import { demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { judgeFit } from '.'
import { componentOf } from '../family'
import type { ImageIdentity } from '../image'
import type { UnitFacts } from '../unit'

// PRACTICE B2, K1, common practice: one version has come with other bytes; what it is comes from the content.
describe('the version that the unit has, again', () => {
  const family = demoFamily('fog-signal')
  const component = componentOf(family)
  const judge = (has: string | undefined, brings: string | undefined) => {
    const unit: UnitFacts = {
      deviceIdentifier: 'FS-20',
      hardware: '3.1',
      hardwareMajor: 3,
      versions: { main: '2.48' },
      ...(has === undefined ? {} : { digests: { main: has } }),
    }
    const identity = { familyId: family.id, componentId: 'main', version: '2.48' } as ImageIdentity
    const image = {
      name: 'x.hex',
      segments: [],
      identity,
      ...(brings === undefined ? {} : { contentSha256: brings }),
    }
    return judgeFit({ family, component, unit, image }).findings.find(
      ({ rule }) => rule === 'version-direction',
    )
  }
  const [one, other] = ['a'.repeat(64), 'b'.repeat(64)]
  it('the same bytes: nothing to do', () => {
    expect(judge(one, one)).toMatchObject({
      level: 'hold',
      says: 'Nothing to do: the unit already has 2.48, byte for byte.',
    })
  })
  it('other bytes: it may be written, and both digests are told', () => {
    expect(judge(one, other)).toMatchObject({
      level: 'note',
      says: 'The unit has 2.48 too, with other bytes.',
      because: 'Digest aaaaaaaaaaaa… on the unit, bbbbbbbbbbbb… in the image.',
    })
  })
  it('where either is not known it is held as before', () => {
    for (const [has, brings] of [
      [undefined, one],
      [one, undefined],
      [undefined, undefined],
    ])
      expect(judge(has, brings)).toMatchObject({
        level: 'hold',
        says: 'Nothing to do: the unit already has 2.48.',
      })
  })
})
