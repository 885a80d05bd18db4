import { demoFamilies, demoFamily } from '@bench-wake/demo'
import { createHash } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { checkFamily, type Family } from '../family'
import { asciiBytes } from '../kernel'
import {
  byPerson,
  identifyImage,
  mergeIdentities,
  readImageFile,
  withClaim,
  type ImageIdentity,
  type ManifestClaim,
  type MemoryMap,
} from '.'

/*
 * How an image is known that carries no identity block (LINKS.md, "Image without a label inside"). Expected values are
 * written by hand; digests are made by Node's own hash.
 */

const fog = demoFamily('fog-signal')
const demoDocument = demoFamilies.find(({ id }) => id === 'fog-signal')!
/** The fog signal as one whose images carry no block. */
function unlabelled(
  change: { versionText?: string[]; releases?: Family['releases']; id?: string } = {},
): Family {
  const { identity: _identity, ...component } = fog.components[0]!
  const { versionText, releases, id = 'bare' } = change
  return {
    ...fog,
    id,
    components: [{ ...component, ...(versionText ? { versionText } : {}) }],
    ...(releases ? { releases } : {}),
  }
}
const start = 0x0800_8000
const holding = (...texts: string[]): MemoryMap => {
  const bytes = new Uint8Array(0x1000).fill(0xff)
  texts.forEach((text, index) => bytes.set(asciiBytes(text), 0x100 * (index + 1)))
  return [{ address: start, bytes }]
}
const sha256 = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex')

describe('a text around the version', () => {
  const family = unlabelled({ versionText: ['HORN FW v{version} '] })
  it('tells family, part and version, wherever it stands', () => {
    expect(identifyImage(holding('HORN FW v2.48 built yesterday'), [family])).toEqual({
      familyId: 'bare',
      componentId: 'main',
      toldBy: 'text',
      version: '2.48',
    })
  })
  it.each([
    ['without its end', 'HORN FW v2.48'],
    ['with bytes that cannot be printed', 'HORN FW v\x012.48 '],
    ['with nothing in the slot', 'HORN FW v '],
    ['in other letters', 'Horn FW v2.48 '],
  ])('is not taken %s', (_, text) => {
    expect(identifyImage(holding(text), [family])).toBeNull()
  })
  it('may name the hardware too, and end with the text', () => {
    const two = unlabelled({ versionText: ['HORN r{hardware} v{version}'] })
    expect(identifyImage(holding('HORN r3.1 v2.48\0junk'), [two])).toMatchObject({
      version: '2.48',
      hardwareMajor: 3,
    })
  })
  it('that stands there twice with two versions tells none, and says so', () => {
    const found = identifyImage(holding('HORN FW v2.48 ', 'HORN FW v2.41 '), [family])!
    expect(found.version).toBeUndefined()
    expect(found.contradictions!.join()).toMatch(/2\.48 and 2\.41/)
  })
  it('that two profiles know is nobody’s for certain', () => {
    const twin = { ...family, id: 'twin' }
    expect(identifyImage(holding('HORN FW v2.48 '), [family, twin])!.contradictions!.join()).toMatch(
      /bare, main or of twin, main/,
    )
  })
  it.each([
    ['FW {hardware} ', /Write \{version\}/],
    ['v{version} ', /At least 4 characters/],
    ['HORN {version} {colour}', /Only \{version\} and \{hardware\}/],
  ])('%s is refused in a profile, at its place', (template, says) => {
    const document = JSON.parse(JSON.stringify(plain())) as { components: { versionText?: string[] }[] }
    document.components[0]!.versionText = [template]
    const { faults } = checkFamily(document)
    expect(faults.map(({ at }) => at)).toContain('components.0.versionText.0')
    expect(faults[0]!.says).toMatch(says)
  })
})

describe('the profile’s list of releases', () => {
  const memory = holding('nothing that tells it')
  const { bytes } = memory[0]!
  const digest = sha256(bytes)
  const release = { sha256: digest, version: '2.48', hardware: 3, date: '2026-03-31' }
  it('tells an image by its digest', () => {
    expect(identifyImage(memory, [unlabelled({ releases: [release] })], ['00', digest])).toEqual({
      familyId: 'bare',
      componentId: 'main',
      toldBy: 'release',
      version: '2.48',
      hardwareMajor: 3,
      buildTime: Date.UTC(2026, 2, 31),
    })
  })
  it('tells nothing of an image that differs in one bit, or whose digest nobody made', () => {
    const altered = bytes.map((byte, index) => (index === 7 ? byte ^ 1 : byte))
    const families = [unlabelled({ releases: [release] })]
    expect(identifyImage([{ address: start, bytes: altered }], families, [sha256(altered)])).toBeNull()
    expect(identifyImage(memory, families)).toBeNull()
  })
  it('fills what a text leaves open, and agrees with it', () => {
    const both = unlabelled({
      versionText: ['nothing that tells {version}'],
      releases: [{ ...release, version: 'it' }],
    })
    const ended = holding('nothing that tells it\0')
    const own = sha256(ended[0]!.bytes)
    const families = [{ ...both, releases: [{ ...both.releases![0]!, sha256: own }] }]
    expect(identifyImage(ended, families, [own])).toMatchObject({
      toldBy: 'text',
      version: 'it',
      hardwareMajor: 3,
      filledBy: { hardwareMajor: 'release' },
      alsoToldBy: ['release'],
    })
  })
  it('that says another version than the image does is told, not settled', () => {
    const text = holding('HORN FW v2.48 ')
    const own = sha256(text[0]!.bytes)
    const family = unlabelled({
      versionText: ['HORN FW v{version} '],
      releases: [{ sha256: own, version: '2.49' }],
    })
    expect(identifyImage(text, [family], [own])!.contradictions).toEqual([
      'version: a text in it says 2.48, the profile’s list of releases says 2.49',
    ])
  })
  it.each([
    ['a digest twice', { 0: {}, 1: {} }, 'releases.1.sha256'],
    ['hardware there is not', { 0: { hardware: 99 } }, 'releases.0.hardware'],
    ['a part there is not', { 0: { component: 'wing' } }, 'releases.0.component'],
    ['half a digest', { 0: { sha256: 'ab' } }, 'releases.0.sha256'],
    ['a day that is none', { 0: { date: '2026-13-01' } }, 'releases.0.date'],
  ])('with %s is refused, at its place', (_, changes, at) => {
    const releases = Object.values(changes).map((change) => ({ ...release, ...change }))
    expect(checkFamily({ ...plain(), releases }).faults.map((fault) => fault.at)).toContain(at)
  })
})

describe('a line of the page', () => {
  it.each([
    ['{value}', /a word beside/],
    [' : {value} ', /a word beside/],
    ['fw', /Write \{value\}/],
  ])('read as "%s" is refused: it would take every line, or none', (reads, says) => {
    const document = plain() as unknown as { snapshot: { reads?: string }[] }
    document.snapshot[0]!.reads = reads
    expect(checkFamily(document).faults).toContainEqual({
      at: 'snapshot.0.reads',
      says: expect.stringMatching(says),
    })
  })
})

describe('the other ways', () => {
  const classId = '5b8d4c1e-0f5a-4e5e-9d69-0d6f2a0d6b01'
  const claim: ManifestClaim = { component: 'main', sequence: 7, classId, version: '2.48' }
  const family = unlabelled()
  const ofClass = { ...family, hardware: { ...family.hardware, classId } }
  it('a manifest tells whose an image is by its class, where exactly one profile has it', () => {
    expect(withClaim(null, claim, [family, ofClass])).toMatchObject({
      familyId: 'bare',
      componentId: 'main',
      toldBy: 'manifest',
      version: '2.48',
    })
    expect(withClaim(null, claim, [family])).toBeNull()
    expect(withClaim(null, claim, [ofClass, { ...ofClass, id: 'twin' }])).toBeNull()
    expect(withClaim(null, { ...claim, component: 'wing' }, [ofClass])).toBeNull()
  })
  it('a person’s word counts where nothing better tells it, and never over what does', () => {
    const statement = byPerson({
      familyId: 'bare',
      componentId: 'main',
      version: '2.49',
      hardwareMajor: 3,
      by: 'A. Lund',
      from: 'the supplier’s letter',
      at: 1,
    })
    expect(mergeIdentities([null, statement])).toMatchObject({ toldBy: 'person', version: '2.49' })
    const seen: ImageIdentity = { familyId: 'bare', componentId: 'main', toldBy: 'text' }
    expect(mergeIdentities([seen, statement])).toMatchObject({
      toldBy: 'text',
      version: '2.49',
      filledBy: { version: 'person', hardwareMajor: 'person' },
      statement: { by: 'A. Lund' },
    })
    expect(
      mergeIdentities([{ ...seen, version: '2.48', hardwareMajor: 3 }, statement])!.contradictions,
    ).toHaveLength(1)
    expect(mergeIdentities([{ ...seen, familyId: 'other' }, statement])!.contradictions!.join()).toMatch(
      /other, main/,
    )
    // What a person repeats confirms nothing.
    expect(mergeIdentities([seen, statement])!.alsoToldBy).toBeUndefined()
    expect(mergeIdentities([null, undefined])).toBeNull()
  })
  it('a block whose place nobody knows is found by its mark', () => {
    const [component] = fog.components
    const { address: _address, ...block } = component!.identity!
    const searching = { ...fog, components: [{ ...component!, identity: block }] }
    const memory = holding('')
    memory[0]!.bytes.set(asciiBytes(block.magic), 0x345)
    const version = block.fields.find(({ field }) => field === 'version')!
    memory[0]!.bytes.set(asciiBytes('2.48\0'), 0x345 + version.offset)
    expect(identifyImage(memory, [searching])).toMatchObject({ familyId: 'fog-signal', version: '2.48' })
    const document = plain()
    document.components[0]!.identity = {
      ...JSON.parse(JSON.stringify(block)),
      magic: 'AB',
      fields: block.fields.map((field) => ({ ...field, offset: `0x${field.offset.toString(16)}` })),
    }
    expect(checkFamily(document).faults.map(({ at }) => at)).toContain('components.0.identity.magic')
  })
})

describe('a plain binary without a label', () => {
  it('lies where the one region of the part is that a text or its digest tells', () => {
    const file = holding('HORN FW v2.48 ')[0]!.bytes
    const region = fog.components[0]!.memory.regions.find(({ use }) => use === 'application')!
    for (const family of [
      unlabelled({ versionText: ['HORN FW v{version} '] }),
      unlabelled({ releases: [{ sha256: sha256(file), version: '2.48' }] }),
    ]) {
      const { placed, memory } = readImageFile(file, { families: [family] })
      expect([placed, memory[0]!.address]).toEqual(['by-profile', region.address])
    }
    expect(readImageFile(file, { families: [unlabelled()] }).placed).toBe('not-known')
  })
})

/** The fog signal’s document without an identity block. */
function plain(): { components: { identity?: unknown; versionText?: string[] }[] } & Record<string, unknown> {
  const document = JSON.parse(JSON.stringify(demoDocument)) as ReturnType<typeof plain>
  delete document.components[0]!.identity
  return document
}

describe('what several ways tell of one image', () => {
  const block: ImageIdentity = { familyId: 'f', componentId: 'c', version: '2.48' }
  const manifest: ImageIdentity = { ...block, toldBy: 'manifest' }
  it('that agree is one identity, with who else told it', () => {
    expect(mergeIdentities([block, manifest])).toStrictEqual({ ...block, alsoToldBy: ['manifest'] })
    expect(mergeIdentities([null, undefined, block, null])).toStrictEqual(block)
    expect(mergeIdentities([null, undefined])).toBeNull()
    expect(mergeIdentities([])).toBeNull()
    // The word of a person that says nothing new is none more.
    expect(mergeIdentities([block, { ...block, toldBy: 'person' }])).toStrictEqual(block)
  })
  it('fills what is open, and keeps how each member is known', () => {
    const more = { ...manifest, hardwareMajor: 3 }
    expect(mergeIdentities([block, more])).toStrictEqual({
      ...block,
      hardwareMajor: 3,
      filledBy: { hardwareMajor: 'manifest' },
      alsoToldBy: ['manifest'],
    })
    const filled: ImageIdentity = { ...block, hardwareMajor: 3, filledBy: { hardwareMajor: 'release' } }
    expect(mergeIdentities([filled, manifest])).toStrictEqual({ ...filled, alsoToldBy: ['manifest'] })
  })
  it('that differ in one thing says so, and nobody is said to agree', () => {
    expect(mergeIdentities([block, { ...manifest, version: '2.41' }])).toStrictEqual({
      ...block,
      contradictions: ['version: its identity block says 2.48, the manifest that came with it says 2.41'],
    })
    const before = { ...block, contradictions: ['x'] }
    expect(mergeIdentities([before, manifest])).toStrictEqual(before)
    expect(mergeIdentities([block, { ...manifest, contradictions: ['y'] }])!.contradictions).toEqual(['y'])
  })
  it.each([
    [{ familyId: 'g' }, 'its identity block says f, c, the manifest that came with it says g, c'],
    [{ componentId: 'd' }, 'its identity block says f, c, the manifest that came with it says f, d'],
  ])('that is another part is told, and none of it is taken: %o', (change, says) => {
    const other = { ...manifest, ...change, hardwareMajor: 3 }
    expect(mergeIdentities([block, other])).toStrictEqual({ ...block, contradictions: [says] })
  })
})
