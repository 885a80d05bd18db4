import { strToU8, zipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { crc32 } from '../kernel'
import { dfuCrc, hasDfuSuffix, isZip, readDfuSuffix, readFile, readZip, writeDfuSuffix, zipLimits } from '.'
import { refusal } from './refusal.test-support'

/* What must not come in. Archives by APPNOTE.TXT 6.3 (4.3.12 central directory, 4.3.16 end record); DFU suffix by USB DFU 1.1, appendix B. */

/** Little-endian bytes of values, each with its width. */
const le = (...fields: [value: number, width: number][]): number[] =>
  fields.flatMap(([value, width]) =>
    Array.from({ length: width }, (_, at) => Math.floor(value / 256 ** at) % 256),
  )

interface Entry {
  name: string | number[]
  data?: number[]
  flags?: number
  method?: number
  size?: number
  packed?: number
  crc?: number
  extra?: number[]
  comment?: number[]
}

/** An archive written field by field from the document, so that each field can lie. */
function archive(
  entries: Entry[],
  form: { count?: number; start?: number; comment?: number[] } = {},
): Uint8Array {
  const bytes: number[] = []
  const directory: number[] = []
  for (const {
    name,
    data = [65, 66, 67],
    flags = 0,
    method = 0,
    extra = [],
    comment = [],
    ...said
  } of entries) {
    const text = typeof name === 'string' ? [...strToU8(name)] : name
    const crc = said.crc ?? crc32(Uint8Array.from(data))
    const [packed, size] = [said.packed ?? data.length, said.size ?? data.length]
    const header = bytes.length
    bytes.push(
      ...le(
        [0x04034b50, 4],
        [20, 2],
        [flags, 2],
        [method, 2],
        [0, 4],
        [crc, 4],
        [packed, 4],
        [size, 4],
        [text.length, 2],
        [extra.length, 2],
      ),
      ...text,
      ...extra,
      ...data,
    )
    directory.push(
      ...le(
        [0x02014b50, 4],
        [20, 2],
        [20, 2],
        [flags, 2],
        [method, 2],
        [0, 4],
        [crc, 4],
        [packed, 4],
        [size, 4],
      ),
      ...le([text.length, 2], [extra.length, 2], [comment.length, 2], [0, 2], [0, 2], [0, 4], [header, 4]),
      ...text,
      ...extra,
      ...comment,
    )
  }
  const { count = entries.length, start = bytes.length, comment = [] } = form
  return Uint8Array.from([
    ...bytes,
    ...directory,
    ...le(
      [0x06054b50, 4],
      [0, 2],
      [0, 2],
      [count, 2],
      [count, 2],
      [directory.length, 4],
      [start, 4],
      [comment.length, 2],
    ),
    ...comment,
  ])
}

describe('an archive with what is nested in it', () => {
  const note = (text: string) => strToU8(text)
  const many = (count: number) =>
    zipSync(Object.fromEntries(Array.from({ length: count }, (_, at) => [`n${at}.txt`, note('a note')])))
  it('has one budget of entries for all levels', () => {
    const two = (first: number, second: number) => zipSync({ 'a.zip': many(first), 'b.zip': many(second) })
    // The two nested archives are entries themselves.
    expect(readFile(two(1000, 998))).toMatchObject({ kind: 'bundle' })
    expect(refusal(() => readFile(two(1000, 999)))).toMatchObject({ kind: 'zip-too-many' })
  })
  it('has one budget of bytes for all levels, counted while it is unpacked', () => {
    const inner = zipSync({ 'x.bin': new Uint8Array(900) }, { level: 0 })
    const budget = (bytes: number) => ({ entries: 10, bytes, tooLate: () => false })
    const own = budget(900)
    expect(readZip(inner, own)).toHaveLength(1)
    expect(own).toMatchObject({ bytes: 0, entries: 9 })
    // What the first took is not there for the second.
    expect(refusal(() => readZip(inner, own)).kind).toBe('zip-too-large')
    expect(refusal(() => readZip(inner, budget(899))).kind).toBe('zip-too-large')
    const packed = zipSync({ 'x.bin': new Uint8Array(900) }, { level: 9 })
    expect(refusal(() => readZip(packed, budget(899))).kind).toBe('zip-too-large')
    expect(readZip(packed, budget(900))).toHaveLength(1)
    // A directory that says less than comes out spends what comes out.
    const spent = budget(10_000)
    const file = zipSync({ 'a.bin': new Uint8Array(400), 'b.bin': new Uint8Array(300) }, { level: 9 })
    readZip(file, spent)
    expect(spent.bytes).toBe(9300)
  })
  it('that takes too long is let go of, wherever it is', () => {
    let asked = 0
    const file = zipSync({ 'a.txt': note('x'), 'b.zip': many(3) })
    expect(refusal(() => readFile(file, { tooLate: () => ++asked > 3 })).kind).toBe('zip-too-slow')
    expect(readFile(file, { tooLate: () => false }).kind).toBe('bundle')
  })
  it('keeps notes that a person reads, and calls longer texts what they are', () => {
    const of = (lengths: number[]) => {
      const found = readFile(
        zipSync(Object.fromEntries(lengths.map((length, at) => [`${at}.txt`, note('n'.repeat(length))]))),
      )
      return found.kind === 'bundle' ? found.entries.map(({ what }) => what.kind) : []
    }
    expect(of([65_536, 65_537])).toEqual(['notes', 'other'])
    expect(of(Array<number>(9).fill(65_536))).toEqual([...Array<string>(8).fill('notes'), 'other'])
  })
})

describe('an archive', () => {
  const plain = archive(
    [
      { name: 'a.hex' },
      { name: 'dir/', data: [] },
      { name: 'dir/b.hex', data: [1, 2], extra: [9, 9, 0, 0], comment: Array<number>(300).fill(7) },
      { name: 'c.hex', data: [3], extra: Array<number>(300).fill(0) },
      { name: 'd.hex', data: [4] },
    ],
    {
      comment: [1, 2, 3],
    },
  )
  it('is read by its directory: names, folders, extra fields and comments', () => {
    expect(readZip(plain).map(({ path, bytes }) => [path, [...bytes]])).toEqual([
      ['a.hex', [65, 66, 67]],
      ['dir/b.hex', [1, 2]],
      ['c.hex', [3]],
      ['d.hex', [4]],
    ])
    expect(isZip(plain)).toBe(true)
    expect(isZip(archive([]))).toBe(true)
    expect(readZip(archive([]))).toEqual([])
  })
  it.each([
    [[0x50, 0x4b, 3, 4], true],
    [[0x50, 0x4b, 5, 6], true],
    [[0x50, 0x4b, 3, 6], false],
    [[0x50, 0x4b, 5, 4], false],
    [[0x50, 0x4b, 1, 2], false],
    [[0x51, 0x4b, 3, 4], false],
    [[0x50, 0x4c, 3, 4], false],
    [[], false],
  ])('begins with %o: %s', (start, is) => expect(isZip(Uint8Array.from(start))).toBe(is))
  it('names its files in the coding that its flag says', () => {
    const utf8 = [...new TextEncoder().encode('größe.hex')]
    expect(readZip(archive([{ name: utf8, flags: 0x800 }]))[0]!.path).toBe('größe.hex')
    expect(readZip(archive([{ name: [0x67, 0xe4, 0x2e, 0x68], flags: 0 }]))[0]!.path).toBe('gä.h')
    // Bytes that are no UTF-8, whatever the flag says, are kept one by one.
    expect(readZip(archive([{ name: [0x67, 0xe4], flags: 0x800 }]))[0]!.path).toBe('gä')
  })
  it('with two files of one name is refused: nobody knows which is meant', () => {
    expect(refusal(() => readZip(archive([{ name: 'a.hex' }, { name: 'a.hex', data: [9] }])))).toMatchObject({
      kind: 'zip-twin',
      place: { at: 'a.hex' },
    })
    expect(refusal(() => readZip(archive([{ name: 'd/a.hex' }, { name: 'd\\a.hex' }]))).kind).toBe('zip-twin')
    expect(readZip(archive([{ name: 'a.hex' }, { name: 'A.hex' }]))).toHaveLength(2)
  })
  it('of the 64-bit kind is refused by that name', () => {
    expect(refusal(() => readZip(archive([{ name: 'a' }], { count: 0xffff }))).kind).toBe('zip-zip64')
    expect(refusal(() => readZip(archive([{ name: 'a' }], { start: 0xffffffff }))).kind).toBe('zip-zip64')
  })
  it('with more entries than any bundle has is refused before one is read', () => {
    expect(zipLimits.entries).toBe(2000)
    expect(refusal(() => readZip(archive([{ name: 'a' }], { count: 2001 }))).kind).toBe('zip-too-many')
    const many = Array.from({ length: 2000 }, (_, at) => ({ name: `${at}` }))
    expect(readZip(archive(many))).toHaveLength(2000)
  })
  it('with a file larger than any image, or files that are so together, is refused before one is unpacked', () => {
    const most = 256 * 1024 * 1024
    const huge = { method: 8, packed: 4_000_000 }
    expect(refusal(() => readZip(archive([{ name: 'a', ...huge, size: most + 1 }])))).toMatchObject({
      kind: 'zip-too-large',
      place: { at: 'a' },
    })
    const half = { ...huge, size: most / 2 }
    const two = refusal(() =>
      readZip(
        archive([
          { name: 'a', ...half },
          { name: 'b', ...half, size: most / 2 + 1 },
        ]),
      ),
    )
    expect(two.kind).toBe('zip-too-large')
    expect(two.place?.at).toBeUndefined()
    // Within the limits the next thing that is wrong is named: the data is not there.
    expect(
      refusal(() =>
        readZip(
          archive([
            { name: 'a', ...half },
            { name: 'b', ...half },
          ]),
        ),
      ).kind,
    ).toBe('zip-truncated')
  })
  it('that packs tighter than firmware can is a bomb, above a megabyte and two hundred times', () => {
    const tight = (size: number, packed: number) =>
      refusal(() => readZip(archive([{ name: 'a', method: 8, size, packed }]))).kind
    expect(tight(2_000_001, 10_000)).toBe('zip-bomb')
    expect(tight(2_000_000, 10_000)).toBe('zip-truncated')
    expect(tight(1_000_000, 1)).not.toBe('zip-bomb')
    expect(tight(1_000_001, 1)).toBe('zip-bomb')
  })
  it('that unpacks to more or less than it says is refused', () => {
    const packed = [...zipSync({ a: new Uint8Array(500).fill(7) }, { level: 9 })]
    const start = 30 + 1
    const deflated = packed.slice(start, start + packed[18]!)
    const crc = crc32(new Uint8Array(500).fill(7))
    const of = (size: number) => archive([{ name: 'a', data: deflated, method: 8, size, crc }])
    expect(readZip(of(500))[0]!.bytes).toHaveLength(500)
    expect(refusal(() => readZip(of(499))).kind).toBe('zip-bomb')
    expect(refusal(() => readZip(of(501))).kind).toBe('zip-size')
    expect(refusal(() => readZip(archive([{ name: 'a', size: 4 }]))).kind).toBe('zip-size')
    expect(
      refusal(() => readZip(archive([{ name: 'a', data: [255, 255, 255], method: 8, size: 9 }]))).kind,
    ).toBe('zip-damaged')
  })
  it.each([
    ['a name of nothing', { name: '' }, 'zip-path'],
    ['a name with a zero in it', { name: [97, 0, 98] }, 'zip-path'],
    ['an absolute name', { name: '/a' }, 'zip-absolute'],
    ['a drive', { name: 'c:a' }, 'zip-absolute'],
    ['a climbing name', { name: 'a/..' }, 'zip-climbs'],
    ['bit 0, encrypted', { name: 'a', flags: 1 }, 'zip-encrypted'],
    ['bit 6, strongly encrypted', { name: 'a', flags: 0x40 }, 'zip-encrypted'],
    ['a method nobody knows', { name: 'a', method: 12 }, 'zip-method'],
    ['a checksum that does not hold', { name: 'a', crc: 1 }, 'zip-crc'],
    ['data that is cut off', { name: 'a', packed: 9999, size: 9999 }, 'zip-truncated'],
  ] as [string, Entry, string][])('with %s is refused', (_what, entry, kind) => {
    const facts = refusal(() => readZip(archive([entry])))
    expect(facts.kind).toBe(kind)
    expect(facts.remedy).toMatch(/Unpack it with a tool you trust/)
  })
  it('two dots within a name climb nowhere', () => {
    expect(readZip(archive([{ name: 'a..b/c...hex' }]))[0]!.path).toBe('a..b/c...hex')
    expect(readZip(archive([{ name: 'a', flags: 8 }]))).toHaveLength(1)
  })
  it('whose directory points astray is refused with the place', () => {
    expect(refusal(() => readZip(archive([{ name: 'a' }], { start: 3 })))).toMatchObject({
      kind: 'zip-directory',
      place: { offset: 3 },
    })
    expect(refusal(() => readZip(archive([{ name: 'a' }], { start: 100_000 }))).kind).toBe('zip-directory')
    expect(refusal(() => readZip(archive([{ name: 'a' }], { count: 2 }))).kind).toBe('zip-directory')
    const astray = archive([{ name: 'a' }])
    astray[0] = 0
    expect(refusal(() => readZip(astray))).toMatchObject({
      kind: 'zip-directory',
      place: { at: 'a', offset: 0 },
    })
    expect(refusal(() => readZip(new Uint8Array(10))).kind).toBe('zip-truncated')
    expect(refusal(() => readZip(plain.subarray(0, plain.length - 30))).kind).toBe('zip-truncated')
  })
})

describe('a DFU suffix', () => {
  const payload = Uint8Array.from({ length: 100 }, (_, at) => at)
  const ids = { vendorId: 0x1234, productId: 0x5678, deviceRelease: 0x0102 }
  /** A file with some bytes of its suffix changed, its checksum made right again. */
  const changed = (change: (suffix: DataView, file: Uint8Array) => void, right = true): Uint8Array => {
    const file = writeDfuSuffix(payload, ids)
    const view = new DataView(file.buffer, file.length - 16)
    change(view, file)
    if (right) view.setUint32(12, dfuCrc(file.subarray(0, file.length - 4)), true)
    return file
  }
  // Appendix B, table B.1, from the end: CRC 4, length 1, "UFD" 3, format 2, vendor 2, product 2, device 2.
  it('stands at the end, backwards', () => {
    const file = writeDfuSuffix(payload, ids)
    expect([...file.subarray(100, 112)]).toEqual([
      0x02, 0x01, 0x78, 0x56, 0x34, 0x12, 0x00, 0x01, 0x55, 0x46, 0x44, 16,
    ])
    expect(readDfuSuffix(file)).toEqual({ payload, suffix: { ...ids, length: 16 } })
    expect(hasDfuSuffix(file)).toBe(true)
    expect(hasDfuSuffix(payload)).toBe(false)
    expect(hasDfuSuffix(new Uint8Array(0))).toBe(false)
    expect(hasDfuSuffix(Uint8Array.from([0x55, 0x46, 0x44, 16, 0, 0, 0, 0]))).toBe(false)
  })
  it.each([
    [0x0100, null],
    [0x011a, null],
    [0x0101, 'dfu-version'],
    [0x0200, 'dfu-version'],
    [0, 'dfu-version'],
  ])('of format %i: %s', (version, kind) => {
    const file = changed((view) => view.setUint16(6, version, true))
    if (kind === null) expect(readDfuSuffix(file).payload).toEqual(payload)
    else expect(refusal(() => readDfuSuffix(file))).toMatchObject({ kind, place: { offset: 106 } })
  })
  it.each([
    [15, 'dfu-length'],
    [0, 'dfu-length'],
    [16, 100],
    [17, 99],
    [116, 0],
    [117, 'dfu-length'],
    [255, 'dfu-length'],
  ])('of %i bytes in a file of 116: %s', (length, wanted) => {
    const file = changed((view) => view.setUint8(11, length))
    if (typeof wanted === 'number') expect(readDfuSuffix(file).payload).toHaveLength(wanted)
    else expect(refusal(() => readDfuSuffix(file))).toMatchObject({ kind: wanted, place: { offset: 111 } })
  })
  it('is refused when a byte of payload or suffix changed, or its mark is missing', () => {
    expect(refusal(() => readDfuSuffix(changed((_, file) => (file[5]! ^= 1), false))).kind).toBe('dfu-crc')
    expect(refusal(() => readDfuSuffix(changed((view) => view.setUint16(0, 9, true), false)))).toMatchObject({
      kind: 'dfu-crc',
      place: { offset: 112 },
    })
    for (const at of [8, 9, 10])
      expect(refusal(() => readDfuSuffix(changed((view) => view.setUint8(at, 0)))).kind).toBe('dfu-mark')
  })
})
