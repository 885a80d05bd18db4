import fc from 'fast-check'
import * as v from 'valibot'
import { describe, expect, it } from 'vitest'
import { asciiBytes, asciiText, hexOf } from '../../kernel'
import { LinkScript, type Pattern } from '../schema'
import {
  compilePattern,
  fillSlots,
  linkScriptFaults,
  Matcher,
  matchHead,
  maxCaptured,
  readBytes,
  readText,
  type Slots,
} from '.'

const filled = (text: string, slots: Slots) => asciiText(fillSlots(readText(text), slots))
const filledBytes = (text: string, slots: Slots) => hexOf(fillSlots(readBytes(text), slots))

// Source: each worked by hand from the format's own words.
describe('a text with slots, as bytes', () => {
  it.each([
    ['{address:hex8}', { address: 0x8000 }, '00008000'],
    ['{address:hex}', { address: 0xbeef }, 'BEEF'],
    ['{address:lhex6}', { address: 0xbeef }, '00beef'],
    ['{length}', { length: 1024 }, '1024'],
    ['{length:dec5}', { length: 42 }, '00042'],
    ['a{x}b{x}c', { x: 1 }, 'a1b1c'],
    ['{data:hex}', { data: Uint8Array.of(0, 10, 255) }, '000AFF'],
    ['{data:lhex}', { data: Uint8Array.of(0xab) }, 'ab'],
    ['{fileName}', { fileName: 'TG4.BIN' }, 'TG4.BIN'],
    ['{staging:hex8}', { staging: '0x20000000' }, '20000000'],
    ['{ not a slot }', {}, '{ not a slot }'],
  ] as [string, Slots, string][])('%s', (text, slots, expected) => {
    expect(filled(text, slots)).toBe(expected)
  })
  it.each([
    ['7F {length:u16be} 00', { length: 0x1234 }, '7f123400'],
    ['{length:u16le}', { length: 0x1234 }, '3412'],
    ['{address:u24be}{address:u24le}', { address: 0x10203 }, '010203030201'],
    ['{address:u32le}', { address: 0xfffffffe }, 'feffffff'],
    ['A5 {data} 5A', { data: Uint8Array.of(1, 2) }, 'a501025a'],
  ] as [string, Slots, string][])('%s', (text, slots, expected) => {
    expect(filledBytes(text, slots)).toBe(expected)
  })
  it('refuses what does not fit, and what has no value', () => {
    expect(() => filled('{length:u8}', { length: 256 })).toThrow('does not fit in 1 bytes')
    expect(filled('{length:u8}', { length: 255 })).toBe('\xff')
    expect(() => filled('{address:hex4}', { address: 0x10000 })).toThrow('more than 4 digits')
    expect(filled('{address:hex4}', { address: 0xffff })).toBe('FFFF')
    expect(() => filled('{x}', {})).toThrow('{x} has no value')
    expect(() => filled('{x:hex2}', { x: -1 })).toThrow('no whole number')
    expect(() => filled('{x:u16le}', { x: 'north' })).toThrow('no whole number')
  })
})

/** Feeds a text in one go; what matched, with its slots and where. */
function first(patterns: Pattern[], text: string) {
  const matcher = new Matcher(patterns.map(compilePattern))
  for (const byte of asciiBytes(text)) {
    const found = matcher.feed(byte)
    if (found) return found
  }
  return null
}

describe('an awaited text', () => {
  it('is found anywhere, without a line end', () => {
    expect(first([{ text: '=> ' }], 'noise\r\nTG-4\r\n=> ')).toMatchObject({ start: 13, end: 16 })
    expect(first([{ text: '=> ' }], 'noise = > =>')).toBeNull()
  })
  it('is found after a false beginning of itself', () => {
    expect(first([{ text: 'aab' }], 'aaab')).toMatchObject({ start: 1, end: 4 })
    expect(first([{ text: 'ababc' }], 'abababc')).toMatchObject({ start: 2 })
  })
  it('of two the one that is whole first counts, and of two at the same byte the first of the list', () => {
    expect(first([{ text: 'OK\n' }, { text: 'ERR' }], 'ERR OK\n')).toMatchObject({ index: 1 })
    expect(first([{ text: 'b' }, { text: 'ab' }], 'ab')).toMatchObject({ index: 0 })
    expect(first([{ text: 'ab' }, { text: 'b' }], 'ab')).toMatchObject({ index: 0 })
  })
  it('gives its slots: texts, numbers of either base, bytes of either order', () => {
    expect(first([{ text: 'fw {version}\n' }], 'fw 1.3 beta\r\n')?.slots).toEqual({ version: '1.3 beta' })
    expect(first([{ text: 'crc {crc:hex4}' }], 'crc 0x? crc 29B1')?.slots).toEqual({ crc: 0x29b1 })
    expect(first([{ text: '{done}/{total} ' }], 'at 7/12 ')?.slots).toEqual({ done: 7, total: 12 })
    expect(first([{ bytes: '79 {a:u16le} {b:u16be}' }], 'x\x79\x01\x02\x01\x02')?.slots).toEqual({
      a: 0x201,
      b: 0x102,
    })
  })
  // What a whole line is to a person: nothing before it, nothing after it, and a table's padding is one gap.
  it('that is a line has nothing before it and nothing after it', () => {
    const ok: Pattern[] = [{ line: 'ok' }]
    for (const text of ['ok\r\n', 'ok\n', 'ok\r', 'token\r\nok\r\n', '\nok\r'])
      expect(first(ok, text), JSON.stringify(text)).not.toBeNull()
    for (const text of ['ok', 'token\r\n', 'okay\r\n', 'is ok\r\n', 'ok then\r\n', 'o\nk\n'])
      expect(first(ok, text), JSON.stringify(text)).toBeNull()
  })
  it('that is a line takes any run of blanks for one between two words', () => {
    const pattern: Pattern[] = [{ line: 'sector {done}/{total} of {what}' }]
    expect(first(pattern, 'sector   3/64\t of  main\r\n')?.slots).toEqual({
      done: 3,
      total: 64,
      what: 'main',
    })
    expect(first(pattern, 'sector3/64 of main\r\n')).toBeNull()
    expect(first([{ text: 'a b' }], 'a  b')).toBeNull()
  })
  it('that is a refusal by a line gives its reason, and no word within another line is one', () => {
    const patterns: Pattern[] = [{ line: 'ok' }, { line: 'error {reason}', means: 'refused' }]
    expect(first(patterns, 'no error so far\r\nok\r\n')).toMatchObject({ index: 0 })
    expect(first(patterns, 'error out of range\r\n')).toMatchObject({
      index: 1,
      slots: { reason: 'out of range' },
    })
  })
  it('of a slot at its end takes what stands to the end of the line', () => {
    expect(first([{ text: '?{reason}' }], '?range\r\n')?.slots).toEqual({ reason: 'range' })
    expect(first([{ text: '?{reason}' }], '?range')).toBeNull()
  })
  it('takes any line end for a line end, several between two lines', () => {
    for (const end of ['\r', '\n', '\r\n'])
      expect(first([{ text: 'a {x}\nb {y}\n' }], `a 1${end}b 2${end}`)?.slots).toEqual({ x: '1', y: '2' })
  })
  it('of a slot takes the first way it can end', () => {
    expect(first([{ text: '[{x}]' }], '[a]b]')?.slots).toEqual({ x: 'a' })
  })
  it('captures no more than its most', () => {
    const long = 'x'.repeat(maxCaptured)
    expect(first([{ text: '<{x}>' }], `<${long}>`)?.slots).toEqual({ x: long })
    expect(first([{ text: '<{x}>' }], `<${long}x>`)).toBeNull()
  })
  it('is what a plain search finds, for any text and any noise around it', () => {
    const letters = fc.string({ unit: fc.constantFrom('a', 'b', 'c'), minLength: 1, maxLength: 6 })
    const noise = fc.string({ unit: fc.constantFrom('a', 'b', 'c'), maxLength: 60 })
    fc.assert(
      fc.property(letters, noise, (wanted, heard) => {
        const found = first([{ text: wanted }], heard)
        const at = heard.indexOf(wanted)
        expect(found ? found.start : -1).toBe(at)
      }),
    )
  })
  it('costs a byte no more however the unit chatters', () => {
    const compiled = compilePattern({ text: '{a}:{b}:{c}!' })
    const matcher = new Matcher([compiled])
    // Half a million bytes that could begin a match anywhere.
    for (let at = 0; at < 500_000; at++) matcher.feed(at % 7 === 0 ? 58 : 97)
    expect(matcher.feed(33)).not.toBeNull()
  })
})

describe('the payload of a frame', () => {
  it('is held against its head, and its last slot takes the rest', () => {
    const pattern = compilePattern({ bytes: '84 {data}' })
    expect(matchHead(pattern, Uint8Array.of(0x84, 1, 2, 13, 10))?.['data']).toEqual(
      Uint8Array.of(1, 2, 13, 10),
    )
    expect(matchHead(pattern, Uint8Array.of(0x85, 1))).toBeNull()
    expect(matchHead(pattern, Uint8Array.of(0x84))).toBeNull()
    expect(matchHead(compilePattern({ bytes: 'FF {reason:u8}' }), Uint8Array.of(0xff, 7))).toEqual({
      reason: 7,
    })
    expect(matchHead(compilePattern({ bytes: '81 {name:text}' }), Uint8Array.of(0x81, 65, 66))).toEqual({
      name: 'AB',
    })
  })
})

const memory = { bytes: 0x8000, sectorBytes: 0x1000, pageBytes: 256 }
const go = [{ text: 'ok' }]
const awaits = (patterns: unknown[] = go) => ({ do: 'expect', patterns, withinMs: 100 })
const faultsOf = (form: object, frame?: object) =>
  linkScriptFaults(
    v.parse(LinkScript, { speaks: 'script', ...(frame ? { frame } : {}), operations: form }),
    memory,
  ).map(({ at, says }) => `${at}: ${says}`)
const one = (name: string, steps: unknown[], frame?: object) => faultsOf({ [name]: { steps } }, frame)

describe('a script is refused before it is run', () => {
  it.each<[string, () => string[], string]>([
    [
      'a slot that nothing fills',
      () => one('attach', [{ do: 'send', text: '{pin}' }]),
      'Nothing fills {pin}',
    ],
    [
      'a slot that is filled only later',
      () => one('attach', [{ do: 'send', text: '{seed}' }, awaits([{ text: '{seed:hex8}' }])]),
      'Nothing fills {seed}',
    ],
    [
      'an address where there is no range',
      () => one('attach', [{ do: 'send', text: '{address}' }]),
      'Nothing fills {address}',
    ],
    [
      'a count outside its loop',
      () => one('erase', [{ do: 'send', text: '{index}' }]),
      'stands in no `each`',
    ],
    [
      'a format that is none',
      () => one('erase', [{ do: 'send', text: '{address:octal}' }]),
      '":octal" is none',
    ],
    [
      'an answer that is hidden',
      () => one('attach', [awaits([{ text: 'O' }, { text: 'OK' }])]),
      'never reached',
    ],
    [
      'answers that never go on',
      () => one('attach', [awaits([{ text: 'no', means: 'refused' }])]),
      'None of these goes on',
    ],
    [
      'progress without its numbers',
      () => one('erase', [awaits([{ text: 'ok' }, { text: '.', means: 'progress' }])]),
      '{done} of {total}',
    ],
    [
      'two slots without an end between',
      () => one('attach', [awaits([{ text: '{a}{b}' }])]),
      '{a} has no end',
    ],
    [
      'a loop that sends nothing',
      () => one('erase', [{ do: 'each', of: 'sector', steps: [{ do: 'wait', ms: 1 }] }]),
      'Nothing in it goes over the line',
    ],
    [
      'pieces of nothing',
      () => one('start', [{ do: 'each', of: 'page', steps: [awaits()] }]),
      'no range of memory',
    ],
    [
      'a chunk without its size',
      () => one('erase', [{ do: 'each', of: 'chunk', steps: [awaits()] }]),
      'how many bytes',
    ],
    [
      'a write that sends no byte',
      () => one('write', [{ do: 'send', text: 'w' }, awaits()]),
      'sends no byte of the image',
    ],
    ['a read that takes none', () => one('read', [{ do: 'send', text: 'r' }, awaits()]), 'takes no bytes'],
    [
      'a check that compares nothing',
      () => one('check', [{ do: 'send', text: 'c' }, awaits()]),
      'compares nothing',
    ],
    ['a page without a line', () => one('page', [{ do: 'send', text: 'v' }, awaits()]), 'gathers no line'],
    [
      'a frame that nobody described',
      () => one('attach', [{ do: 'frame', bytes: '01', answer: go, withinMs: 9 }]),
      'describes no `frame`',
    ],
    [
      'a character that is no byte',
      () => one('attach', [{ do: 'send', text: '→' }]),
      'does not fit in one byte',
    ],
    ['an empty send', () => one('attach', [{ do: 'send' }]), 'Say what is sent'],
    ['a pulse on no line', () => one('attach', [{ do: 'lines', forMs: 10 }]), 'sets no line'],
    [
      'an operation of days',
      () =>
        one('attach', [
          { do: 'repeat', until: go, everyMs: 60_000, times: 2000, steps: [{ do: 'send', text: 'U' }] },
        ]),
      'could go on for 33 hours',
    ],
    [
      'a loop within a loop without an end',
      () =>
        one('erase', [
          {
            do: 'each',
            of: 'chunk',
            bytes: 1,
            steps: [
              { do: 'send', text: 'x' },
              { do: 'expect', patterns: go, withinMs: 3_600_000 },
            ],
          },
        ]),
      '24 are the most',
    ],
  ])('%s', (_, faults, says) => {
    expect(faults().join('\n')).toContain(says)
  })
  it('names the step by its path', () => {
    expect(
      one('write', [{ do: 'each', of: 'page', steps: [{ do: 'send', text: '{data}{crc:hex4}' }] }]),
    ).toEqual(['operations.write.steps.0.steps.0: Nothing fills {crc} before this step'])
  })
  it('a repeat just under a day is none', () => {
    const repeat = {
      do: 'repeat',
      until: go,
      everyMs: 60_000,
      times: 1440,
      steps: [{ do: 'send', text: 'U' }],
    }
    expect(one('attach', [repeat])).toEqual([])
    expect(one('attach', [{ ...repeat, times: 1441 }])).toHaveLength(1)
  })
  const layout = 'A5 {length:u16le} {payload} {checksum:u16be}'
  const frame = { layout, escape: 'none', checksum: 'fletcher16', maxPayload: 64 }
  it.each<[string, object, string]>([
    [
      'no length and no escape',
      { ...frame, layout: 'A5 {payload}', checksum: undefined },
      'nobody knows where it ends',
    ],
    ['no payload', { ...frame, layout: 'A5 {length:u8} {checksum:u16be}' }, 'one {payload}'],
    ['a checksum without its kind', { ...frame, checksum: undefined }, 'Say which checksum'],
    ['a kind without its place', { ...frame, layout: 'A5 {length:u8} {payload}' }, 'has no {checksum}'],
    [
      'an unknown part',
      { ...frame, layout: 'A5 {length:u8} {colour:u8} {payload} {checksum:u16be}' },
      'no {colour}',
    ],
    [
      'a length twice',
      { ...frame, layout: '{length:u8} {length:u8} {payload} {checksum:u16be}' },
      'stands twice',
    ],
  ])('a frame with %s', (_, form, says) => {
    const { checksum, ...rest } = form as { checksum?: unknown }
    expect(faultsOf({}, { ...rest, ...(checksum === undefined ? {} : { checksum }) }).join('\n')).toContain(
      says,
    )
  })
  it('a frame as it should be is taken', () => {
    expect(faultsOf({}, frame)).toEqual([])
  })
  it('bytes come in pairs of digits, or the schema says so', () => {
    const parsed = v.safeParse(LinkScript, {
      speaks: 'script',
      operations: { attach: { steps: [{ do: 'send', bytes: '7' }] } },
    })
    expect(parsed.success).toBe(false)
    expect(JSON.stringify(parsed.issues?.[0]?.message)).toContain('pairs of hexadecimal digits')
  })
})
