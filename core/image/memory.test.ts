import { createHash } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { layOut } from './lay-out'
import { refusal } from './refusal.test-support'
import {
  bytesAt,
  byteCount,
  contentDigest,
  formatEndings,
  holdsRange,
  maxFill,
  rangesOf,
  segmentsWithin,
  spanOf,
  writeImage,
  type ExportForm,
  type MemoryMap,
  type WritableFormat,
} from '.'

/* How the pieces of a file become memory, and what is asked of it, byte by byte. */

describe('pieces become memory', () => {
  const piece = (address: number, ...bytes: number[]) => ({
    address,
    bytes: Uint8Array.from(bytes),
    place: { line: address },
  })
  const laid = (...pieces: ReturnType<typeof piece>[]) =>
    layOut(pieces, 'test').map(({ address, bytes }) => [address, [...bytes]])
  it('in rising order, joined where they touch, apart where they do not', () => {
    expect(laid(piece(8, 3), piece(0, 1), piece(1, 2))).toEqual([
      [0, [1, 2]],
      [8, [3]],
    ])
    expect(laid(piece(0, 1), piece(2, 2))).toEqual([
      [0, [1]],
      [2, [2]],
    ])
    expect(laid(piece(5), piece(0, 1), piece(1))).toEqual([[0, [1]]])
    expect(laid(piece(0, 1), piece(1, 2, 3), piece(3, 4))).toEqual([[0, [1, 2, 3, 4]]])
    expect(laid()).toEqual([])
  })
  it('no byte is set twice: the second is named by its place', () => {
    expect(refusal(() => laid(piece(0, 1, 2), piece(1, 3)))).toMatchObject({
      kind: 'test-overlap',
      place: { line: 1 },
      says: 'the byte at 0x00000001 is set twice',
    })
    expect(refusal(() => laid(piece(9, 1), piece(9, 1)))).toMatchObject({ kind: 'test-overlap' })
    expect(refusal(() => laid(piece(0, 1, 2, 3, 4), piece(4, 5), piece(3, 6)))).toMatchObject({
      kind: 'test-overlap',
    })
  })
  it('in 65 536 separate pieces at the most', () => {
    const apart = (count: number) => Array.from({ length: count }, (_, at) => piece(at * 2, 1))
    expect(laid(...apart(65_536))).toHaveLength(65_536)
    expect(refusal(() => laid(...apart(65_537)))).toMatchObject({
      kind: 'test-shattered',
      place: { line: 65_536 * 2 },
      says: expect.stringContaining('65536 separate pieces'),
    })
  })
  it('to the last byte of 32-bit memory and not one more', () => {
    expect(laid(piece(0xffff_fffe, 1, 2))).toHaveLength(1)
    expect(refusal(() => laid(piece(0xffff_fffe, 1, 2, 3)))).toMatchObject({
      kind: 'test-range',
      place: { line: 0xffff_fffe },
      found: '3 bytes at 0xFFFFFFFE',
    })
    expect(refusal(() => laid(piece(0xffff_fff0, 1), piece(0xffff_ffff, 1, 2)))).toMatchObject({
      kind: 'test-range',
    })
  })
})

describe('memory', () => {
  const memory: MemoryMap = [
    { address: 0x10, bytes: Uint8Array.of(1, 2, 3, 4) },
    { address: 0x20, bytes: Uint8Array.of(5, 6) },
  ]
  it('counts its bytes, its ranges and its span', () => {
    expect(byteCount(memory)).toBe(6)
    expect(rangesOf(memory)).toEqual([
      { address: 0x10, length: 4 },
      { address: 0x20, length: 2 },
    ])
    expect(spanOf(memory)).toEqual({ from: 0x10, to: 0x22 })
    expect(spanOf([])).toBeNull()
  })
  it.each<[number, number, number[]]>([
    [0x10, 4, [1, 2, 3, 4]],
    [0x11, 2, [2, 3]],
    [0x0e, 4, [9, 9, 1, 2]],
    [0x13, 3, [4, 9, 9]],
    [0x1f, 4, [9, 5, 6, 9]],
    [0x12, 0x10, [3, 4, ...Array.from({ length: 12 }, () => 9), 5, 6]],
    [0x40, 2, [9, 9]],
    [0x14, 2, [9, 9]],
    [0x0f, 1, [9]],
  ])('from 0x%s, %i bytes, gaps filled', (address, length, bytes) => {
    expect([...bytesAt(memory, address, length, 9)]).toEqual(bytes)
  })
  it('holds a range whole or not, to its last byte', () => {
    expect(holdsRange(memory, 0x10, 4)).toBe(true)
    expect(holdsRange(memory, 0x12, 2)).toBe(true)
    expect(holdsRange(memory, 0x10, 5)).toBe(false)
    expect(holdsRange(memory, 0x0f, 2)).toBe(false)
    expect(holdsRange(memory, 0x12, 0x10)).toBe(false)
  })
  it('touches a range by one byte, or not at all', () => {
    const touched = (address: number, length: number) =>
      segmentsWithin(memory, address, length).map((each) => each.address)
    expect(touched(0x0c, 4)).toEqual([])
    expect(touched(0x0c, 5)).toEqual([0x10])
    expect(touched(0x13, 1)).toEqual([0x10])
    expect(touched(0x14, 0x0c)).toEqual([])
    expect(touched(0x13, 0x0e)).toEqual([0x10, 0x20])
  })
  it('has one digest whatever file it came from: SHA-256 over address, length and bytes of each', () => {
    const hash = createHash('sha256')
      .update(Buffer.from('00000010' + '00000004' + '01020304' + '00000020' + '00000002' + '0506', 'hex'))
      .digest('hex')
    expect(contentDigest(memory)).toBe(hash)
    expect(contentDigest([memory[0]!, { ...memory[1]!, address: 0x21 }])).not.toBe(hash)
  })
  it('as a plain binary has its gaps filled, as far as they are not mostly made up', () => {
    expect([...writeImage(memory, 'bin')].slice(2, 6)).toEqual([3, 4, 0xff, 0xff])
    expect(writeImage(memory, 'bin', { fill: 0 })[4]).toBe(0)
    expect(writeImage(memory, 'bin')).toHaveLength(0x12)
    expect(writeImage([], 'bin')).toHaveLength(0)
    const apart = (gap: number): MemoryMap => [
      { address: 0, bytes: Uint8Array.of(1) },
      { address: 1 + gap, bytes: Uint8Array.of(2) },
    ]
    expect(writeImage(apart(maxFill), 'bin')).toHaveLength(maxFill + 2)
    expect(refusal(() => writeImage(apart(maxFill + 1), 'bin'))).toMatchObject({
      kind: 'export-gap',
      place: { at: 'format' },
      found: '2 separate pieces',
    })
    expect(maxFill).toBe(16 * 1024 * 1024)
  })
  // Intel 1988 and srec(5): the same four bytes at 0x100, their sums worked by hand.
  it('as a text has its addresses, and what else it may say', () => {
    const four: MemoryMap = [{ address: 0x100, bytes: Uint8Array.of(1, 2, 3, 4) }]
    const text = (...form: [WritableFormat, ExportForm?]) =>
      Buffer.from(writeImage(four, ...form)).toString('latin1')
    // 04 + 01 + 00 + 00 + 0A = 0F; the two's complement is F1. An entry of type 05: 04 + 05 + 01 + 01 = 0B.
    expect(text('ihex')).toBe(':0401000001020304F1\n:00000001FF\n')
    expect(text('ihex', { start: { kind: 'linear', address: 0x101 } })).toBe(
      ':0401000001020304F1\n:0400000500000101F5\n:00000001FF\n',
    )
    const plain = text('srec').trim().split(/\s+/)
    // Count 07, 01 + 00 + 0A: the ones' complement of 12 is ED.
    expect(plain).toContain('S107010001020304ED')
    const full = text('srec', { header: 'HORN', start: { kind: 'linear', address: 0x101 } })
    expect(full).toMatch(/^S0..0000484F524E/)
    expect(full).toContain('S9030101FA')
    expect(plain.join()).not.toContain('484F524E')
    expect(formatEndings).toEqual({ ihex: 'hex', srec: 's19', uf2: 'uf2', bin: 'bin', dfu: 'dfu' })
  })
  // USB Flashing Format: "UF2\n" and the second number at the head, the family at 28 where its flag says so.
  it('as UF2 blocks says for which processor it is', () => {
    const file = writeImage(memory, 'uf2', { uf2Family: 0xe48bff56 })
    const view = new DataView(file.buffer, file.byteOffset)
    expect(file.length % 512).toBe(0)
    expect([view.getUint32(0, true), view.getUint32(4, true)]).toEqual([0x0a324655, 0x9e5d5157])
    expect(view.getUint32(8, true) & 0x2000).toBe(0x2000)
    expect(view.getUint32(28, true)).toBe(0xe48bff56)
  })
  it('as an update-mode file says no device where none is told (DFU 1.1, appendix B: FFFF stands for any)', () => {
    const file = writeImage(memory, 'dfu')
    // The suffix lies at the end: release, product, vendor, 0100h, "UFD", 16, CRC.
    expect([...file.subarray(-16, -4)]).toEqual([
      0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0x00, 0x01, 0x55, 0x46, 0x44, 16,
    ])
    const own = writeImage(memory, 'dfu', {
      dfu: { vendorId: 0x1234, productId: 0x5678, deviceRelease: 0x0102 },
    })
    expect([...own.subarray(-16, -10)]).toEqual([0x02, 0x01, 0x78, 0x56, 0x34, 0x12])
  })
})
