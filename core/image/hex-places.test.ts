import { describe, expect, it } from 'vitest'
import { readIntelHex } from './intel-hex'
import { refusal } from './refusal.test-support'

/*
 * Source: Intel, "Hexadecimal Object File Format Specification", Revision A, 1988: the form of a record, the sum of its
 * bytes (0 modulo 256), offsets that wrap at 64 KiB under a segment base. Records are written here by that alone.
 */
const two = (value: number) => (value & 255).toString(16).toUpperCase().padStart(2, '0')
const record = (type: number, offset: number, bytes: readonly number[]) => {
  const all = [bytes.length, offset >> 8, offset & 255, type, ...bytes]
  return `:${[...all, -all.reduce((sum, byte) => sum + byte, 0)].map(two).join('')}`
}
const data = (offset: number, ...bytes: number[]) => record(0, offset, bytes)
const end = record(1, 0, [])
const linear = (upper: number) => record(4, 0, [upper >> 8, upper & 255])
const segment = (upper: number) => record(2, 0, [upper >> 8, upper & 255])
const read = (...lines: string[]) => readIntelHex(new TextEncoder().encode(lines.join('\n')))
const parts = (...lines: string[]) => read(...lines).memory.map(({ address, bytes }) => [address, [...bytes]])
const refused = (text: string) => refusal(() => readIntelHex(new TextEncoder().encode(text)))

describe('the place of a fault', () => {
  const good = data(0, 1, 2)
  const broken = good.replace(/..$/, '00')
  it.each([
    ['LF', '\n'],
    ['CR LF', '\r\n'],
    ['CR', '\r'],
  ])('is its line, blank lines and those with blanks before them counted: %s', (_, ends) => {
    const lines = ['', '  ', good, `\t ${data(2, 3)}  `, '', `  ${broken}`, end]
    expect(refused(lines.join(ends))).toMatchObject({
      kind: 'hex-checksum',
      place: { line: 6 },
      expected: good.slice(-2),
      found: '00',
    })
  })
  it('is the column of what is no digit, and the character or its byte', () => {
    expect(refused(`${good}\n:02000Z000102FB\n${end}`)).toMatchObject({
      kind: 'hex-digit',
      place: { line: 2, at: 'column 7' },
      found: '"Z"',
    })
    expect(refused(':0200\u0001000102FB')).toMatchObject({ found: 'bytes 01' })
  })
  it.each([
    [':', 'at least 11 characters', '1'],
    [':0', 'at least 11 characters', '2'],
    [':02', '15 characters', '3'],
    [':02000000010', '15 characters', '12'],
    [':FF00000001', '521 characters', '11'],
  ])('is the line that is cut short: %s', (text, expected, found) => {
    expect(refused(`${good}\n${text}`)).toMatchObject({
      kind: 'hex-truncated',
      place: { line: 2 },
      expected,
      found,
    })
  })
  it('is said with the line’s first letters, without what trails it', () => {
    expect(refused(`${good}\nS1130000ABCDEF012345  \n${end}`)).toMatchObject({
      kind: 'hex-not-a-record',
      place: { line: 2 },
      found: '"S1130000ABCD"',
    })
    expect(refused(`${good}\n; a note  \n${end}`)).toMatchObject({ found: '"; a note"' })
    expect(refused(`${good}\n\u0007x\n${end}`)).toMatchObject({ found: 'bytes 07 78' })
    expect(refused(`${good}\nx\u0007\n${end}`)).toMatchObject({ found: 'bytes 78 07' })
  })
  it('is the first record behind the end, and what goes on behind its checksum', () => {
    expect(refused(`${good}\n${end}\n${data(9, 7)} \n`)).toMatchObject({
      kind: 'hex-after-end',
      place: { line: 3 },
      found: `"${data(9, 7)}"`,
    })
    expect(refused(`${good}0 \n${end}`)).toMatchObject({
      kind: 'hex-too-long',
      place: { line: 1 },
      expected: 'the line to end after 15 characters',
      found: '"0"',
    })
  })
  it('is the last line of a file without its end, whether that is ended or not', () => {
    for (const text of [`${good}\n${good.replace(':020000', ':020004').replace(/..$/, 'F7')}`])
      for (const [ends, line] of [
        ['', 2],
        ['\n', 2],
        ['\r', 2],
      ] as const)
        expect(refused(text + ends)).toMatchObject({ kind: 'hex-no-end', place: { line } })
  })
  it('is none where there is nothing: no byte, only blank lines, no data', () => {
    expect(refused('')).toMatchObject({ kind: 'hex-empty', found: '0 bytes' })
    expect(refused('\n \r\n')).toMatchObject({ kind: 'hex-empty', found: 'only blank lines' })
    expect(refused(end)).toMatchObject({ kind: 'hex-no-data', found: 'none' })
    expect(refused(`${data(16)}\n${end}`)).toMatchObject({ kind: 'hex-no-data' })
  })
})

describe('a byte that is set twice is named by both lines', () => {
  it.each([
    [
      'the last byte of the first record',
      ['0x0000010F', 1, 3],
      [data(0x100, ...new Array<number>(16).fill(1)), data(0x110, 2), data(0x10f, 3), end],
    ],
    ['the first byte, out of order', ['0x00000100', 1, 2], [data(0x100, 1, 2), data(0xff, 5, 6), end]],
    [
      'the same offset under another base is another byte',
      ['0x00010004', 3, 5],
      [data(4, 1), linear(1), data(4, 2), data(5, 2), data(4, 3), end],
    ],
    [
      'a base holds until the next one',
      ['0x00020004', 2, 6],
      [linear(2), data(4, 2), linear(1), data(4, 2), linear(2), data(4, 3), end],
    ],
    [
      'behind the wrap of a segment',
      ['0x00010000', 2, 3],
      [segment(0x1000), data(0xffff, 1, 2), data(0, 3), end],
    ],
    [
      'before the wrap of a segment',
      ['0x0001FFFF', 2, 3],
      [segment(0x1000), data(0xffff, 1, 2), data(0xfffe, 8, 3), end],
    ],
    [
      'a linear base has no wrap',
      ['0x00020000', 2, 4],
      [linear(1), data(0xffff, 1, 2), linear(2), data(0, 3), end],
    ],
    [
      'a segment’s neighbour is not wrapped into',
      ['0x00020003', 4, 5],
      [segment(0x1000), data(3, 1), segment(0x2000), data(3, 1), data(3, 2), end],
    ],
  ] as const)('%s', (_, [address, first, second], lines) => {
    const facts = refused(lines.join('\n'))
    expect(facts).toMatchObject({ kind: 'hex-overlap', place: { line: second } })
    expect(facts.says.replaceAll(/[ \u2009\u00a0\u202f]/g, '')).toContain(
      `${address}issettwice,firstinline${first}`,
    )
  })
})

describe('what lies where', () => {
  it('records in any order that touch are one part, and a hole parts them', () => {
    expect(parts(data(0x20, 3, 4), data(0x1e, 1, 2), data(0x22, 5), data(0x24, 9), end)).toEqual([
      [0x1e, [1, 2, 3, 4, 5]],
      [0x24, [9]],
    ])
  })
  it('a record that runs over a segment’s end goes on at its begin', () => {
    expect(parts(segment(0x1000), data(0xfffe, 1, 2, 3, 4), end)).toEqual([
      [0x1_0000, [3, 4]],
      [0x1_fffe, [1, 2]],
    ])
    expect(parts(segment(0x1000), data(0xfffe, 1, 2), end)).toEqual([[0x1_fffe, [1, 2]]])
    expect(parts(linear(1), data(0xfffe, 1, 2, 3, 4), end)).toEqual([[0x1_fffe, [1, 2, 3, 4]]])
  })
  it('a record that follows the last under a new base goes on with it', () => {
    expect(parts(data(0xfffe, 1, 2), linear(1), data(0, 3), end)).toEqual([[0xfffe, [1, 2, 3]]])
  })
  it('the last byte of 32-bit memory is there, the one behind it is not', () => {
    expect(parts(linear(0xffff), data(0xffff, 7), end)).toEqual([[0xffff_ffff, [7]]])
    expect(refused([linear(0xffff), data(0xffff, 7, 8), end].join('\n'))).toMatchObject({
      kind: 'hex-past-32-bits',
      place: { line: 2 },
      expected: expect.stringMatching(/^1 bytes at most from 0xFFFF.?FFFF$/) as unknown,
      found: '2',
    })
  })
  it('start addresses are read behind data, and add no byte to it', () => {
    expect(read(data(0, 1, 2), record(3, 0, [0x12, 0x34, 0x56, 0x78]), data(2, 3), end)).toEqual({
      memory: [{ address: 0, bytes: Uint8Array.from([1, 2, 3]) }],
      start: { kind: 'segment', address: 0x12340 + 0x5678 },
      records: 4,
    })
    expect(read(data(0, 1, 2), record(5, 0, [0x08, 0x00, 0x01, 0x31]), end).start).toEqual({
      kind: 'linear',
      address: 0x0800_0131,
    })
  })
  it.each([
    [1, [0], 0, 1],
    [2, [1], 2, 1],
    [4, [1, 2, 3], 2, 3],
    [3, [1, 2], 4, 2],
    [5, [1, 2, 3, 4, 5], 4, 5],
  ])('a record of type 0%i with %j has the wrong length', (type, bytes, expected, found) => {
    expect(refused(`${data(0, 1)}\n${record(type, 0, bytes)}`)).toMatchObject({
      kind: 'hex-length',
      place: { line: 2 },
      expected: `${expected} bytes`,
      found: `${found}`,
    })
  })
})
