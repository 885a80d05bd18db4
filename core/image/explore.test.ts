import { demoFamily, demoFamilyList } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import type { Family } from '../family'
import { asciiBytes } from '../kernel'
import { entropyOf, exploreImage, textsIn, vectorTableOf, type MemoryMap } from '.'

/* What a plain look tells of an image that no profile claims; expected values worked by hand. */

const at = (address: number, bytes: Uint8Array): MemoryMap => [{ address, bytes }]
/** Erased flash with texts in it. */
const holding = (texts: Record<number, string>, length = 4000): Uint8Array => {
  const bytes = new Uint8Array(length).fill(0xff)
  for (const [place, text] of Object.entries(texts)) bytes.set(asciiBytes(text), Number(place))
  return bytes
}

// Source: Shannon 1948, H = −Σ p·log2 p: one value 0, two equally frequent 1, all 256 equally frequent 8 bits a byte.
describe('entropy along the address line', () => {
  it.each([
    ['one value', () => new Uint8Array(256), 0],
    ['two, equally frequent', () => Uint8Array.from({ length: 256 }, (_, index) => index & 1), 1],
    ['four, equally frequent', () => Uint8Array.from({ length: 256 }, (_, index) => index & 3), 2],
    // −(0.25·log2 0.25 + 0.75·log2 0.75) = 0.5 + 0.311278.
    ['one in four', () => Uint8Array.from({ length: 256 }, (_, index) => Number(index % 4 === 0)), 0.811278],
    ['all, equally frequent', () => Uint8Array.from({ length: 256 }, (_, index) => index), 8],
  ])('%s', (_, bytes, bits) => {
    expect(entropyOf(at(0, bytes()))[0]!.bits).toBeCloseTo(bits, 6)
  })
  it('is taken of 256 bytes at a time, and of twice as many until the blocks are few enough', () => {
    const lengths = (length: number, max?: number) =>
      entropyOf(at(0x100, new Uint8Array(length)), max).map((block) => [block.address, block.length])
    expect(lengths(300)).toEqual([
      [0x100, 256],
      [0x200, 44],
    ])
    expect(lengths(1024, 4)).toHaveLength(4)
    expect(lengths(1025, 4)).toEqual([
      [0x100, 512],
      [0x300, 512],
      [0x500, 1],
    ])
    expect(lengths(65_536)).toHaveLength(256)
    expect(lengths(65_537)).toHaveLength(129)
  })
  it('begins anew with each segment', () => {
    const memory = [...at(0, new Uint8Array(300)), ...at(0x8000, Uint8Array.of(1, 2))]
    expect(entropyOf(memory)).toEqual([
      { address: 0, length: 256, bits: 0 },
      { address: 256, length: 44, bits: 0 },
      { address: 0x8000, length: 2, bits: 1 },
    ])
  })
})

describe('texts among the bytes', () => {
  const kinds = (texts: Record<number, string>) =>
    textsIn(at(0x8000, holding(texts))).map(({ address, kind, text }) => [address - 0x8000, kind, text])

  // Forms of versions, dates and model marks as they stand in images: common practice.
  it.each([
    ['2.41', 'version'],
    ['V2.41', 'version'],
    ['2.41.3.1004', 'version'],
    ['2.41b', 'version'],
    ['2.41-rc.1', 'version'],
    ['2.41+g1f', 'version'],
    ['horn ver 2.41 of May', 'version'],
    ['Version: v12.4.1', 'version'],
    ['fw=2.41', 'version'],
    ['Rev.10.2', 'version'],
    ['2026-09-02', 'date'],
    ['built 20260902', 'date'],
    ['2026/12/31 12:00', 'date'],
    ['1999.10.20', 'date'],
    ['Sep  2 2026', 'date'],
    ['September 2, 2026', 'date'],
    ['FS-20\0', 'model'],
    ['BR100A\0', 'model'],
    ['ABCDE-1\0', 'model'],
    ['Horn character not set', 'text'],
    ['build of 2026-13-02', 'text'],
    ['build of 2026-09-32', 'text'],
    ['build of 2126-09-02', 'text'],
    ['verdict 2.41', 'text'],
    ['version of 2.41', 'text'],
    ['Sept2026', 'text'],
    ['horn-20\0', 'text'],
    ['ABCDEF-1\0', 'text'],
    ['ABC-12345\0', 'text'],
    ['xABC-12\0', 'text'],
  ])('%j looks like a %s', (text, kind) => {
    expect(kinds({ 16: text })).toEqual([[16, kind, text.replace('\0', '')]])
  })
  it.each([
    ['2.4 1', 'a version with a blank in it'],
    ['2.41.3.1004.5', 'a version of five parts'],
    ['1234.1', 'a first part of four digits'],
    ['FS-20', 'a model that no zero ends'],
    ['ab', 'two letters'],
    ['abcde', 'a word of five letters'],
    ['ab1cd2ef', 'no three letters in a row'],
  ])('%j is passed over: %s', (text) => {
    expect(kinds({ 16: text })).toEqual([])
  })
  it('are those of four characters that can be printed, from a blank to a tilde', () => {
    expect(kinds({ 16: '\x1f1.2~', 32: '1.23\x7f', 48: '1.2\x7f' })).toEqual([[32, 'version', '1.23']])
    expect(kinds({ 16: 'abcdef~' })).toEqual([[16, 'text', 'abcdef~']])
    expect(kinds({ 16: '  1.2  ' })).toEqual([[16, 'version', '1.2']])
  })
  it('go to the last byte of a segment, and not from one into the next', () => {
    expect(textsIn(at(0, asciiBytes('2.41')))).toEqual([{ address: 0, text: '2.41', kind: 'version' }])
    const memory = [...at(0, asciiBytes('built by ')), ...at(9, asciiBytes('2.41'))]
    expect(textsIn(memory).map(({ text }) => text)).toEqual(['2.41', 'built by'])
  })
  it('are shown by their first eighty characters', () => {
    expect(kinds({ 16: 'n'.repeat(100) })).toEqual([[16, 'text', 'n'.repeat(80)]])
  })
  it('stand sorted: versions, dates, models, then the rest', () => {
    const found = kinds({ 16: 'Horn character', 64: 'FS-20\0', 96: '2026-09-02', 128: '2.41' })
    expect(found.map(([, kind]) => kind)).toEqual(['version', 'date', 'model', 'text'])
  })
  it('are two hundred at the most, what tells something first', () => {
    const all = (one: (index: number) => string, count: number) =>
      asciiBytes(Array.from({ length: count }, (_, index) => one(index)).join('\0'))
    const versions = textsIn(
      at(
        0,
        all((index) => `1.${index}`.padEnd(5, '0'), 300),
      ),
    )
    expect(versions).toHaveLength(200)
    const words = Array.from({ length: 250 }, (_, index) => `word ${index}`).join('\0')
    const found = textsIn(at(0, asciiBytes(`${words}\0${'2.41'}\0`)))
    expect(found).toHaveLength(200)
    expect(found[0]!.text).toBe('2.41')
    expect(found[199]!.text).toBe('word 198')
  })
})

// Source: Armv7-M Architecture Reference Manual, B1.5.3: word 0 the stack pointer, word 1 reset with bit 0 set; memory map
// of B3.1: data in 0x20000000 to 0x3FFFFFFF, with memories of the code region below it.
describe('a vector table', () => {
  const start = 0x0800_0000
  const image = (stack: number, reset: number, length = 1024) => {
    const bytes = new Uint8Array(length).fill(0x42)
    const view = new DataView(bytes.buffer)
    view.setUint32(0, stack, true)
    view.setUint32(4, reset, true)
    return bytes
  }
  const judged = (stack: number, reset: number) => vectorTableOf(at(start, image(stack, reset)))

  it('makes sense with a stack in memory and a reset routine within the image', () => {
    expect(judged(0x2000_4000, start + 0x101)).toEqual({
      address: start,
      stack: 0x2000_4000,
      reset: start + 0x101,
      makesSense: true,
      because: 'Stack in memory, reset routine within the image.',
    })
  })
  it.each([
    ['lowest stack', 0x1000_0000, start + 0x101, true],
    ['a word below it', 0x0fff_fffc, start + 0x101, false],
    ['highest stack', 0x3fff_fffc, start + 0x101, true],
    ['a word above it', 0x4000_0000, start + 0x101, false],
    ['a stack between two words', 0x2000_4002, start + 0x101, false],
    ['the first instruction', 0x2000_4000, start + 1, true],
    ['below the image', 0x2000_4000, start - 1, false],
    ['the last instruction', 0x2000_4000, start + 1023, true],
    ['behind it', 0x2000_4000, start + 1025, false],
    ['a reset without its lowest bit', 0x2000_4000, start + 0x102, false],
  ])('%s', (_, stack, reset, makesSense) => {
    expect(judged(stack, reset)?.makesSense).toBe(makesSense)
  })
  it('says each thing that is wrong', () => {
    expect(judged(0x2000_4002, start + 0x102)!.because).toBe(
      'The first word is no stack in memory; the reset routine’s lowest bit is not set.',
    )
    expect(judged(0x2000_4000, 0x0900_0101)!.because).toBe('The reset routine lies outside the image.')
  })
  it('is looked for at the head of every segment of sixteen words, and is none where nothing of it holds', () => {
    const good = image(0x2000_4000, start + 0x101)
    expect(judged(3, 0x10)).toBeNull()
    expect(vectorTableOf(at(start, new Uint8Array(100).fill(0xff)))).toBeNull()
    expect(vectorTableOf([...at(0x100, image(3, 0x10)), ...at(start, good)])?.address).toBe(start)
    expect(vectorTableOf([...at(0x100, new Uint8Array(64).fill(0xff)), ...at(start, good)])?.address).toBe(
      start,
    )
    expect(vectorTableOf(at(start, image(0x2000_4000, start + 1, 64)))).not.toBeNull()
    expect(vectorTableOf(at(start, image(0x2000_4000, start + 1, 63)))).toBeNull()
    expect(vectorTableOf([])).toBeNull()
    // Only one of the two words erased is no erased table.
    expect(judged(0xffff_ffff, start + 0x101)).toMatchObject({ makesSense: false })
  })
})

describe('equipment that an image without a label may be for', () => {
  const fog = demoFamily('fog-signal')
  const main = fog.components[0]!
  const region = main.memory.regions.find(({ use }) => use === 'application')!
  const mark = main.identity!.magic
  const device = fog.hardware.deviceIdentifier
  const possible = (memory: MemoryMap, families: readonly Family[] = [fog]) =>
    exploreImage(memory, families).possible
  const elsewhere = 0x100

  it('is told by the mark at another place, by its identifier, by where it lies', () => {
    const inside = `it lies within the ${main.name.toLowerCase()}’s memory`
    const capital = (text: string) => `${text[0]!.toUpperCase()}${text.slice(1)}.`
    const of = (memory: MemoryMap) => possible(memory).map(({ because }) => because)
    expect(of(at(elsewhere, holding({ 64: mark })))).toEqual([`Its mark ${mark} stands at another place.`])
    expect(of(at(elsewhere, holding({ 64: device })))).toEqual([`It holds the text ${device}.`])
    expect(of(at(region.address, holding({})))).toEqual([capital(inside)])
    expect(of(at(region.address, holding({ 64: mark, 640: device })))).toEqual([
      `Its mark ${mark} stands at another place; it holds the text ${device}; ${inside}.`,
    ])
    expect(of(at(elsewhere, holding({})))).toEqual([])
  })
  it('lies within memory to its last byte', () => {
    const ends = (from: number, length: number) => possible(at(from, new Uint8Array(length))).length
    const { address, length } = region
    expect([ends(address, 16), ends(address - 1, 16)]).toEqual([1, 0])
    expect([ends(address + length - 16, 16), ends(address + length - 15, 16)]).toEqual([1, 0])
    expect(possible([...at(address, new Uint8Array(4)), ...at(0, new Uint8Array(4))])).toEqual([])
  })
  it('stands best first: a mark before an identifier before a place, the first eight', () => {
    const named = (id: string, change: { mark?: string; device?: string; address?: number }): Family => ({
      ...fog,
      id,
      hardware: { ...fog.hardware, deviceIdentifier: change.device ?? 'NOT-HERE' },
      components: [
        {
          ...main,
          identity: { ...main.identity!, magic: change.mark ?? 'NOR-HERE' },
          memory: {
            ...main.memory,
            regions: main.memory.regions.map((each) => ({
              ...each,
              address: change.address ?? each.address,
            })),
          },
        },
      ],
    })
    const memory = at(0x5000, holding({ 64: 'MARK', 128: 'DEVICE' }))
    const families = [
      named('place', { address: 0x5000 }),
      named('device', { device: 'DEVICE' }),
      named('device-place', { device: 'DEVICE', address: 0x5000 }),
      named('mark', { mark: 'MARK' }),
      named('nothing', {}),
      named('all', { mark: 'MARK', device: 'DEVICE', address: 0x5000 }),
    ]
    expect(possible(memory, families).map(({ familyId }) => familyId)).toEqual([
      'all',
      'mark',
      'device-place',
      'device',
      'place',
    ])
    const many = Array.from({ length: 12 }, (_, index) => named(`n${index}`, { address: 0x5000 }))
    expect(possible(memory, many).map(({ familyId }) => familyId)).toEqual(
      many.slice(0, 8).map(({ id }) => id),
    )
    expect(possible(memory, many)[0]).toEqual({
      familyId: 'n0',
      componentId: 'main',
      because: expect.any(String),
    })
  })
  it('is looked for among all profiles', () => {
    expect(possible(at(0x0800_8000, holding({ 0x500: 'FS-20' })), demoFamilyList)[0]).toMatchObject({
      familyId: 'fog-signal',
      because: expect.stringMatching(/holds the text FS-20/),
    })
  })
})
