import { describe, expect, it } from 'vitest'
import { readUf2, writeUf2 } from './uf2'
import { refusal } from './refusal.test-support'

/*
 * Source: the open description of the USB Flashing Format: blocks of 512 bytes; marks 0x0A324655, 0x9E5D5157 and
 * 0x0AB16F30; flags 0x1 not for the main flash, 0x1000 a file, 0x2000 a family; at most 476 bytes in a block.
 */
interface Block {
  flags?: number
  address?: number
  size?: number
  number?: number
  total?: number
  family?: number
  fill?: number
}
function block({
  flags = 0,
  address = 0x2000,
  size = 256,
  number = 0,
  total = 1,
  family = 0,
  fill = 1,
}: Block) {
  const bytes = new Uint8Array(512)
  const view = new DataView(bytes.buffer)
  const words = [0x0a324655, 0x9e5d5157, flags, address, size, number, total, family]
  words.forEach((word, index) => view.setUint32(4 * index, word, true))
  bytes.fill(fill, 32, 32 + Math.min(size, 476))
  view.setUint32(508, 0x0ab16f30, true)
  return bytes
}
const joined = (...blocks: Uint8Array[]) => Uint8Array.from(blocks.flatMap((each) => [...each]))
const refused = (file: Uint8Array) => refusal(() => readUf2(file))
const partsOf = (...blocks: Uint8Array[]) =>
  readUf2(joined(...blocks)).parts.map(({ family, memory }) => [
    family,
    ...memory.map(({ address, bytes }) => [address, bytes.length, bytes[0], bytes.at(-1)]),
  ])

describe('a UF2 file', () => {
  it('is laid out by its blocks in any order; other payloads than 256 bytes as well', () => {
    expect(
      partsOf(
        block({ address: 0x2100, size: 476, number: 1, total: 2, fill: 2 }),
        block({ address: 0x2000, number: 0, total: 2 }),
      ),
    ).toEqual([[undefined, [0x2000, 256 + 476, 1, 2]]])
    expect(partsOf(block({ size: 1 }))).toEqual([[undefined, [0x2000, 1, 1, 1]]])
  })
  it('carries several families, each with a count of its own; one is known by the flag alone', () => {
    expect(
      partsOf(
        block({ flags: 0x2000, family: 7 }),
        block({ flags: 0x2000, family: 9, total: 2, address: 0x100 }),
        block({ flags: 0x2000, family: 9, total: 2, number: 1, address: 0x200 }),
        block({ family: 7, address: 0x900 }),
      ),
    ).toEqual([
      [7, [0x2000, 256, 1, 1]],
      [9, [0x100, 512, 1, 1]],
      [undefined, [0x900, 256, 1, 1]],
    ])
    expect(readUf2(block({ family: 7 })).parts[0]).not.toHaveProperty('family')
  })
  it.each([0x1, 0x1000])('passes blocks over that are not for the main flash: flag %i', (flags) => {
    expect(readUf2(joined(block({ flags, size: 0, total: 0 }), block({})))).toMatchObject({
      notMainFlash: 1,
      parts: [{ memory: [{ address: 0x2000 }] }],
    })
    expect(refused(block({ flags }))).toMatchObject({ kind: 'uf2-empty', place: { offset: 0 } })
  })
  it.each([
    ['nothing', new Uint8Array(0), { kind: 'uf2-length', place: { offset: 0 }, found: '0 bytes over' }],
    [
      'less than a block',
      block({}).subarray(0, 511),
      { kind: 'uf2-length', place: { offset: 0 }, found: '511 bytes over' },
    ],
    [
      'a block and a half',
      joined(block({}), block({}).subarray(0, 256)),
      { kind: 'uf2-length', place: { offset: 512, at: 'block at 1' }, found: '256 bytes over' },
    ],
    [
      'no payload',
      joined(block({ total: 2 }), block({ number: 1, total: 2, size: 0 })),
      { kind: 'uf2-payload', place: { offset: 528, at: 'block at 1' }, found: '0' },
    ],
    ['too much payload', block({ size: 477 }), { kind: 'uf2-payload', place: { offset: 16 }, found: '477' }],
    [
      'no count',
      block({ total: 0 }),
      { kind: 'uf2-missing', place: { offset: 24 }, expected: '0 blocks', found: '1 in the file' },
    ],
    [
      'more counted than there are',
      joined(block({ total: 3 }), block({ total: 3, number: 1 })),
      { kind: 'uf2-missing', place: { offset: 24 }, expected: '3 blocks', found: '2 in the file' },
    ],
    [
      'a number past the last',
      joined(block({ total: 2, number: 1, address: 0 }), block({ total: 2, number: 2 })),
      { kind: 'uf2-number', place: { offset: 532 }, expected: 'below 2', found: '2' },
    ],
    [
      'two counts',
      joined(block({ total: 2 }), block({ total: 1, address: 0 })),
      { kind: 'uf2-total', place: { offset: 536 }, expected: '2', found: '1' },
    ],
    [
      'a block twice',
      joined(block({ total: 2, number: 1 }), block({ total: 2, number: 1, address: 0 })),
      { kind: 'uf2-duplicate', place: { offset: 532 }, found: 'a second block 1' },
    ],
    [
      'a block that is missing',
      joined(block({ total: 3 }), block({ total: 3, number: 2, address: 0 }), block({ flags: 1 })),
      {
        kind: 'uf2-missing',
        place: { offset: 1536 },
        says: 'block 1 is missing',
        expected: '3 blocks',
        found: '2',
      },
    ],
  ])('is refused with %s', (_, file, facts) => {
    expect(refused(file)).toMatchObject(facts)
  })
  it.each([0, 4, 508])('is refused where a mark is another, at byte %i of any block', (at) => {
    const second = block({ total: 2, number: 1, address: 0x2100 })
    second[at]! ^= 1
    expect(refused(joined(block({ total: 2 }), second))).toMatchObject({
      kind: 'uf2-magic',
      place: { offset: 512, at: 'block at 1' },
      expected: expect.stringContaining('0A324655') as unknown,
    })
  })
  it('is refused where two blocks set one byte', () => {
    const over = joined(block({ total: 2 }), block({ total: 2, number: 1, address: 0x20ff }))
    expect(refused(over)).toMatchObject({ place: { offset: 512, at: 'block 1' } })
  })
})

describe('what is written as UF2', () => {
  it('is blocks of 256 bytes, the last of each part as long as it is', () => {
    const file = writeUf2([
      { address: 0x2000, bytes: new Uint8Array(257).fill(1) },
      { address: 0x9000, bytes: new Uint8Array(256).fill(1) },
    ])
    expect(file).toEqual(
      joined(
        block({ total: 3 }),
        block({ total: 3, number: 1, address: 0x2100, size: 1 }),
        block({ total: 3, number: 2, address: 0x9000 }),
      ),
    )
  })
  it('names a family by its flag, family 0 too', () => {
    for (const family of [0, 0xe48b_ff56])
      expect(writeUf2([{ address: 0x2000, bytes: new Uint8Array(256).fill(1) }], family)).toEqual(
        block({ flags: 0x2000, family }),
      )
  })
})
