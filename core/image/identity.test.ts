import { demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import type { Component, Family } from '../family'
import { asciiBytes } from '../kernel'
import { identifyImage, optionsText, type ImageIdentity, type MemoryMap } from '.'

/*
 * What an identity block says (PRACTICE A4, A5, B2, B9, common practice): bytes written by hand at the places that a profile
 * names; CRC-32 of "123456789" is CBF43926 (catalogue of parametrised CRC algorithms).
 */

const fog = demoFamily('fog-signal')
const [main] = fog.components
type Block = NonNullable<Component['identity']>
const start = 0x1000

/** A family of one part whose block begins with MARK. */
function familyOf(
  block: Partial<Block> = {},
  change: { component?: object; hardware?: object; id?: string } = {},
) {
  const region = { ...main!.memory.regions[0]!, use: 'application' as const, address: start, length: 0x1000 }
  const component = {
    ...main!,
    id: 'part',
    memory: { ...main!.memory, erasedByte: 0xff, regions: [region] },
    identity: { magic: 'MARK', fields: [], ...block },
    ...change.component,
  } as unknown as Component
  const hardware = { ...fog.hardware, deviceIdentifier: 'DEV', revisions: [], ...change.hardware }
  return { ...fog, id: change.id ?? 'own', hardware, components: [component] } as Family
}
/** Bytes from the start of the part on, erased where nothing is said. */
function image(pieces: Record<number, string | number[]>, length = 0x100): MemoryMap {
  const bytes = new Uint8Array(length).fill(0xff)
  for (const [at, piece] of Object.entries(pieces))
    bytes.set(typeof piece === 'string' ? asciiBytes(piece) : piece, Number(at))
  return [{ address: start, bytes }]
}
const field = (name: string, type: string, more: object = {}) => ({ field: name, offset: 8, type, ...more })
/** What one field of the block is read as. */
function read(rule: object, bytes: string | number[], change: Parameters<typeof familyOf>[1] = {}) {
  const family = familyOf({ fields: [rule] } as unknown as Partial<Block>, change)
  const identity = identifyImage(image({ 0x40: 'MARK', 0x48: bytes }), [family])!
  const {
    familyId: _family,
    componentId: _component,
    toldBy: _by,
    ...rest
  } = identity as ImageIdentity & {
    toldBy?: string
  }
  return rest
}

describe('where an identity block begins', () => {
  it('is where the profile says, and nowhere else', () => {
    const fixed = familyOf({ address: start + 0x40 })
    expect(identifyImage(image({ 0x40: 'MARK' }), [fixed])).toMatchObject({
      familyId: 'own',
      componentId: 'part',
    })
    expect(identifyImage(image({ 0x44: 'MARK' }), [fixed])).toBeNull()
    expect(identifyImage(image({ 0x40: 'MARX' }), [fixed])).toBeNull()
    // A mark that the image does not set to its end is none.
    expect(identifyImage(image({ 0x40: 'MAR' }, 0x43), [fixed])).toBeNull()
  })
  it('is where its mark stands, where the profile says no place', () => {
    const anywhere = familyOf({ fields: [field('version', 'ascii', { length: 4 })] as Block['fields'] })
    expect(identifyImage(image({ 0x60: 'MARK', 0x68: '2.41' }), [anywhere])).toMatchObject({
      version: '2.41',
    })
    expect(identifyImage(image({ 0x60: 'MARX' }), [anywhere])).toBeNull()
  })
})

describe('a field of the block', () => {
  const text = (length: number) => field('version', 'ascii', { length })
  it.each<[string, object, string | number[], object]>([
    ['a text to its zero', text(8), '2.41\0xx', { version: '2.41' }],
    ['a text to its end', text(4), '2.41', { version: '2.41' }],
    ['a text without its blanks', text(8), ' 2.41  \0', { version: '2.41' }],
    ['no text where it begins with a zero', text(4), '\x002.4', {}],
    ['no text where a byte cannot be printed', text(4), '2\x014!', {}],
    ['no text where the first cannot', text(4), '\x01241', {}],
    ['no text of erased bytes', text(4), [255, 255, 255, 255], {}],
    ['digits', field('precursor', 'hex', { length: 3 }), [1, 0xab, 0xff], { precursor: '01abff' }],
    ['no digits of zeros', field('precursor', 'hex', { length: 3 }), [0, 0, 0], {}],
    ['no digits of ones', field('precursor', 'hex', { length: 3 }), [255, 255, 255], {}],
    [
      'digits with a zero and a one among them',
      field('precursor', 'hex', { length: 2 }),
      [0, 255],
      { precursor: '00ff' },
    ],
    ['a byte', field('hardwareMajor', 'u8'), [3], { hardwareMajor: 3 }],
    ['two bytes, low one first', field('hardwareMinor', 'u16le'), [1, 2], { hardwareMinor: 0x201 }],
    ['two bytes, high one first', field('hardwareMinor', 'u16be'), [1, 2], { hardwareMinor: 0x102 }],
    ['four bytes, low one first', field('sequence', 'u32le'), [1, 0, 0, 0x80], { sequence: 0x80000001 }],
    ['four bytes, high one first', field('sequence', 'u32be'), [1, 0, 0, 0x80], { sequence: 0x01000080 }],
    ['a number written as text', field('sequence', 'ascii', { length: 3 }), '36\0', { sequence: 36 }],
    ['no number of another text', field('sequence', 'ascii', { length: 3 }), '3x\0', {}],
    ['a number as a text', field('version', 'u8'), [7], { version: '7' }],
    ['a name for a number', field('release', 'u8', { names: { 1: 'test' } }), [1], { release: 'test' }],
    ['a number without a name', field('release', 'u8', { names: { 1: 'test' } }), [2], { release: '2' }],
    // 2026-09-02 00:00 UTC is 1 788 307 200 s since 1970: 6A976700.
    [
      'a time, low byte first',
      field('buildTime', 'unix32le'),
      [0x00, 0x67, 0x97, 0x6a],
      { buildTime: Date.UTC(2026, 8, 2) },
    ],
    [
      'a time, high byte first',
      field('buildTime', 'unix32be'),
      [0x6a, 0x97, 0x67, 0x00],
      { buildTime: Date.UTC(2026, 8, 2) },
    ],
    [
      'a time written out',
      field('buildTime', 'ascii', { length: 10 }),
      '2026-09-02',
      { buildTime: Date.UTC(2026, 8, 2) },
    ],
    ['no time of another text', field('buildTime', 'ascii', { length: 10 }), 'yesterday\0', {}],
  ])('%s', (_, rule, bytes, found) => expect(read(rule, bytes)).toEqual(found))
  it('that the image does not set to its end is not read', () => {
    const family = familyOf({ fields: [field('sequence', 'u32le')] as Block['fields'] })
    expect(identifyImage(image({ 0x40: 'MARK', 0x48: [1, 0, 0, 0] }, 0x4c), [family])).toMatchObject({
      sequence: 1,
    })
    expect(identifyImage(image({ 0x40: 'MARK', 0x48: [1, 0, 0] }, 0x4b), [family])).not.toHaveProperty(
      'sequence',
    )
  })
  it('of options is their names', () => {
    const options = [
      { id: 'horn', bit: 0 },
      { id: 'lamp', bit: 3 },
      { id: 'far', bit: 31 },
    ]
    const own = { component: { options } }
    expect(read(field('options', 'u8'), [0b1001], own)).toEqual({ options: 'horn+lamp' })
    expect(read(field('options', 'u8'), [0b0110], own)).toEqual({ options: 'none' })
    expect(read(field('options', 'u32le'), [0, 0, 0, 0x80], own)).toEqual({ options: 'far' })
    expect(read(field('options', 'u8'), [1])).toEqual({ options: 'none' })
    expect(optionsText({ options } as unknown as Component, 8)).toBe('lamp')
  })
})

describe('whose an image is', () => {
  const named = (id: string, component: object = {}) =>
    familyOf(
      { fields: [field('component', 'u8', { names: { 1: 'part', 2: 'other' } })] as Block['fields'] },
      { id, component },
    )
  it('of two parts that share a mark, the number in the block tells', () => {
    const part = named('own')
    const both = {
      ...part,
      components: [...part.components, { ...part.components[0]!, id: 'other' }],
    } as Family
    const of = (number: number) => identifyImage(image({ 0x40: 'MARK', 0x48: [number] }), [both])?.componentId
    expect([of(1), of(2), of(3)]).toEqual(['part', 'other', undefined])
  })
  it('a part without a block claims nothing', () => {
    const bare = familyOf({}, { component: { identity: undefined } })
    expect(identifyImage(image({ 0x40: 'MARK' }), [bare])).toBeNull()
    expect(identifyImage(image({ 0x40: 'MARK' }), [])).toBeNull()
  })
  it('of two families that know the mark, the identifier in the block tells, else the first', () => {
    const rule = field('deviceIdentifier', 'ascii', { length: 4 })
    const family = (id: string, deviceIdentifier: string) =>
      familyOf({ fields: [rule] as Block['fields'] }, { id, hardware: { deviceIdentifier } })
    const two = [family('first', 'AAAA'), family('second', 'BBBB')]
    const of = (said: string) => identifyImage(image({ 0x40: 'MARK', 0x48: said }), two)?.familyId
    expect([of('AAAA'), of('BBBB'), of('CCCC')]).toEqual(['first', 'second', 'first'])
  })
})

// PRACTICE A4: leading digits name the hardware line.
describe('the hardware that a version names', () => {
  const markings = (component: string, startsWith: string) => [
    { field: 'serial', startsWith: '2' },
    { field: `version.${component}`, startsWith },
  ]
  const revisions = [
    { major: 9 },
    { major: 4, markings: markings('part', '24.') },
    { major: 5, markings: markings('other', '25.') },
  ]
  const major = (version: string, fields: object[] = []) =>
    identifyImage(image({ 0x40: 'MARK', 0x48: version, 0x50: [7] }), [
      familyOf(
        { fields: [field('version', 'ascii', { length: 6 }), ...fields] as Block['fields'] },
        { hardware: { revisions } },
      ),
    ])!.hardwareMajor
  it('is the one whose marking it begins with, for this part', () => {
    expect(major('24.10\0')).toBe(4)
    expect(major('25.10\0')).toBeUndefined()
    expect(major('1.24.\0')).toBeUndefined()
    expect(major('\0')).toBeUndefined()
  })
  it('is the block’s own where it says one', () => {
    expect(major('24.10\0', [field('hardwareMajor', 'u8', { offset: 16 })])).toBe(7)
  })
})

describe('a checksum at the end of an image', () => {
  const block = {
    integrity: 'crc32-trailer',
    fields: [field('length', 'u32le')],
  } as unknown as Partial<Block>
  const lengthBytes = (length: number) => [0, 8, 16, 24].map((shift) => Math.floor(length / 2 ** shift) % 256)
  const intact = (length: number | null, trailer: number[], change: object = {}) => {
    const pieces = {
      0: '123456789',
      9: trailer,
      0x40: 'MARK',
      ...(length === null ? {} : { 0x48: lengthBytes(length) }),
    }
    const family = familyOf(length === null ? { ...block, fields: [] } : block, change)
    return identifyImage(image(pieces), [family])!.intact
  }
  it('is the CRC-32 of all before it, low byte first', () => {
    expect(intact(13, [0x26, 0x39, 0xf4, 0xcb])).toEqual({
      ok: true,
      expected: 0xcbf43926,
      found: 0xcbf43926,
    })
    expect(intact(13, [0x27, 0x39, 0xf4, 0xcb])).toEqual({
      ok: false,
      expected: 0xcbf43927,
      found: 0xcbf43926,
    })
  })
  it('does not hold where the block says no length, or one that cannot be', () => {
    const none = { ok: false, expected: 0, found: 0 }
    expect(intact(null, [])).toEqual(none)
    expect(intact(7, [0, 0, 0])).toEqual(none)
    expect(intact(0x1000_0001, [])).toEqual(none)
    // Eight bytes are the least: four and their sum. CRC-32 of "1234" is 9BE3E0A3 (Python's zlib).
    expect(intact(8, [])).toEqual({ ok: false, expected: 0x38373635, found: 0x9be3e0a3 })
  })
  it('is counted from the lowest of the part’s program regions', () => {
    const region = { ...main!.memory.regions[0]!, use: 'application', address: start, length: 0x800 }
    const regions = [
      { ...region, use: 'settings', address: 0 },
      { ...region, address: start + 0x800 },
      region,
    ]
    const memory = { ...main!.memory, erasedByte: 0xff, regions }
    expect(intact(13, [0x26, 0x39, 0xf4, 0xcb], { component: { memory } })).toMatchObject({ ok: true })
  })
  it('is not looked at where the profile knows of none', () => {
    expect(read(field('length', 'u32le'), [13, 0, 0, 0])).toEqual({ length: 13 })
  })
})
