import { describe, expect, it } from 'vitest'
import type { Family } from '../family'
import { refusal } from './refusal.test-support'
import {
  claimOf,
  disagreements,
  judgePackage,
  mediumOf,
  readManifest,
  withClaim,
  type ImageIdentity,
  type Manifest,
  type ManifestClaim,
  type Medium,
} from '.'

/*
 * What stands around the bytes of an image: the manifest of a bundle (information model of RFC 9124; sections from memory), the
 * files of a card (PRACTICE B11, common practice).
 */

const uuid = '6ba7b810-9dad-11d1-80b4-00c04fd430c8'
const sha = 'ab'.repeat(32)
const plain: Manifest = {
  format: 'bench-wake/manifest',
  formatVersion: 1,
  sequenceNumber: 7,
  images: [{ file: 'main.hex', component: 'main' }],
}
const full: Manifest = {
  ...plain,
  vendorId: uuid,
  classId: uuid,
  notes: 'Horn timing.',
  images: [
    {
      file: 'main.hex',
      component: 'main',
      digest: sha,
      size: 100,
      version: '2.48',
      precursorDigest: sha,
      requiresFrom: '2.40',
      requiresBelow: '2.48',
    },
  ],
}

describe('a manifest', () => {
  it('is read as it is, the short one as the long one', () => {
    expect(readManifest(JSON.stringify(plain))).toEqual(plain)
    expect(readManifest(JSON.stringify(full))).toEqual(full)
    expect(readManifest(JSON.stringify({ ...plain, sequenceNumber: 0 }))).toMatchObject({ sequenceNumber: 0 })
  })
  it.each([['a note'], ['null'], ['7'], ['"bench-wake/manifest"'], ['[]'], ['{"format":"another"}']])(
    'is none where it does not say so: %s',
    (text) => {
      expect(readManifest(text)).toBeNull()
    },
  )
  const [image] = full.images
  it.each<[string, object, string]>([
    ['another form', { formatVersion: 2 }, 'formatVersion'],
    ['a number below zero', { sequenceNumber: -1 }, 'sequenceNumber'],
    ['a number with a fraction', { sequenceNumber: 1.5 }, 'sequenceNumber'],
    ['a vendor that is no UUID', { vendorId: 'ours' }, 'vendorId'],
    ['a class in capitals', { classId: uuid.toUpperCase() }, 'classId'],
    ['a UUID with more behind it', { classId: `${uuid}0` }, 'classId'],
    ['a UUID with more before it', { classId: `0${uuid}` }, 'classId'],
    ['notes of a book', { notes: 'n'.repeat(20_001) }, 'notes'],
    ['no images', { images: [] }, 'images'],
    ['a name of blanks', { images: [{ ...image, file: '  ' }] }, 'images.0.file'],
    ['a name without end', { images: [{ ...image, file: 'f'.repeat(401) }] }, 'images.0.file'],
    ['no component', { images: [{ file: 'a' }] }, 'images.0.component'],
    ['a short digest', { images: [{ ...image, digest: 'ab' }] }, 'images.0.digest'],
    ['a long digest', { images: [{ ...image, digest: `${sha}0` }] }, 'images.0.digest'],
    [
      'a digest with a letter before it',
      { images: [{ ...image, precursorDigest: `x${sha}` }] },
      'images.0.precursorDigest',
    ],
    ['a size below zero', { images: [{ ...image, size: -1 }] }, 'images.0.size'],
    ['a word nobody knows', { colour: 'red' }, 'colour'],
  ])('is refused at its field: %s', (_, form, at) => {
    const facts = refusal(() => readManifest(JSON.stringify({ ...full, ...form })))
    expect(facts).toMatchObject({ kind: 'manifest', place: { at } })
    expect(facts.says).toMatch(/\S/)
    expect(facts.remedy).toMatch(/\S{3}/)
  })
  it('notes and names may be as long as that', () => {
    expect(readManifest(JSON.stringify({ ...full, notes: 'n'.repeat(20_000) }))).not.toBeNull()
    expect(
      readManifest(JSON.stringify({ ...plain, images: [{ ...image, file: 'f'.repeat(400) }] })),
    ).not.toBeNull()
  })
})

describe('what a manifest says of a file', () => {
  const facts = { sha256: sha, size: 100 }
  it('is all that it says, and nothing that it does not', () => {
    expect(claimOf(full, 'main.hex', facts)).toEqual({
      component: 'main',
      sequence: 7,
      vendorId: uuid,
      classId: uuid,
      version: '2.48',
      precursor: sha,
      requiresFrom: '2.40',
      requiresBelow: '2.48',
    })
    expect(claimOf(plain, 'main.hex', facts)).toEqual({ component: 'main', sequence: 7 })
  })
  it('is of the file by its name, in whichever folder, and of no other', () => {
    expect(claimOf(plain, 'release/main.hex', facts)).not.toBeNull()
    for (const path of ['other.hex', 'xmain.hex', 'main.hex.old', 'main.hex/x'])
      expect(claimOf(plain, path, facts), path).toBeNull()
  })
  it('is refused where the file is another', () => {
    expect(refusal(() => claimOf(full, 'r/main.hex', { ...facts, sha256: 'cd'.repeat(32) }))).toMatchObject({
      kind: 'manifest-digest',
      thing: 'r/main.hex',
      place: { at: 'manifest' },
      expected: sha,
      found: 'cd'.repeat(32),
      remedy: expect.stringMatching(/bundle/),
    })
    expect(refusal(() => claimOf(full, 'main.hex', { ...facts, size: 99 }))).toMatchObject({
      kind: 'manifest-size',
      expected: '100',
      found: '99',
    })
  })
})

describe('bytes and manifest together', () => {
  const claim: ManifestClaim = { component: 'main', sequence: 7, version: '2.48', requiresFrom: '2.40' }
  const identity = { familyId: 'horn', componentId: 'main' } as ImageIdentity
  it('the bytes go first; what they do not say is filled, and known as filled', () => {
    expect(withClaim({ ...identity, version: '2.41' }, claim)).toEqual({
      ...identity,
      version: '2.41',
      sequence: 7,
      requiresFrom: '2.40',
      filledBy: { sequence: 'manifest' },
    })
    expect(withClaim({ ...identity, sequence: 9 }, claim)).toMatchObject({
      sequence: 9,
      version: '2.48',
      filledBy: { version: 'manifest' },
    })
    const noVersion: ManifestClaim = { component: 'main', sequence: 7 }
    expect(withClaim({ ...identity, filledBy: { version: 'release' } } as never, noVersion)).toMatchObject({
      filledBy: { version: 'release', sequence: 'manifest' },
    })
    expect(withClaim({ ...identity, sequence: 1 }, noVersion)!.filledBy).toEqual({})
  })
  it('without a claim nothing changes, and without either there is nothing', () => {
    expect(withClaim(identity, null)).toBe(identity)
    expect(withClaim(identity, undefined)).toBe(identity)
    expect(withClaim(null, null)).toBeNull()
  })
  const family = (id: string, classId: string | undefined, ...components: string[]) =>
    ({
      id,
      hardware: { ...(classId && { classId }) },
      components: components.map((each) => ({ id: each })),
    }) as unknown as Family
  it('whose it is tells the class of one profile, where the bytes do not', () => {
    const said = { ...claim, classId: uuid }
    const whose = (...families: Family[]) => withClaim(null, said, families)
    expect(whose(family('other', 'x', 'main'), family('horn', uuid, 'main'))).toEqual({
      familyId: 'horn',
      componentId: 'main',
      toldBy: 'manifest',
      sequence: 7,
      version: '2.48',
      requiresFrom: '2.40',
      classId: uuid,
    })
    // Two profiles of one class, one without the component, none: nobody knows.
    expect(whose(family('horn', uuid, 'main'), family('twin', uuid, 'main'))).toBeNull()
    expect(whose(family('horn', uuid, 'another'))).toBeNull()
    expect(whose()).toBeNull()
    expect(withClaim(null, claim, [family('horn', undefined, 'main')])).toBeNull()
    expect(withClaim(null, said)).toBeNull()
  })
  it('where they differ is said of each thing, and only of what both say', () => {
    const bytes = { ...identity, version: '2.41', sequence: 3, requiresFrom: '2.0' }
    expect(disagreements(bytes, { ...claim, component: 'other' })).toEqual([
      'component: the bytes say main, the manifest says other',
      'version: the bytes say 2.41, the manifest says 2.48',
      'sequence number: the bytes say 3, the manifest says 7',
      'required version: the bytes say 2.0, the manifest says 2.40',
    ])
    expect(disagreements(identity, claim)).toEqual([])
    expect(disagreements(bytes, { component: 'main', sequence: 3 })).toEqual([])
  })
})

describe('the files of a card', () => {
  const medium = {
    name: 'memory card',
    maxBytes: 1000,
    files: [{ name: 'A.BIN', component: 'a' }, { name: 'READ.TXT' }],
  } as unknown as Medium
  const is = (componentId: string) => ({ componentId }) as ImageIdentity
  const right = [
    { path: 'card/A.BIN', size: 600, identity: is('a') },
    { path: 'READ.TXT', size: 100, identity: null },
  ]
  const judged = (files = right, bytes?: number, own: object = {}) =>
    judgePackage({ ...medium, ...own } as Medium, files, bytes)
  const only = (...form: Parameters<typeof judged>) => {
    const findings = judged(...form)
    expect(findings).toHaveLength(1)
    return findings[0]!
  }
  it('are complete in their order, by their names, in whichever folder', () => {
    expect(only()).toMatchObject({
      rule: 'package-files',
      level: 'go',
      says: 'The package is complete: A.BIN, READ.TXT, in this order.',
    })
    expect(only(right, 700).level).toBe('go')
    expect(only(right, 1000).level).toBe('go')
  })
  it('do not fit by one byte, on the card at hand or on the largest that the unit reads', () => {
    expect(only(right, 699)).toMatchObject({
      rule: 'package-medium',
      level: 'stop',
      says: 'The files do not fit: 700 bytes.',
    })
    expect(only(right, undefined, { maxBytes: 699 })).toMatchObject({ rule: 'package-medium', level: 'stop' })
    expect(only(right, undefined, { maxBytes: 700 }).level).toBe('go')
  })
  it('a card that is one byte too large is refused, whatever is on it', () => {
    expect(only(right, 1001)).toMatchObject({
      rule: 'package-medium',
      level: 'stop',
      numbers: { mediumBytes: 1001, maxBytes: 1000 },
    })
  })
  it('that lack one, or have it under another’s name, are refused', () => {
    const [lacks] = judged(right.slice(1))
    expect(lacks).toMatchObject({
      rule: 'package-files',
      level: 'stop',
      says: 'The memory card lacks A.BIN.',
    })
    // What is missing has no order that could be wrong.
    expect(judged(right.slice(1))).toHaveLength(1)
    const other = (identity: ImageIdentity | null) => only([{ ...right[0]!, identity }, right[1]!])
    expect(other(is('b'))).toMatchObject({
      rule: 'package-component',
      level: 'stop',
      says: 'A file has another’s name: A.BIN is for b, not for a.',
    })
    expect(other(null).says).toBe('A file has another’s name: A.BIN is no known image, not for a.')
  })
  it('in another order are held, and told in theirs', () => {
    expect(only([...right].reverse())).toMatchObject({
      rule: 'package-order',
      level: 'hold',
      says: 'The files lie in another order: READ.TXT, A.BIN.',
      because: expect.stringMatching(/A\.BIN, READ\.TXT\.$/),
    })
    // One of them twice is another order too.
    expect(
      judged([...right, { ...right[0]!, path: 'x/A.BIN' }], undefined, { maxBytes: 1e9 })[0],
    ).toMatchObject({ rule: 'package-order' })
  })
  it('with more beside them are held, where the unit minds', () => {
    const more = [...right, { path: 'notes/x.pdf', size: 1, identity: null }]
    expect(only(more)).toMatchObject({
      rule: 'package-others',
      level: 'hold',
      says: 'There is more on it than the unit may find: notes/x.pdf.',
    })
    expect(only(more, undefined, { othersAllowed: true }).level).toBe('go')
  })
  it('each refusal has its reason and a way out', () => {
    for (const finding of [
      ...judged([]),
      ...judged([...right].reverse(), 1001),
      ...judged([...right, { path: 'x', size: 9999, identity: null }]),
    ])
      for (const text of [finding.says, finding.because, finding.remedy])
        expect(text).toMatch(/^[A-Z].{8,}\.$/)
  })
  it('belong to the first card that a family takes', () => {
    const family = (...links: object[]) => ({ links }) as unknown as Family
    expect(mediumOf(family({ kind: 'serial' }, { kind: 'media', medium }))).toBe(medium)
    expect(mediumOf(family({ kind: 'media' }))).toBeUndefined()
    expect(mediumOf(family({ kind: 'serial', medium }))).toBeUndefined()
    expect(mediumOf(family())).toBeUndefined()
  })
})
