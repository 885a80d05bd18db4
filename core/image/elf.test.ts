import { describe, expect, it } from 'vitest'
import { readElf } from './elf'
import { refusal } from './refusal.test-support'

/*
 * Source: System V ABI, edition 4.1, chapter 4 (the header of 52 bytes: class at 4, byte order at 5, type at 16, entry at 24,
 * program headers at 28, their size and count at 42 and 44) and 5 (a program header of 32 bytes: type, offset, virtual and
 * physical address, size in the file and in memory; PT_LOAD is 1, PT_NOTE 4).
 */
interface Header {
  type?: number
  offset: number
  virtual?: number
  physical: number
  inFile: number
  inMemory?: number
}
function elf(
  headers: readonly Header[],
  {
    little = true,
    type = 2,
    entry = 0,
    table = 52,
    size = 32,
    count = headers.length,
    length = 0x400,
  }: Partial<Record<'type' | 'entry' | 'table' | 'size' | 'count' | 'length', number>> & {
    little?: boolean
  } = {},
) {
  const file = Uint8Array.from({ length }, (_, at) => at & 255)
  file.set([0x7f, 0x45, 0x4c, 0x46, 1, little ? 1 : 2, 1], 0)
  const view = new DataView(file.buffer)
  view.setUint16(16, type, little)
  view.setUint32(24, entry, little)
  view.setUint32(28, table, little)
  view.setUint16(42, size, little)
  view.setUint16(44, count, little)
  headers.forEach(({ type: kind = 1, offset, virtual = 0, physical, inFile, inMemory = inFile }, index) => {
    const at = 52 + index * size
    const words = [kind, offset, virtual, physical, inFile, inMemory]
    words.forEach((word, place) => view.setUint32(at + 4 * place, word, little))
  })
  return file
}
const part = { offset: 0x200, virtual: 0x9000, physical: 0x2000, inFile: 4 }
const refused = (file: Uint8Array) => refusal(() => readElf(file))
const changed = (at: number, byte: number) => {
  const file = elf([part])
  file[at] = byte
  return file
}

describe('an ELF file', () => {
  it.each([
    [true, 'little'],
    [false, 'big'],
  ] as const)('is loaded at its physical addresses, in either byte order', (little, endian) => {
    const file = elf(
      [
        { ...part, inMemory: 0x100 },
        { offset: 0x300, physical: 0x8000, inFile: 2 },
      ],
      {
        little,
        entry: 0x2001,
      },
    )
    expect(readElf(file)).toEqual({
      endian,
      start: { kind: 'linear', address: 0x2001 },
      memory: [
        { address: 0x2000, bytes: Uint8Array.from([0, 1, 2, 3]) },
        { address: 0x8000, bytes: Uint8Array.from([0, 1]) },
      ],
    })
  })
  it('starts nowhere where it says 0, and keeps what is loaded alone', () => {
    const note = { type: 4, offset: 0x280, physical: 0x7000, inFile: 8 }
    const empty = { offset: 0, physical: 0x6000, inFile: 0, inMemory: 64 }
    const read = readElf(elf([note, part, empty]))
    expect(read).not.toHaveProperty('start')
    expect(read.memory.map(({ address }) => address)).toEqual([0x2000])
  })
  it('may have larger program headers than the ABI names', () => {
    expect(
      readElf(elf([part, { ...part, offset: 0x240, physical: 0x4000 }], { size: 40 })).memory,
    ).toHaveLength(2)
  })
  it('may load its own headers with its first segment', () => {
    expect(readElf(elf([{ ...part, offset: 0, inFile: 0x100 }])).memory[0]!.bytes).toHaveLength(0x100)
  })
  it('may reach the last byte of the file, and of memory', () => {
    expect(readElf(elf([{ ...part, offset: 0x3fc }])).memory[0]!.bytes.at(-1)).toBe(0xff)
    expect(readElf(elf([{ ...part, physical: 0xffff_fffc }])).memory[0]!.address).toBe(0xffff_fffc)
    // Headers at the very end of the file.
    const file = elf([part], { table: 0x400 - 32 })
    file.copyWithin(0x400 - 32, 52, 84)
    expect(readElf(file).memory).toHaveLength(1)
  })
  it.each<[Uint8Array, object]>([
    [new Uint8Array(51), { kind: 'elf-truncated', place: { offset: 0 } }],
    ...[0, 1, 2, 3].map(
      (at) => [changed(at, 0), { kind: 'elf-magic', place: { offset: 0 } }] as [Uint8Array, object],
    ),
    [changed(4, 2), { kind: 'elf-class', place: { offset: 4 }, found: 'class 2' }],
    [changed(5, 0), { kind: 'elf-endian', place: { offset: 5 }, found: '0' }],
    [changed(5, 3), { kind: 'elf-endian', place: { offset: 5 }, found: '3' }],
    [elf([part], { type: 1 }), { kind: 'elf-type', place: { offset: 16 }, found: 'type 1' }],
    [elf([part], { type: 3 }), { kind: 'elf-type', found: 'type 3' }],
    [elf([]), { kind: 'elf-no-segments', place: { offset: 44 }, found: '0' }],
    [elf([{ ...part, type: 4 }]), { kind: 'elf-no-segments', place: { offset: 52 }, found: 'none' }],
    [elf([part], { size: 31 }), { kind: 'elf-header-size', place: { offset: 42 }, found: '31' }],
    [elf([part], { count: 4097 }), { kind: 'elf-header-count', place: { offset: 44 }, found: '4097' }],
    [elf([part], { count: 4096 }), { kind: 'elf-header-place', found: 'byte 52, 131072 long' }],
    [
      elf([part], { table: 51 }),
      {
        kind: 'elf-header-place',
        place: { offset: 28 },
        expected: 'between byte 52 and 1024',
        found: 'byte 51, 32 long',
      },
    ],
    [elf([part], { table: 0x400 - 31 }), { kind: 'elf-header-place' }],
    [
      elf([{ ...part, offset: 0x3fd }]),
      {
        kind: 'elf-segment-place',
        place: { offset: 56 },
        expected: 'at most byte 1024',
        found: 'bytes 1021 to 1024',
      },
    ],
    [
      elf([{ ...part, inMemory: 3 }]),
      { kind: 'elf-segment-size', place: { offset: 68 }, expected: 'at most 3', found: '4' },
    ],
    [
      elf([{ ...part, offset: 83 }]),
      { kind: 'elf-header-overlap', place: { offset: 56 }, expected: 'behind byte 84', found: 'byte 83' },
    ],
    [elf([{ ...part, offset: 50 }]), { kind: 'elf-header-overlap', found: 'byte 50' }],
    [
      elf([part, { ...part, offset: 0x203, physical: 0x8000 }]),
      { kind: 'elf-segment-overlap', place: { offset: 88 }, found: 'byte 515' },
    ],
    [
      elf([part, { ...part, offset: 0x1fd, physical: 0x8000 }]),
      { kind: 'elf-segment-overlap', found: 'byte 509' },
    ],
    [elf([{ ...part, physical: 0xffff_fffd }]), { kind: 'elf-range', place: { offset: 64 } }],
    [elf([part, { ...part, offset: 0x240, physical: 0x2003 }]), { place: { offset: 84, at: 'segment 1' } }],
  ])('is refused at its place: %#', (file, facts) => {
    expect(refused(file)).toMatchObject(facts)
  })
  it.each([0x1fc, 0x204, 84, 48])(
    'is read where a segment only touches what stands beside it: byte %i',
    (offset) => {
      const beside = { ...part, offset, physical: 0x8000 }
      expect(readElf(elf(offset < 0x100 ? [beside] : [part, beside])).memory.length).toBeGreaterThan(0)
    },
  )
})
