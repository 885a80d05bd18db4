import { describe, expect, it } from 'vitest'
import { readSRecord, writeSRecord } from './s-record'
import { refusal } from './refusal.test-support'

/*
 * Source: Motorola S-records as the manual page srec(5) of many systems gives them: type, count of what follows, address of
 * two to four bytes, data, and the ones' complement of the sum of all bytes. Its worked example stands below, from memory;
 * records are written here by that form alone.
 */
const two = (value: number) => (value & 255).toString(16).toUpperCase().padStart(2, '0')
const widths = [2, 2, 3, 4, 0, 2, 3, 4, 3, 2]
const record = (type: number, address: number, ...bytes: number[]) => {
  const wide = widths[type]!
  const all = [
    wide + bytes.length + 1,
    ...Array.from({ length: wide }, (_, at) => Math.floor(address / 256 ** (wide - 1 - at)) & 255),
    ...bytes,
  ]
  return `S${type}${[...all, ~all.reduce((sum, byte) => sum + byte, 0)].map(two).join('')}`
}
const end = record(9, 0)
const bytesOf = (text: string) => new TextEncoder().encode(text)
const parts = (...lines: string[]) =>
  readSRecord(bytesOf(lines.join('\n'))).memory.map(({ address, bytes }) => [address, [...bytes]])
const refused = (text: string) => refusal(() => readSRecord(bytesOf(text)))

it('reads the worked example', () => {
  const { memory, header, records, start } = readSRecord(
    bytesOf(`S00F000068656C6C6F202020202000003C
S11F00007C0802A6900100049421FFF07C6C1B787C8C23783C6000003863000026
S11F001C4BFFFFE5398000007D83637880010014382100107C0803A64E800020E9
S111003848656C6C6F20776F726C642E0A0042
S5030003F9
S9030000FC
`),
  )
  expect(memory).toHaveLength(1)
  expect(memory[0]).toMatchObject({ address: 0 })
  expect(memory[0]!.bytes).toHaveLength(0x38 + 14)
  expect(new TextDecoder().decode(memory[0]!.bytes.subarray(0x38))).toBe('Hello world.\n\0')
  expect({ header, records, start }).toEqual({ header: 'hello', records: 6, start: undefined })
})

describe('the place of a fault', () => {
  const good = record(1, 0, 1, 2)
  it.each([
    ['LF', '\n'],
    ['CR LF', '\r\n'],
    ['CR', '\r'],
  ])('is its line, blank lines and those with blanks counted: %s', (_, ends) => {
    const broken = record(1, 9, 5).replace(/..$/, '00')
    const lines = ['', '  ', good, `\t ${record(1, 2, 3)} \t`, '', ` ${broken}`, end]
    expect(refused(lines.join(ends))).toMatchObject({
      kind: 'srec-checksum',
      place: { line: 6 },
      expected: record(1, 9, 5).slice(-2),
      found: '00',
    })
  })
  it.each([
    ['what begins no record', 'xS9', { kind: 'srec-start', expected: 'S', found: 'x' }],
    ['a type that there is not', 'S4030000FC', { kind: 'srec-type', found: 'S4' }],
    ['a letter for a type', 'SA030000FC', { kind: 'srec-type', found: 'SA' }],
    ['a lone letter', 'S', { kind: 'srec-type', found: 'S' }],
    ['a count under its address', 'S10200FD', { kind: 'srec-length', expected: 'at least 3', found: '2' }],
    ['of four bytes as well', 'S30400000000', { kind: 'srec-length', expected: 'at least 5', found: '4' }],
    [
      'a line that ends early',
      'S1050000AA',
      { kind: 'srec-truncated', expected: '5 bytes after the count', found: '3' },
    ],
    ['at its count', 'S105', { kind: 'srec-truncated', found: '0' }],
    ['within its count', 'S1', { kind: 'srec-truncated', found: 'the end of the file' }],
    ['within it by one letter', 'S10', { kind: 'srec-truncated', found: 'the end of the file' }],
    ['what is no digit', 'S1040000ZA55', { kind: 'srec-digit', found: '"ZA"' }],
    ['at its second letter', 'S10400000Z55', { kind: 'srec-digit', found: '"0Z"' }],
    ['in a count', 'S1G40000AA55', { kind: 'srec-digit', found: '"G4"' }],
    ['in a checksum', 'S1040000AA5z', { kind: 'srec-digit', found: '"5z"' }],
    [
      'what goes on behind it',
      `${record(1, 4, 1)}00`,
      { kind: 'srec-length', expected: 'the end of the line', found: '00' },
    ],
  ])('is said with what stands there: %s', (_, line, facts) => {
    expect(refused(`${good}\n${line}`)).toMatchObject({ place: { line: 2 }, ...facts })
  })
  it('is the first record behind the end', () => {
    expect(refused(`${good}\n${end}\n\n${good}\n${end}`)).toMatchObject({
      kind: 'srec-after-end',
      place: { line: 4 },
      found: good,
    })
    // Blank lines are none.
    expect(parts(good, end, '', '  ')).toEqual([[0, [1, 2]]])
  })
  it('is the end where it is missing, and the file where nothing is in it', () => {
    expect(refused(`${good}\n`)).toMatchObject({ kind: 'srec-no-end', place: { line: 2 } })
    expect(refused('\n\n')).toMatchObject({ kind: 'srec-empty', place: { line: 3 } })
  })
  it.each([
    [5, 1],
    [5, 3],
    [6, 1],
    [6, 3],
  ])('is a count record S%i that says %i where there are two', (type, count) => {
    expect(
      refused([record(0, 0, 65), good, record(1, 2, 3), record(type, count), end].join('\n')),
    ).toMatchObject({
      kind: 'srec-count',
      place: { line: 4 },
      expected: '2',
      found: String(count),
    })
    expect(parts(record(0, 0, 65), good, record(1, 2, 3), record(type, 2), end)).toEqual([[0, [1, 2, 3]]])
  })
})

describe('what lies where', () => {
  it('records that follow one another are one part, of any width; a hole parts them', () => {
    expect(
      parts(
        record(1, 0xffff, 1),
        record(2, 0x1_0000, 2, 3),
        record(3, 0x1_0002, 4),
        record(3, 0x1_0004, 5),
        end,
      ),
    ).toEqual([
      [0xffff, [1, 2, 3, 4]],
      [0x1_0004, [5]],
    ])
    expect(parts(record(1, 2, 3), record(1, 0, 1, 2), end)).toEqual([[0, [1, 2, 3]]])
    // A header between two adds nothing to them.
    expect(parts(record(1, 0, 1), record(0, 0, 65, 66), record(1, 1, 2), end)).toEqual([[0, [1, 2]]])
  })
  it('the last byte of 32-bit memory is there, the one behind it is not', () => {
    expect(parts(record(3, 0xffff_ffff, 7), record(7, 0))).toEqual([[0xffff_ffff, [7]]])
    expect(refused(`${record(3, 0xffff_ffff, 7, 8)}\n${record(7, 0)}`)).toMatchObject({
      kind: 'srec-range',
      place: { line: 1 },
      found: '0xFFFFFFFF',
    })
  })
  it.each([
    [9, 0x8000],
    [8, 0x12_3456],
    [7, 0x0800_0131],
  ])('S%i says where it starts; nowhere where it says 0', (type, address) => {
    expect(readSRecord(bytesOf(`${record(1, 0, 1)}\n${record(type, address)}`)).start).toEqual({
      kind: 'linear',
      address,
    })
    expect(readSRecord(bytesOf(`${record(1, 0, 1)}\n${record(type, 0)}`))).not.toHaveProperty('start')
  })
  it('the first header counts, what cannot be printed is left out of it, and an empty one is none', () => {
    const headerOf = (...lines: string[]) =>
      readSRecord(bytesOf([...lines, record(1, 0, 1), end].join('\n'))).header
    expect(headerOf(record(0, 0, 7, 32, 65, 0x7f, 66, 32), record(0, 0, 67))).toBe('AB')
    expect(headerOf(record(0, 0, 0, 0))).toBeUndefined()
    expect(headerOf()).toBeUndefined()
  })
})

describe('what is written', () => {
  const written = (address: number, length: number, form?: Parameters<typeof writeSRecord>[1]) =>
    writeSRecord([{ address, bytes: Uint8Array.from({ length }, (_, at) => at) }], form)
      .trimEnd()
      .split(/\r?\n/)
  it.each([
    [0xfffe, 2, 1, 9],
    [0xffff, 2, 2, 8],
    [0xff_fffe, 2, 2, 8],
    [0xff_ffff, 2, 3, 7],
  ])('takes the narrowest address that reaches its end: %i', (address, length, type, last) => {
    expect(written(address, length)).toEqual([
      record(0, 0, ...bytesOf('image')),
      record(type, address, 0, 1),
      record(5, 1),
      record(last, 0),
    ])
  })
  it.each([
    [0xffff, 1, 9],
    [0x1_0000, 2, 8],
    [0x100_0000, 3, 7],
  ])('or its start: %i', (start, type, last) => {
    expect(written(0, 1, { start }).slice(1)).toEqual([record(type, 0, 0), record(5, 1), record(last, start)])
  })
  it('takes a header of sixty letters at most, so many bytes a record as are asked for, and the line end', () => {
    const text = writeSRecord([{ address: 4, bytes: Uint8Array.from([1, 2, 3, 4, 5]) }], {
      header: 'x'.repeat(70),
      dataBytes: 2,
      lineEnd: '\r\n',
    })
    expect(text).toBe(
      [
        record(0, 0, ...bytesOf('x'.repeat(60))),
        record(1, 4, 1, 2),
        record(1, 6, 3, 4),
        record(1, 8, 5),
        record(5, 3),
        record(9, 0),
        '',
      ].join('\r\n'),
    )
    expect(written(0, 33).slice(1, 3)).toEqual([
      record(1, 0, ...Array.from({ length: 32 }, (_, at) => at)),
      record(1, 32, 32),
    ])
  })
  it('counts up to 65 535 records by S5, more by S6', () => {
    expect(written(0, 0xffff, { dataBytes: 1 }).at(-2)).toBe(record(5, 0xffff))
    expect(written(0, 0x1_0000, { dataBytes: 1 }).at(-2)).toBe(record(6, 0x1_0000))
  })
  it('is read back as it was, holes and all', () => {
    const memory = [
      { address: 0x10, bytes: Uint8Array.from([1, 2]) },
      { address: 0x1_0000, bytes: Uint8Array.from([3]) },
    ]
    expect(readSRecord(bytesOf(writeSRecord(memory))).memory).toEqual(memory)
  })
})
