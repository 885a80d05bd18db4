import { demoFamily } from '@bench-wake/demo'
import { strToU8, zipSync } from 'fflate'
import { createHash } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import type { Component, Family } from '../family'
import { asciiBytes } from '../kernel'
import { readFile, readImageFile } from '.'
import { refusal } from './refusal.test-support'

/*
 * What a file is, told from its content alone (PRACTICE B2). First bytes of other formats: PNG (ISO/IEC 15948), JPEG (ITU-T
 * T.81), GIF 89a, PDF (ISO 32000), gzip (RFC 1952), 7z, RAR and OLE files, PE (from memory).
 */

const bytes = (...list: number[]) => Uint8Array.from(list)
/** Bytes that are no text and begin like nothing else. */
const plain = Uint8Array.from({ length: 256 }, (_, at) => (at * 73 + 1) % 256)

describe('a file that is no image', () => {
  it.each([
    [[0x89, 0x50, 0x4e, 0x47], 'PNG'],
    [[0xff, 0xd8, 0xff], 'JPEG'],
    [[0x47, 0x49, 0x46, 0x38], 'GIF'],
    [[0x25, 0x50, 0x44, 0x46], 'PDF'],
    [[0x1f, 0x8b], 'gzip'],
    [[0x37, 0x7a, 0xbc, 0xaf], '7z'],
    [[0x52, 0x61, 0x72, 0x21], 'RAR'],
    [[0xd0, 0xcf, 0x11, 0xe0], 'office'],
    [[0x4d, 0x5a, 0x90, 0x00], 'Windows program'],
    [[...asciiBytes('<!doctype html>')], 'web page'],
    [[...asciiBytes('<html>')], 'web page'],
  ])('%o is called %s; with its last mark another it is not', (first, name) => {
    const facts = refusal(() => readImageFile(Uint8Array.from([...first, ...plain])))
    expect(facts).toMatchObject({ kind: 'image-other', says: expect.stringContaining(name) })
    const other = Uint8Array.from([...first.slice(0, 1), 0x02, 0x00, ...plain])
    expect(readImageFile(other).placed).toBe('not-known')
  })
  it('is named with its first bytes, or as empty, or as an archive', () => {
    expect(refusal(() => readImageFile(bytes(0x1f, 0x8b, 8, 0, 1))).found).toBe('1F 8B 08 00')
    expect(refusal(() => readImageFile(new Uint8Array(0)))).toMatchObject({
      kind: 'image-other',
      says: 'the file is empty',
    })
    const zip = zipSync({ 'a.txt': strToU8('a') })
    expect(refusal(() => readImageFile(zip))).toMatchObject({ kind: 'image-other', found: '50 4B 03 04' })
    expect(refusal(() => readFile(zipSync({})))).toMatchObject({ says: 'the archive is empty' })
  })
  it.each([
    ['a note', 'Read me first.'],
    ['a note behind blanks', ' \t\r\n Read me'],
    ['a note behind a mark of its coding', '\u00ef\u00bb\u00bfRead me'],
    ['letters of another language', 'Gr\u00fc\u00dfe und Dank'],
  ])('%s is a text, shown from its first letter', (_, text) => {
    const facts = refusal(() => readImageFile(asciiBytes(text)))
    expect(facts.says).toBe('this is a text, not an image')
    expect(facts.found).toMatch(/^"(Read|Gr)/)
  })
  it('one byte in twenty may be odd in a text, and none may be zero', () => {
    const text = (odd: number[], length = 100) =>
      Uint8Array.from([...odd, ...Array<number>(length - odd.length).fill(0x61)])
    const isText = (file: Uint8Array) => {
      try {
        return readImageFile(file).format !== 'bin'
      } catch {
        return true
      }
    }
    expect([isText(text([1, 1, 1, 1, 1])), isText(text([1, 1, 1, 1, 1, 1]))]).toEqual([true, false])
    // Tabs and line ends are not odd; what is above 126 is so by a quarter.
    expect(
      isText(
        text([...Array<number>(30).fill(9), ...Array<number>(30).fill(10), ...Array<number>(30).fill(13)]),
      ),
    ).toBe(true)
    expect([isText(text(Array<number>(20).fill(0x7f))), isText(text(Array<number>(21).fill(0x7f)))]).toEqual([
      true,
      false,
    ])
    expect([isText(text([0])), isText(text(Array<number>(6).fill(31)))]).toEqual([false, false])
    // Only its first four kilobytes are looked at.
    expect(isText(Uint8Array.from([...text([], 4096), 0]))).toBe(true)
    expect(isText(Uint8Array.from([...text([], 4095), 0]))).toBe(false)
  })
})

describe('an image in a text', () => {
  it('is told by its first sign, behind blanks too', () => {
    const hex = ':0100000041BE\n:00000001FF\n'
    const srec = 'S104000041BA\nS9030000FC\n'
    for (const before of ['', ' \t\r\n', '\u00ef\u00bb\u00bf']) {
      expect(readImageFile(asciiBytes(before + hex)).format).toBe('ihex')
      expect(readImageFile(asciiBytes(before + srec)).format).toBe('srec')
    }
    // Two of the three bytes of such a mark are none.
    for (const mark of ['\u00ee\u00bb\u00bf', '\u00ef\u00ba\u00bf', '\u00ef\u00bb\u00be'])
      expect(refusal(() => readImageFile(asciiBytes(mark + hex))).says).toBe('this is a text, not an image')
    expect(readFile(asciiBytes(hex))).toMatchObject({ kind: 'image', image: { format: 'ihex' } })
    // A colon before bytes that are no text begins nothing.
    expect(readImageFile(bytes(0x3a, 0, 1, 2)).format).toBe('bin')
    expect(readImageFile(bytes(0x53, 0, 1, 2)).format).toBe('bin')
  })
})

describe('where a plain binary lies', () => {
  const fog = demoFamily('fog-signal')
  const [main] = fog.components
  const region = (address: number, length = 0x1000) => ({
    ...main!.memory.regions[0]!,
    use: 'application' as const,
    address,
    length,
  })
  const family = (identity: object | undefined, regions = [region(0x4000)], more: object = {}) =>
    ({
      ...fog,
      components: [{ ...main!, memory: { ...main!.memory, regions }, identity } as Component],
      ...more,
    }) as Family
  const place = (file: Uint8Array, ...families: Family[]) => {
    const { placed, memory } = readImageFile(file, { families })
    return [placed, memory[0]!.address]
  }
  const marked = plain.slice()
  marked.set(asciiBytes('MARK'), 0x20)

  it('is where its mark stands in a region of the part', () => {
    const at = (address: number) =>
      family({ magic: 'MARK', address, fields: [] }, [region(0x8000), region(0x4000)])
    expect(place(marked, at(0x4020))).toEqual(['by-profile', 0x4000])
    expect(place(marked, at(0x8020))).toEqual(['by-profile', 0x8000])
    expect(place(marked, at(0x4021))).toEqual(['not-known', 0])
    expect(place(marked, at(0x3020))).toEqual(['not-known', 0])
    // Its mark at the very start of the region.
    const first = plain.slice()
    first.set(asciiBytes('MARK'), 0)
    expect(place(first, at(0x4000))).toEqual(['by-profile', 0x4000])
    expect(place(marked, family(undefined), at(0x4020))).toEqual(['by-profile', 0x4000])
    expect(place(marked, family({ magic: 'MARK', fields: [] }))).toEqual(['not-known', 0])
  })
  it('is where a person says, whatever a profile knows', () => {
    const known = family({ magic: 'MARK', address: 0x4020, fields: [] })
    expect(readImageFile(marked, { families: [known], address: 0 })).toMatchObject({
      placed: 'by-person',
      memory: [{ address: 0 }],
    })
  })
  it('is the one region of the part that a text or a list of releases tells', () => {
    const texts = { versionText: ['FW v{version} '] }
    const labelled = (regions = [region(0x4000)]) => {
      const own = family(undefined, regions)
      return { ...own, components: [{ ...own.components[0]!, ...texts }] } as Family
    }
    const said = plain.slice()
    said.set(asciiBytes('FW v2.48 '), 0x40)
    expect(place(said, labelled())).toEqual(['by-profile', 0x4000])
    expect(place(said, labelled([region(0x4000), region(0x8000)]))).toEqual(['not-known', 0])
    expect(place(said, labelled([region(0x4000, 256)]))).toEqual(['by-profile', 0x4000])
    expect(place(said, labelled([region(0x4000, 255)]))).toEqual(['not-known', 0])
    expect(place(plain, labelled())).toEqual(['not-known', 0])
    const sha256 = createHash('sha256').update(plain).digest('hex')
    const release = { component: main!.id, version: '2.48', sha256 }
    const listed = family(undefined, [region(0x4000)], { releases: [release] })
    expect(place(plain, listed)).toEqual(['by-profile', 0x4000])
    expect(place(said, listed)).toEqual(['not-known', 0])
  })
})

describe('what is in an archive', () => {
  const hex = strToU8(':0100000041BE\n:00000001FF\n')
  const entries = (files: Record<string, Uint8Array>) => {
    const found = readFile(zipSync(files))
    return found.kind === 'bundle' ? found.entries.map(({ path, what }) => [path, what.kind]) : []
  }
  it('is images, notes and the rest, those of an archive within under its name', () => {
    const inner = zipSync({ 'in.hex': hex })
    const files = {
      'a.hex': hex,
      'READ ME': strToU8('Notes.'),
      'p.png': bytes(0x89, 0x50, 0x4e, 0x47),
      'z.zip': inner,
    }
    expect(entries(files)).toEqual([
      ['a.hex', 'image'],
      ['READ ME', 'notes'],
      ['p.png', 'other'],
      ['z.zip/in.hex', 'image'],
    ])
    expect(entries({ 'a.hex': hex, 'empty.txt': new Uint8Array(0) })[1]).toEqual(['empty.txt', 'other'])
  })
  it('has so many notes at the most, whatever images lie beside them', () => {
    const note = strToU8('n'.repeat(65_536))
    const many = Object.fromEntries(Array.from({ length: 9 }, (_, at) => [`${at}.txt`, note]))
    const kinds = (files: Record<string, Uint8Array>) => entries(files).map(([, kind]) => kind)
    const large = Uint8Array.from({ length: 600_000 }, (_, at) => (at * 73 + 1) % 256)
    expect(kinds({ 'a.bin': large, 'n.txt': note })).toEqual(['image', 'notes'])
    expect(kinds({ ...many, 'z.hex': hex })).toEqual([...Array<string>(8).fill('notes'), 'other', 'image'])
  })
  it('a third level is refused by its place', () => {
    const third = zipSync({ 'b.zip': zipSync({ 'c.zip': zipSync({ 'a.hex': hex }) }) })
    expect(refusal(() => readFile(third))).toMatchObject({ kind: 'zip-nested', place: { at: 'b.zip/c.zip' } })
  })
  it('a damaged image in it is refused by its name and not taken for a note', () => {
    const damaged = strToU8(':0100000041BF\n:00000001FF\n')
    expect(refusal(() => readFile(zipSync({ 'a.hex': damaged })))).toMatchObject({ thing: 'a.hex' })
  })
  it('a note keeps its letters, and the per cent sign', () => {
    const text = '100 % größer: 2.48'
    const found = readFile(zipSync({ 'n.txt': strToU8(text) }))
    expect(found.kind === 'bundle' && found.entries[0]!.what).toEqual({ kind: 'notes', text })
    // Bytes of another coding are kept one by one.
    const latin = readFile(zipSync({ 'n.txt': asciiBytes('gr\u00f6\u00dfer als vorher und noch mehr') }))
    expect(latin.kind === 'bundle' && latin.entries[0]!.what).toMatchObject({
      text: 'gr\u00f6\u00dfer als vorher und noch mehr',
    })
  })
})
