import { demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import type { ImageIdentity } from '../image'
import { judgeImage, neighboursOf, usualWorkshopRules, WorkshopRules } from '.'
import * as v from 'valibot'
import { plainName } from './neighbours'

/* What is said of an image before any unit is named (PRACTICE B1, B2, B4, B6). */

const fog = demoFamily('fog-signal')
const main = fog.components.find(({ id }) => id === 'main')!
const identity = (change: object = {}): ImageIdentity =>
  ({
    familyId: fog.id,
    componentId: 'main',
    deviceIdentifier: fog.hardware.deviceIdentifier,
    hardwareMajor: 3,
    version: '2.48',
    release: 'production',
    ...change,
  }) as unknown as ImageIdentity
const said = (own: ImageIdentity | null, around: Parameters<typeof judgeImage>[2] = {}) =>
  judgeImage(own, [demoFamily('boat-davit'), fog], around)
const rules = (...from: Parameters<typeof said>) => said(...from).map(({ rule, level }) => `${rule} ${level}`)
const of = (rule: string, ...from: Parameters<typeof said>) =>
  said(...from).find((finding) => finding.rule === rule)

describe('an image on the shelf', () => {
  it('that a profile knows says whose it is, and nothing else', () => {
    expect(rules(identity())).toEqual(['image-known go'])
    expect(of('image-known', identity())!.says).toBe(`${main.name} of a ${fog.name}, hardware 3.`)
    expect(of('image-known', identity())).not.toHaveProperty('remedy')
    expect(of('image-known', identity({ componentId: 'horn', hardwareMajor: undefined }))!.says).toBe(
      `horn of a ${fog.name}, hardware not known.`,
    )
  })
  it.each([
    ['without an identity', null],
    ['of a family that is not here', identity({ familyId: 'other' })],
  ])('%s is held, with what to do', (_, own) => {
    expect(rules(own)).toEqual(['image-known hold'])
    expect(of('image-known', own)!.says).toBe('No family profile knows this image.')
    expect(of('image-known', own)!.remedy).toMatch(/^Load the profile/)
  })
  it('that a person told what it is is held until its digest was compared', () => {
    const own = identity({ toldBy: 'person', statement: { by: 'T. Reader', from: 'the label' } })
    expect(rules(own)).toEqual(['image-known hold'])
    expect(of('image-known', own)!.remedy).toMatch(/digest/)
  })
  it('whose ways to know it contradict each other says so', () => {
    expect(rules(identity({ contradictions: ['the text says 2.47'] })).slice(1)).toEqual([
      expect.stringMatching(/^ways-agree (hold|stop)$/),
    ])
  })
  it.each([
    [
      'issued for one serial',
      { serial: 'FS3-00417' },
      'issued-serial note',
      /^Issued for FS3-00417 alone\.$/,
    ],
    ['of a look-alike', { deviceIdentifier: 'FS-21' }, 'look-alike hold', /^It is for FS-21, not for /],
    [
      'that is damaged',
      { intact: { ok: false, expected: 0x1234, found: 0xabcd } },
      'image-intact stop',
      /^The image is damaged/,
    ],
    ['of a test', { release: 'test' }, 'test-release note', /^This is a test release\.$/],
  ])('%s', (_, change, due, says) => {
    const own = identity(change)
    expect(rules(own)).toEqual(['image-known go', due])
    const [rule] = due.split(' ')
    expect(of(rule!, own)!.says).toMatch(says)
    expect(of(rule!, own)!.because).toMatch(/\S/)
    expect(of(rule!, own)!.remedy).toMatch(/\S/)
  })
  it('shows both checksums of a damaged one, in eight digits', () => {
    expect(
      of('image-intact', identity({ intact: { ok: false, expected: 0x1234, found: 0xabcd } }))!.because,
    ).toBe('CRC-32 in the image 00001234, over its bytes 0000ABCD.')
    expect(rules(identity({ intact: { ok: true, expected: 1, found: 1 } }))).toEqual(['image-known go'])
  })
  it.each([
    ['otherNames', ['a.hex', 'b.hex'], 'same-bytes note', 'The same image as a.hex, b.hex.'],
    ['twins', ['c.hex', 'd.hex'], 'twin-name note', 'Not the same as c.hex, d.hex, though the names are.'],
    [
      'sameVersion',
      ['e.hex', 'f.hex'],
      'same-version hold',
      'e.hex, f.hex says the same version and holds other bytes.',
    ],
  ])('with %s around it', (around, names, due, says) => {
    expect(rules(identity(), { [around]: names })).toEqual(['image-known go', due])
    expect(of(due.split(' ')[0]!, identity(), { [around]: names })!.says).toBe(says)
    expect(rules(identity(), { [around]: [] })).toEqual(['image-known go'])
  })
  it('whose address nobody knows is held', () => {
    expect(rules(identity(), { placed: 'not-known' })).toEqual(['image-known go', 'address hold'])
    expect(rules(identity(), { placed: 'said' as never })).toEqual(['image-known go'])
  })
  it('whose manifest speaks of another is stopped, with every difference', () => {
    const claim = { version: '2.47' } as NonNullable<Parameters<typeof judgeImage>[2]>['claim']
    expect(rules(identity(), claim === undefined ? {} : { claim })).toEqual([
      'image-known go',
      'manifest-agrees stop',
    ])
    expect(of('manifest-agrees', identity(), { claim: claim ?? null })!.because).toMatch(/2\.47.*\.$/)
    expect(rules(identity(), { claim: { version: '2.48' } as never })).toEqual(['image-known go'])
    expect(rules(null, { claim: claim ?? null })).toEqual(['image-known hold'])
  })
})

describe('a name that a browser or a file manager changed (common practice)', () => {
  it.each([
    ['Update (2).HEX', 'update.hex'],
    ['update(12).hex', 'update.hex'],
    ['update (999)', 'update'],
    ['update - copy.hex', 'update.hex'],
    ['update-copy.hex', 'update.hex'],
    ['update - Copy (3).hex', 'update.hex'],
    ['update - copy(12).hex', 'update.hex'],
    ['update (1000).hex', 'update (1000).hex'],
    ['update (2) final.hex', 'update (2) final.hex'],
    ['copy of update.hex', 'copy of update.hex'],
    ['update (2).firmware', 'update (2).firmware'],
  ])('%s is %s', (name, plain) => {
    expect(plainName(name)).toBe(plain)
  })
})

describe('neighbours on the shelf', () => {
  const on = (id: string, names: string[], own: ImageIdentity | null = null) => ({ id, names, identity: own })
  it('are twins by name, and the same version by all that tells a build apart', () => {
    const found = neighboursOf([
      on('a', ['update.hex', 'first.hex'], identity()),
      on('b', ['update (2).hex', 'Update (2).hex'], identity()),
      on('c', [], identity({ hardwareMajor: 2 })),
      on('d', ['other.bin'], identity({ version: undefined })),
      on('e', ['nothing.bin']),
    ])
    expect(found.get('a')).toEqual({
      otherNames: ['first.hex'],
      twins: ['update (2).hex'],
      sameVersion: ['update (2).hex'],
    })
    expect(found.get('b')).toEqual({
      otherNames: ['Update (2).hex'],
      twins: ['update.hex'],
      sameVersion: ['update.hex'],
    })
    expect(found.get('c')).toEqual({ otherNames: [], twins: [], sameVersion: [] })
    expect(found.get('d')).toEqual({ otherNames: [], twins: [], sameVersion: [] })
    expect(found.get('e')).toEqual({ otherNames: [], twins: [], sameVersion: [] })
  })
  it.each([
    ['componentId', 'horn'],
    ['deviceIdentifier', 'FS-21'],
    ['hardwareMajor', 2],
    ['model', 'X'],
    ['variant', 'low'],
    ['serial', 'FS3-1'],
    ['release', 'test'],
    ['version', '2.49'],
  ])('are not the same version where %s differs', (member, value) => {
    const found = neighboursOf([
      on('a', ['a.hex'], identity()),
      on('b', ['b.hex'], identity({ [member]: value })),
    ])
    expect(found.get('a')!.sameVersion).toEqual([])
  })
  it('that came without a name are still told', () => {
    const found = neighboursOf([on('a', ['a.hex'], identity()), on('b', [], identity())])
    expect(found.get('a')!.sameVersion).toEqual(['an image'])
  })
})

describe('the workshop’s rules', () => {
  it('are what they are where nobody said anything', () => {
    expect(usualWorkshopRules).toEqual({ update: 'cure', hops: 'sequential', adapters: 'any' })
    expect(v.parse(WorkshopRules, { update: 'current', hops: 'direct' })).toEqual({
      update: 'current',
      hops: 'direct',
      adapters: 'any',
    })
  })
  it.each([
    { update: 'cure', hops: 'sequential', adapters: 'own', backup: 'always' },
    { update: 'current', hops: 'direct', adapters: 'any', backup: 'family' },
  ])('take each of their words: %j', (said_) => {
    expect(v.parse(WorkshopRules, said_)).toEqual(said_)
  })
  it.each([{ update: '' }, { hops: '' }, { adapters: '' }, { backup: '' }, { more: 1 }])(
    'take no other: %j',
    (change) => {
      expect(v.safeParse(WorkshopRules, { ...usualWorkshopRules, ...change }).success).toBe(false)
    },
  )
})
