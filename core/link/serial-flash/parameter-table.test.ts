import { describe, expect, it } from 'vitest'
import { factsOf } from '../refusal.test-support'
import { readFlashTable } from './parameter-table'

/*
 * A chip's table of parameters to its bounds, written word by word from JESD216 (6.4): word 1 sectors and address bytes, word 2
 * the size, words 8 and 9 four types of block (a power of two and a command each), word 10 their times, word 11 the page, words 15
 * and 16 status and four address bytes. Words beyond those that a table has are none.
 */

/** A table with so many words; nine are the first edition's. */
function spaceOf(words: Readonly<Record<number, number>>, count = 9) {
  const space = new Uint8Array(0x200).fill(0xff)
  const view = new DataView(space.buffer)
  space.set([0x53, 0x46, 0x44, 0x50, 6, 1, 0, 0xff])
  space.set([0x00, 6, 1, count, 0x30, 0, 0, 0xff], 8)
  // 8 Mbit, sectors of 4 KiB by 20, pages of 256, three address bytes; 4 KiB by 20 and 64 KiB by D8.
  const usual: Record<number, number> = { 1: 0xfff120e5, 2: 0x007fffff, 8: 0xd810200c, 9: 0 }
  for (let word = 1; word <= 20; word++)
    view.setUint32(0x30 + (word - 1) * 4, words[word] ?? usual[word] ?? (word < 10 ? 0xffffffff : 0), true)
  return space
}
const read = (space: Uint8Array) =>
  readFlashTable(async (at, length) => space.slice(at, at + length), 'chip').then((table) => table!)
const table = (words: Readonly<Record<number, number>>, count?: number) => read(spaceOf(words, count))
const fault = (words: Readonly<Record<number, number>>, count?: number) => factsOf(table(words, count))

describe('the size of a chip', () => {
  // Below the highest bit: bits less one; with it: a power of two, in bits.
  it.each([
    ['256 bytes, the least', 256 * 8 - 1, 256],
    ['4 GiB, the most', 0x80000023, 2 ** 32],
    ['2 Gbit, the most without a power', 0x7fffffff, 2 ** 28],
  ])('%s', async (_, word2, bytes) => {
    // Blocks that fit into the least.
    expect((await table({ 2: word2, 8: 0x00002008 })).bytes).toBe(bytes)
  })
  it.each([
    ['less than 256 bytes', 255 * 8 - 1],
    ['more than 4 GiB', 0x80000024],
    ['a bit too many', 256 * 8],
    ['a power that is no byte', 0x80000002],
  ])('%s is damaged', async (_, word2) => {
    expect(await fault({ 2: word2, 8: 0x00002008 })).toMatchObject({
      kind: 'flash-table',
      place: { offset: 4 },
    })
  })
})

describe('the blocks of a chip', () => {
  const blocks = async (word8: number, word9 = 0, more: Record<number, number> = {}) =>
    (await table({ 8: word8, 9: word9, ...more })).eraseTypes.map(({ bytes, command }) => [bytes, command])
  it('are up to four, smallest first, whatever order they stand in', async () => {
    expect(await blocks(0x200cd810, 0x520fd814)).toEqual([
      [4096, 0x20],
      [32_768, 0x52],
      [65_536, 0xd8],
      [1_048_576, 0xd8],
    ])
  })
  it('of size 0 or FF are none', async () => {
    expect(await blocks(0xd810_20ff)).toEqual([[65_536, 0xd8]])
    expect(await blocks(0xd800_200c)).toEqual([[4096, 0x20]])
  })
  it('as large as the chip are taken, and twice that is damaged, by its place', async () => {
    expect(await blocks(0xd814_200c)).toEqual([
      [4096, 0x20],
      [2 ** 20, 0xd8],
    ])
    expect(await fault({ 8: 0xd815_200c })).toMatchObject({
      place: { offset: 30 },
      found: expect.stringContaining('2^21'),
    })
    expect(await fault({ 9: 0xd815 })).toMatchObject({ place: { offset: 32 } })
    // 2^31 bytes in a chip of 4 GiB; 2^32 no word holds.
    expect(await blocks(0xd81f_200c, 0, { 2: 0x80000023 })).toHaveLength(2)
    expect(await fault({ 2: 0x80000023, 8: 0xd820_200c })).toMatchObject({ place: { offset: 30 } })
  })
  it('are the sectors of word 1 where there are no others', async () => {
    expect(await blocks(0, 0, { 1: 0xfff121e5 })).toEqual([[4096, 0x21]])
    expect(await fault({ 1: 0xfff120e7, 8: 0, 9: 0 })).toMatchObject({
      found: 'it names no block that can be erased',
    })
    // With others they are not added again.
    expect(await blocks(0xd810_200c)).toHaveLength(2)
  })
})

describe('words that a table does not have', () => {
  const word10 = 2 | (2 << 4) | (1 << 9)
  it('tell no time: the tenth', async () => {
    expect((await table({ 10: word10 }, 9)).eraseTypes[0]).toMatchObject({ usualMs: null, maxMs: null })
    expect((await table({ 10: word10 }, 10)).eraseTypes[0]).toMatchObject({ usualMs: 48, maxMs: 288 })
    expect((await table({ 10: 0xffffffff }, 10)).eraseTypes[0]).toMatchObject({ usualMs: null })
  })
  it('tell no page: the eleventh; word 1 says then whether pages are written at all', async () => {
    const word11 = 1 | (9 << 4) | (10 << 8)
    // (10 + 1) × 8 µs.
    expect(await table({ 11: word11 }, 11)).toMatchObject({ pageBytes: 512, program: { usualMs: 0.088 } })
    expect(await table({ 11: word11 }, 10)).toMatchObject({
      pageBytes: 256,
      program: { usualMs: null, maxMs: null },
    })
    expect(await table({ 11: 0xffffffff }, 11)).toMatchObject({ pageBytes: 256, program: { usualMs: null } })
    expect((await table({ 1: 0xfff120e1 })).pageBytes).toBe(1)
  })
  it('tell nothing of status and addresses: the fifteenth and sixteenth', async () => {
    expect((await table({ 15: 1 << 20 }, 15)).statusBytes).toBe(2)
    expect((await table({ 15: 1 << 20 }, 14)).statusBytes).toBe(1)
    expect((await table({ 16: 0x01000000 }, 16)).fourByte).toBe('enter')
    expect((await table({ 16: 0x01000000 }, 15)).fourByte).toBeNull()
  })
})

describe('where tables lie', () => {
  it('the later of two of one kind counts where it is as long, and the longer one', async () => {
    const two = (first: number, second: number) => {
      const space = spaceOf({})
      const view = new DataView(space.buffer)
      space.set([6, 1, 1], 4)
      space.set([0x00, 0, 1, first, 0x30, 0, 0, 0xff], 8)
      space.set([0x00, 6, 1, second, 0x00, 1, 0, 0xff], 16)
      space.copyWithin(0x100, 0x30, 0x30 + 80)
      view.setUint32(0x104, 0x00ffffff, true)
      return space
    }
    expect(await read(two(9, 9))).toMatchObject({ revision: '1.6', bytes: 2 ** 21 })
    expect(await read(two(9, 16))).toMatchObject({ revision: '1.6', bytes: 2 ** 21 })
    expect(await read(two(16, 9))).toMatchObject({ revision: '1.0', bytes: 2 ** 20 })
  })
  it('at no whole word is damaged', async () => {
    const space = spaceOf({})
    space[12] = 0x31
    expect(await factsOf(read(space))).toMatchObject({ kind: 'flash-table', place: { offset: 8 } })
  })
})
