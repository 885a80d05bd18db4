import {
  demoFamily,
  demoFamilyList,
  handfulFamilies,
  handfulOf,
  inverterBundle,
  radioCard,
} from '@bench-wake/demo'
import fc from 'fast-check'
import { createHash } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { asciiBytes, sha256Hex } from '../kernel'
import {
  claimOf,
  compareImages,
  contentDigest,
  identifyImage,
  judgePackage,
  mediumOf,
  readFile,
  readImageFile,
  readManifest,
  type MemoryMap,
} from '.'
import { noise } from './noise.test-support'

const at = (address: number, bytes: Uint8Array): MemoryMap => [{ address, bytes }]

describe('a digest', () => {
  // FIPS 180-4 example values: one-block message "abc", two-block message, empty message.
  it.each([
    ['abc', 'ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad'],
    [
      'abcdbcdecdefdefgefghfghighijhijkijkljklmklmnlmnomnopnopq',
      '248d6a61d20638b8e5c026930c3e6039a33ce45964ff2167f6ecedd419db06c1',
    ],
    ['', 'e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855'],
  ])('of "%s" is that of the standard', (text, digest) => expect(sha256Hex(asciiBytes(text))).toBe(digest))
  it('of an image is over each segment’s address, length and bytes (Node’s own SHA-256 as reference)', () => {
    const memory: MemoryMap = [...at(0x100, noise(10)), ...at(0x0800_0000, noise(3))]
    const hash = createHash('sha256')
    for (const { address, bytes } of memory) {
      const head = Buffer.alloc(8)
      head.writeUInt32BE(address, 0)
      head.writeUInt32BE(bytes.length, 4)
      hash.update(head).update(bytes)
    }
    expect(contentDigest(memory)).toBe(hash.digest('hex'))
  })
})

describe('what every file says of itself', () => {
  it.each(handfulFamilies)('a %s image is told from its content, not from its name', (familyId) => {
    const told = handfulOf(familyId).map(
      ({ kind, file }) =>
        [
          kind,
          identifyImage(readImageFile(file, { families: demoFamilyList }).memory, demoFamilyList),
        ] as const,
    )
    for (const [kind, identity] of told) {
      expect(identity, kind).not.toBeNull()
      if (kind !== 'other-component') expect(identity!.familyId).toBe(familyId)
      if (kind === 'test') expect(identity!.release).toBe('test')
      if (identity!.intact) expect(identity!.intact.ok, kind).toBe(true)
    }
    const [right] = told
    expect(right![1]).toEqual(told.find(([kind]) => kind === 'renamed')![1])
  })
  it('two files of unhelpful names in one archive are told apart (PRACTICE B2, A5)', () => {
    const found = readFile(inverterBundle().file, { families: demoFamilyList })
    if (found.kind !== 'bundle') throw new Error('not a bundle')
    const components = found.entries.flatMap(({ path, what }) =>
      what.kind === 'image' ? [[path, identifyImage(what.image.memory, demoFamilyList)?.componentId]] : [],
    )
    expect(components).toEqual([
      ['rel/img1.hex', 'power'],
      ['rel/img2.hex', 'panel'],
    ])
    // PRACTICE B3: the release notes sit in the archive beside the images.
    expect(found.entries.filter(({ what }) => what.kind === 'notes').map(({ path }) => path)).toContain(
      'rel/READ ME.txt',
    )
  })
})

describe('a manifest', () => {
  const found = readFile(inverterBundle().file, { families: demoFamilyList })
  const entries = found.kind === 'bundle' ? found.entries : []
  const note = entries.find(({ path }) => path.endsWith('.json'))!
  const text = note.what.kind === 'notes' ? note.what.text : ''
  const manifest = readManifest(text)!
  const file = entries[0]!
  it('names the image by file and digest (RFC 9124, payload digest and size, sections from memory)', () => {
    const facts = { sha256: sha256Hex(file.bytes), size: file.bytes.length }
    expect(claimOf(manifest, file.path, facts)).toMatchObject({
      component: 'power',
      sequence: 36,
      version: '3.6',
    })
    expect(() => claimOf(manifest, file.path, { ...facts, sha256: '0'.repeat(64) })).toThrow(
      /not the one its manifest means/,
    )
    expect(() => claimOf(manifest, file.path, { ...facts, size: 1 })).toThrow(/another size/)
    expect(claimOf(manifest, 'rel/other.hex', facts)).toBeNull()
  })
  it('is refused with its field when it says it is one and does not read', () => {
    expect(readManifest('just a note')).toBeNull()
    expect(readManifest('{"a":1}')).toBeNull()
    const bad = JSON.stringify({ ...manifest, sequenceNumber: -1 })
    expect(() => readManifest(bad)).toThrow(/sequenceNumber/)
  })
})

describe('two images side by side', () => {
  it('list changed stretches and what only one of them sets', () => {
    const first = at(0x100, noise(1000))
    const bytes = noise(1000)
    bytes[10]! ^= 1
    bytes[14]! ^= 1
    bytes[500]! ^= 1
    const second: MemoryMap = [...at(0x100, bytes.subarray(0, 900)), ...at(0x2000, noise(8))]
    const compared = compareImages(first, second)
    expect(compared).toMatchObject({
      same: false,
      changedBytes: 3,
      onlyFirstBytes: 100,
      onlySecondBytes: 8,
      equalBytes: 897,
    })
    expect(compared.differences.map(({ address, length, kind }) => [address, length, kind])).toEqual([
      [0x10a, 5, 'changed'],
      [0x100 + 500, 1, 'changed'],
      [0x100 + 900, 100, 'only-first'],
      [0x2000, 8, 'only-second'],
    ])
  })
  it('account for every byte once (against a byte-by-byte count)', () => {
    const piece = fc.record({ address: fc.nat(60), bytes: fc.uint8Array({ minLength: 1, maxLength: 40 }) })
    fc.assert(
      fc.property(piece, piece, (a, b) => {
        const compared = compareImages([a], [b])
        const byteOf = ({ address, bytes }: typeof a, place: number) => bytes[place - address]
        const counts = { equal: 0, changed: 0, first: 0, second: 0 }
        for (let place = 0; place < 120; place++) {
          const [one, two] = [byteOf(a, place), byteOf(b, place)]
          if (one !== undefined && two !== undefined) counts[one === two ? 'equal' : 'changed']++
          else if (one !== undefined) counts.first++
          else if (two !== undefined) counts.second++
        }
        expect([
          compared.equalBytes,
          compared.changedBytes,
          compared.onlyFirstBytes,
          compared.onlySecondBytes,
        ]).toEqual(Object.values(counts))
        expect(compared.differences.reduce((sum, { bytes }) => sum + bytes, 0)).toBe(
          counts.changed + counts.first + counts.second,
        )
      }),
    )
  })
})

describe('a package for a card', () => {
  const radio = demoFamily('marine-radio')
  const medium = mediumOf(radio)!
  const found = readFile(radioCard().file, { families: [radio] })
  const files = (found.kind === 'bundle' ? found.entries : []).map(({ path, bytes, what }) => ({
    path,
    size: bytes.length,
    identity: what.kind === 'image' ? identifyImage(what.image.memory, [radio]) : null,
  }))
  const levels = (list: typeof files, mediumBytes?: number) =>
    Object.fromEntries(judgePackage(medium, list, mediumBytes).map(({ rule, level }) => [rule, level]))
  // PRACTICE B11, common practice: a card below 2 GB, files in a given order; what is put on it is checked too.
  it('is complete in the order in which the unit takes the files', () => {
    expect(levels(files)).toEqual({ 'package-files': 'go' })
    expect(levels(files, 1_000_000_000)).toEqual({ 'package-files': 'go' })
  })
  it('is refused on a card of 2 GB or more, and held in another order', () => {
    expect(levels(files, 4_000_000_000)['package-medium']).toBe('stop')
    expect(levels([...files].reverse())['package-order']).toBe('hold')
  })
  it('is refused where a file is missing or has another’s name', () => {
    expect(levels(files.slice(0, 1))['package-files']).toBe('stop')
    const swapped = files.map((file, index) => ({ ...file, identity: files[1 - index]!.identity }))
    expect(levels(swapped)['package-component']).toBe('stop')
    expect(levels([...files, { path: 'notes.txt', size: 10, identity: null }])['package-others']).toBe('hold')
  })
})
