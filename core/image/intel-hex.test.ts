import fc from 'fast-check'
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import MemoryMapReference from 'nrf-intel-hex'
import { afterAll, describe, expect, it } from 'vitest'
import { asciiBytes, isProblem } from '../kernel'
import { byteCount, bytesAt, contentDigest, readImageFile, readIntelHex, writeIntelHex } from '.'
import { refusal } from './refusal.test-support'

const read = (text: string) => readIntelHex(asciiBytes(text))
const folder = mkdtempSync(join(tmpdir(), 'hex-'))
afterAll(() => rmSync(folder, { recursive: true }))

/** A record with its checksum worked out by hand rules: two's complement of the byte sum. */
function rec(hex: string): string {
  const sum = (hex.match(/../g) ?? []).reduce((total, pair) => total + parseInt(pair, 16), 0)
  return `:${hex}${((256 - (sum & 255)) & 255).toString(16).toUpperCase().padStart(2, '0')}`
}
const END = ':00000001FF'

const refused = (text: string | Uint8Array) =>
  refusal(() => readImageFile(typeof text === 'string' ? asciiBytes(text) : text))

describe('Intel HEX is read as the specification orders', () => {
  // Source: Intel, Hexadecimal Object File Format Specification, Rev. A (1988): records as published in it and
  // in the common worked example of 16-byte records at 0x0100 (from memory).
  it('reads the worked example', () => {
    const { memory, records } = read(
      [
        ':10010000214601360121470136007EFE09D2190140',
        ':100110002146017E17C20001FF5F16002148011928',
        ':10012000194E79234623965778239EDA3F01B2CAA7',
        ':100130003F0156702B5E712B722B732146013421C7',
        END,
      ].join('\n'),
    )
    expect(records).toBe(5)
    expect(memory).toHaveLength(1)
    expect(memory[0]!.address).toBe(0x100)
    expect(memory[0]!.bytes.length).toBe(64)
    expect([...memory[0]!.bytes.subarray(0, 4)]).toEqual([0x21, 0x46, 0x01, 0x36])
  })
  // Source: the specification's clauses on types 02 and 04: base of paragraphs, and upper 16 bits.
  it('adds segment and linear bases', () => {
    const { memory } = read(
      [
        rec('020000021200'),
        rec('0200000011AA'.replace('11AA', '1122')),
        rec('020000040800'),
        rec('0180000033'),
        END,
      ].join('\n'),
    )
    expect(memory.map((each) => each.address)).toEqual([0x12000, 0x08008000])
  })
  // Source: clause on type 02: the offset is added modulo 64K; on type 04: modulo 4G, so it carries into the next 64K.
  it('wraps at 64 KiB under a segment base and carries on under a linear one', () => {
    const segment = read([rec('020000021000'), rec('04FFFE0001020304'), END].join('\n'))
    expect(segment.memory.map((each) => [each.address, [...each.bytes]])).toEqual([
      [0x10000, [3, 4]],
      [0x1fffe, [1, 2]],
    ])
    const linear = read([rec('020000040001'), rec('04FFFE0001020304'), END].join('\n'))
    expect(linear.memory.map((each) => [each.address, [...each.bytes]])).toEqual([[0x1fffe, [1, 2, 3, 4]]])
  })
  it('reads start addresses of types 03 and 05', () => {
    expect(read([rec('0100000000'), rec('0400000300003800'), END].join('\n')).start).toEqual({
      kind: 'segment',
      address: 0x3800,
    })
    expect(read([rec('0100000000'), rec('04000005000000CD'), END].join('\n')).start).toEqual({
      kind: 'linear',
      address: 0xcd,
    })
  })
  it('takes any line end, lower case, blank lines, trailing spaces, gaps and records out of order', () => {
    const lines = [rec('02000400CCDD').toLowerCase(), '', `${rec('02000000AABB')}  `, rec('0100100099'), END]
    for (const end of ['\n', '\r\n', '\r']) {
      const { memory } = read(lines.join(end) + end)
      expect(memory.map((each) => [each.address, [...each.bytes]])).toEqual([
        [0, [0xaa, 0xbb]],
        [4, [0xcc, 0xdd]],
        [16, [0x99]],
      ])
    }
  })
  it('takes records of any length, 0 to 255', () => {
    const long = Array.from({ length: 255 }, (_, at) => at.toString(16).padStart(2, '0')).join('')
    const { memory } = read([rec(`FF000000${long}`), rec('0000FF00'), rec('01010000' + '77'), END].join('\n'))
    expect(memory.map((each) => [each.address, each.bytes.length])).toEqual([
      [0, 255],
      [256, 1],
    ])
  })
})

describe('a damaged file is refused with line, expectation and finding', () => {
  const good = rec('02000000AABB')
  const cases: [string, string | Uint8Array, string, number | undefined, RegExp][] = [
    ['a wrong checksum', `${good}\n:02000200CCDD00\n${END}`, 'hex-checksum', 2, /expected 53, found 00/],
    ['a truncated line', `${good}\n:10000200CC\n${END}`, 'hex-truncated', 2, /expected 43 characters/],
    ['a line cut at the end of the file', `${good}\n:0200`, 'hex-truncated', 2, /15 characters, found 5/],
    ['no end record', `${good}\n${rec('01000200CC')}\n`, 'hex-no-end', 2, /:00000001FF/],
    ['overlapping data', `${good}\n${rec('02000100CCDD')}\n${END}`, 'hex-overlap', 2, /first in line 1/],
    [
      'an address past 32 bits',
      `${rec('02000004FFFF')}\n${rec('04FFFE0001020304')}\n${END}`,
      'hex-past-32-bits',
      2,
      /expected 2 bytes at most from 0xFFFFFFFE, found 4/,
    ],
    ['an empty file', '', 'image-other', 1, /found no bytes/],
    [
      'a picture renamed .hex',
      Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a),
      'image-other',
      1,
      /PNG picture/,
    ],
    ['a bad digit', `:0200000GAABB99\n${END}`, 'hex-digit', 1, /found "G"/],
    ['a letter O in the low half of a byte', `:020000000OAABB99\n${END}`, 'hex-digit', 1, /found "O"/],
    ['a line that goes on', `${good}00\n${END}`, 'hex-too-long', 1, /end after 15 characters/],
    ['a text file', 'release notes\n', 'image-other', 1, /found "release note/],
    ['an unknown record type', `${rec('00000006')}\n${END}`, 'hex-type', 1, /found type 06/],
    [
      'a base record of the wrong length',
      `${rec('0100000408')}\n${END}`,
      'hex-length',
      1,
      /expected 2 bytes/,
    ],
    ['data after the end', `${good}\n${END}\n${good}`, 'hex-after-end', 3, /Two files/],
    ['an end record alone', `${END}\n`, 'hex-no-data', undefined, /no data/],
  ]
  it.each(cases)('%s', (_, text, kind, line, words) => {
    const facts = refused(text)
    expect(facts.kind).toBe(kind)
    expect(facts.place?.line).toBe(line)
    expect(facts.remedy).not.toBe('')
    expect(() => readImageFile(typeof text === 'string' ? asciiBytes(text) : text)).toThrow(words)
  })

  it('never throws anything but its own error, whatever the bytes', () => {
    const alphabet = fc.constantFrom(...':0123456789ABCDEFabcdef\r\n \x00\xff'.split(''))
    fc.assert(
      fc.property(fc.array(alphabet, { maxLength: 120 }), (characters) => {
        try {
          read(characters.join(''))
        } catch (error) {
          expect(isProblem(error)).toBe(true)
        }
      }),
      { numRuns: 2000 },
    )
  })
})

describe('against outside readers and writers', () => {
  const patterned = (length: number) => Uint8Array.from({ length }, (_, at) => (at * 37 + (at >> 8)) & 255)

  // Reference: objcopy of GNU binutils.
  it.each([1, 15, 16, 17, 255, 65_536, 70_001])(
    'reads what `objcopy -I binary -O ihex` wrote, %i bytes',
    (length) => {
      const bytes = patterned(length)
      const [bin, hex] = [join(folder, 'a.bin'), join(folder, 'a.hex')]
      writeFileSync(bin, bytes)
      for (const address of [0, 0x0fff0, 0x08008000]) {
        execFileSync('objcopy', ['-I', 'binary', '-O', 'ihex', `--change-addresses=${address}`, bin, hex])
        const { memory } = readIntelHex(readFileSync(hex))
        expect(memory).toHaveLength(1)
        expect(memory[0]!.address).toBe(address)
        expect(Buffer.from(memory[0]!.bytes).equals(bytes)).toBe(true)
      }
    },
  )
  it('writes what objcopy reads back to the same bytes, and the same text above 1 MiB', () => {
    const bytes = patterned(70_001)
    const [bin, hex, back] = [join(folder, 'b.bin'), join(folder, 'b.hex'), join(folder, 'b.back')]
    writeFileSync(bin, bytes)
    // objcopy takes the changed address for the start address too, so the text has its type 05 record.
    const start = { kind: 'linear', address: 0x08008000 } as const
    const ours = writeIntelHex([{ address: 0x08008000, bytes }], { lineEnd: '\r\n', start })
    writeFileSync(hex, ours)
    execFileSync('objcopy', ['-I', 'ihex', '-O', 'binary', hex, back])
    expect(readFileSync(back).equals(bytes)).toBe(true)
    execFileSync('objcopy', ['-I', 'binary', '-O', 'ihex', '--change-addresses=0x08008000', bin, hex])
    expect(ours).toBe(readFileSync(hex, 'latin1'))
  })

  // Reference: the npm package nrf-intel-hex.
  it('writes and reads any sparse map as the reference package does', () => {
    const gapped = fc.array(
      fc.record({
        gap: fc.integer({ min: 1, max: 90_000 }),
        bytes: fc.uint8Array({ minLength: 1, maxLength: 70 }),
      }),
      { minLength: 1, maxLength: 8 },
    )
    fc.assert(
      fc.property(gapped, fc.integer({ min: 1, max: 255 }), (pieces, recordBytes) => {
        let at = 0
        const memory = pieces.map(({ gap, bytes }) => {
          const segment = { address: at + gap, bytes }
          at = segment.address + bytes.length
          return segment
        })
        const text = writeIntelHex(memory, { recordBytes })
        const reference = MemoryMapReference.fromHex(text).join()
        const back = read(text)
        expect(back.memory.map(({ address, bytes }) => [address, [...bytes]])).toEqual(
          [...reference].map(([address, bytes]) => [address, [...bytes]]),
        )
        expect(contentDigest(back.memory)).toBe(contentDigest(memory))
      }),
    )
  })
})

describe('the sparse memory map', () => {
  const memory = [
    { address: 4, bytes: Uint8Array.of(1, 2) },
    { address: 8, bytes: Uint8Array.of(3) },
  ]
  it('fills gaps only where it is asked to, with what it is told', () => {
    expect([...bytesAt(memory, 3, 7, 0xff)]).toEqual([0xff, 1, 2, 0xff, 0xff, 3, 0xff])
    expect(byteCount(memory)).toBe(3)
  })
  it('has one digest for the same bytes in the same places', () => {
    expect(contentDigest(memory)).not.toBe(contentDigest([memory[0]!]))
    expect(contentDigest(memory)).toBe(contentDigest(read(writeIntelHex(memory)).memory))
  })
})
