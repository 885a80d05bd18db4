import { LinkScript } from '@bench-wake/core/family'
import * as v from 'valibot'
import { describe, expect, it } from 'vitest'
import { asciiBytes } from '../../kernel'
import { heardText, stepText } from './failures'
import { scriptLikelyMs, scriptLongestMs, scriptTailMs, type ScriptTimeForm } from '.'

/*
 * Times of a script, each step counted by hand. At 10 000 baud, 8N1, a character of ten bits takes one millisecond; blocks of
 * XMODEM are their data, five bytes around it and one answer (Forsberg 1988).
 */

const settings = { baudRate: 10_000, dataBits: 8, parity: 'none', stopBits: 1 } as const
const frame = {
  layout: 'A5 {length:u8} {payload} {checksum:u16be}',
  escape: 'none',
  checksum: 'sum16',
  maxPayload: 80,
}
function timed(steps: object[], more: Partial<ScriptTimeForm> & { link?: object } = {}) {
  const { link, ...rest } = more
  const script = v.parse(LinkScript, {
    speaks: 'script',
    operations: { write: { steps } },
    thinkMs: 5,
    ...link,
  })
  const form: ScriptTimeForm = { script, settings, bytes: 0, sectorBytes: 1000, pageBytes: 250, ...rest }
  const { write } = script.operations
  const round = (ms: number) => Math.round(ms * 1e6) / 1e6
  return {
    likely: round(scriptLikelyMs(write, form)),
    longest: round(scriptLongestMs(write!, form)),
    tail: (programMs: number) => round(scriptTailMs(write, form, programMs)),
  }
}
const send = (text: string, more: object = {}) => ({ do: 'send', text, ...more })
const expected = (text: string, withinMs = 700) => ({ do: 'expect', patterns: [{ text }], withinMs })

describe('the time of a step', () => {
  it.each<[string, object, number, number, number]>([
    // [what, step, bytes it is about, usually, at the longest]
    ['a text', send('ver\r'), 0, 4, 4],
    ['bytes', { do: 'send', bytes: '7F 01 02' }, 0, 3, 3],
    ['a slot of a width', send('{address:hex8}\r'), 0, 9, 9],
    ['a slot without one: eight characters', send('{serial}\r'), 0, 9, 9],
    ['data', send('{data}'), 60, 60, 60],
    ['data as digits', send('{data:hex}\r'), 60, 121, 121],
    ['a pause behind each of four characters', send('ver\r', { characterPauseMs: 20 }), 0, 84, 84],
    ['an echo of each, half a second waited for', send('ver\r', { echoWithinMs: 500 }), 0, 8, 2004],
    ['both', send('ver\r', { characterPauseMs: 20, echoWithinMs: 500 }), 0, 88, 2084],
    ['an answer, and the unit’s thinking', expected('ok\r\n'), 0, 3 + 5, 700],
    ['a page of some lines', { do: 'page', until: [{ text: '>' }], withinMs: 3000 }, 0, 160 + 5, 3000],
    ['lines held', { do: 'lines', dtr: true, forMs: 120 }, 0, 120, 120],
    ['a wait', { do: 'wait', ms: 250 }, 0, 250, 250],
    ['a speed', { do: 'speed', baudRate: 9600 }, 0, 0, 0],
    ['a word to the person', { do: 'ask', says: 'Press it.' }, 0, 0, 0],
    // Five rows of sixteen: three characters before the bytes, and 48 of digits and blanks.
    ['a dump', { do: 'dump', line: '{row:bytes}', withinMs: 100 }, 80, 5 * (11 + 48), 8100],
  ])('%s', (_, step, bytes, likely, longest) => {
    const time = timed([step], { bytes })
    expect([time.likely, time.longest]).toEqual([likely, longest])
  })
  it('an answer is the shortest that lets it go on, with the data that it carries', () => {
    const answers = (patterns: object[], bytes = 0) =>
      timed([{ do: 'expect', patterns, withinMs: 1 }], { bytes }).likely
    expect(answers([{ text: 'ready' }, { text: 'ok' }, { text: '?', means: 'refused' }])).toBe(2 + 5)
    expect(answers([{ text: '?', means: 'refused' }])).toBe(5)
    // Data at its end is ended by a line's end.
    expect(answers([{ bytes: 'A5 {data}' }], 40)).toBe(1 + 40 + 1 + 5)
    expect(answers([{ text: '= {data:hex}\r' }], 40)).toBe(2 + 80 + 1 + 5)
    expect(answers([{ text: '= {data:hex}\r' }])).toBe(3 + 1 + 5)
    expect(answers([{ bytes: 'A5 {data:u32le} 0D' }], 4)).toBe(6 + 5)
  })
  it('a repeat is gone through once, and at the longest as often as it may be', () => {
    const steps = [send('hello\r'), expected('ok', 30)]
    const time = timed([{ do: 'repeat', steps, times: 4, everyMs: 200, until: [{ text: '>' }] }])
    expect([time.likely, time.longest]).toEqual([6 + 2 + 5 + 5, (6 + 30 + 200) * 4])
  })
  it('pieces are counted, and each may be tried three times or as often as is said', () => {
    const each = { do: 'each', of: 'page', steps: [send('{data}'), expected('ok', 30)] }
    const time = timed([each], { bytes: 1000 })
    expect([time.likely, time.longest]).toEqual([4 * (250 + 7), 4 * (250 + 30) * 3])
    // Where a piece may go out twice, a late answer to it is waited for before.
    expect(timed([each], { bytes: 1000, link: { writeTries: 2 } }).longest).toBe(4 * (250 + 30 + 30) * 2)
    expect(timed([{ ...each, of: 'sector' }], { bytes: 2000 }).likely).toBe(2 * (1000 + 7))
    expect(timed([{ ...each, of: 'chunk', bytes: 100 }], { bytes: 350 }).likely).toBe(4 * (100 + 7))
  })
  it('pieces under way at the same time go at the pace of what takes longest', () => {
    const each = (ahead: number, answer: string) => ({
      do: 'each',
      of: 'chunk',
      bytes: 100,
      ahead,
      steps: [send('{data}'), expected(answer, 30)],
    })
    const likely = (ahead: number, answer = 'ok') => timed([each(ahead, answer)], { bytes: 1000 }).likely
    // Out 100, back 2, thinking 5: the first goes its whole way, the way out sets the pace of nine more.
    expect(likely(4)).toBe(107 + 9 * 100)
    // With a long answer the way back does.
    expect(likely(4, 'x'.repeat(150))).toBe(255 + 9 * 150)
    // A unit that thinks for long is asked for so many at the same time.
    const thinks = timed([each(2, 'ok')], { bytes: 1000, link: { thinkMs: 498 } })
    expect(thinks.likely).toBe(600 + 9 * 300)
    expect(timed([each(4, 'ok')], { bytes: 1000 }).longest).toBe(10 * (100 + 30 + 30) * 3)
  })
})

describe('the time of a transfer', () => {
  const transfer = (by: string, more: object = {}) => ({ do: 'transfer', by, ...more })
  const likely = (by: string, bytes: number, more?: object) => timed([transfer(by, more)], { bytes }).likely
  it('is its blocks with what is around them', () => {
    expect(likely('plain', 300)).toBe(300)
    expect(likely('xmodem', 300)).toBe(3 * 134)
    expect(likely('xmodem-1k', 1100)).toBe(1030 + 134)
    // Two headers more, each a small block.
    expect(likely('ymodem', 1100)).toBe(1030 + 134 + 2 * 134)
  })
  it('of lines is two digits a byte and what each line has more, with its answer', () => {
    // Intel HEX: mark, count, address, type, checksum and end: 13. S-records with four address bytes: 16.
    expect(likely('ihex-lines', 100)).toBe(200 + 7 * 13)
    expect(likely('srec-lines', 100)).toBe(200 + 7 * 16)
    expect(likely('ihex-lines', 100, { recordBytes: 50 })).toBe(200 + 2 * 13)
    expect(likely('ihex-lines', 100, { recordBytes: 50, answer: [{ text: 'ok' }] })).toBe(
      200 + 2 * 15 + 2 * 5,
    )
  })
  it('at the longest has its waits, and every line tried as often as it may be', () => {
    const longest = (by: string, bytes: number, more?: object) =>
      timed([transfer(by, more)], { bytes }).longest
    expect(longest('plain', 300)).toBe(300 + 1000)
    expect(longest('plain', 300, { withinMs: 50 })).toBe(350)
    // A minute to be asked, ten tries of each block, three silences of twenty seconds (Forsberg 1988).
    expect(longest('xmodem', 128)).toBe(10 * 134 + 60_000 + 60_000)
    // As long again until a late answer can no longer come.
    expect(longest('ihex-lines', 16, { withinMs: 100 })).toBe(3 * (32 + 13 + 5 * 2 * 100))
    expect(longest('ihex-lines', 16)).toBe(3 * (32 + 13 + 5 * 2 * 2000))
  })
})

describe('the time of a frame', () => {
  // A5, length, payload, two bytes of sum: four around it.
  const step = { do: 'frame', bytes: '01 {data}', answer: [{ bytes: '81' }], withinMs: 300 }
  const time = (form: object = {}, more: object[] = []) =>
    timed([step, ...more], { bytes: 20, link: { frame: { ...frame, ...form } } })
  it('is its way out and back, and the unit’s thinking', () => {
    expect(time().likely).toBe(25 + 5 + 5)
    // Delimiters of RFC 1055 and RFC 1662: one before and one behind.
    expect(time({ escape: 'slip' }).likely).toBe(27 + 7 + 5)
  })
  it('comes back as an echo first, where the line has one', () => {
    expect(time({ echo: true }).likely).toBe(25 + 25 + 5 + 5)
  })
  it('at the longest is tried three times, or as often as is said', () => {
    // Before it goes out again, a late answer is waited for as long again.
    expect(time().longest).toBe(3 * (30 + 2 * 300))
    expect(time({ tries: 7 }).longest).toBe(7 * (30 + 2 * 300))
  })
  it('of pieces under way goes at the pace of its way out', () => {
    const each = { do: 'each', of: 'chunk', bytes: 20, ahead: 4, steps: [step] }
    const { likely } = timed([each], { bytes: 100, link: { frame } })
    expect(likely).toBe(35 + 4 * 25)
  })
})

describe('what a write still takes behind its last byte', () => {
  const data = send('{data}')
  const done = expected('done')
  it('is what follows the step that carries the data', () => {
    expect(timed([data, done], { bytes: 100 }).tail(1000)).toBe(9)
    expect(timed([{ do: 'transfer', by: 'xmodem' }, done], { bytes: 100 }).tail(1000)).toBe(9)
    const each = { do: 'each', of: 'page', steps: [{ do: 'send', bytes: '55 {data}' }] }
    expect(timed([each, { do: 'wait', ms: 40 }], { bytes: 100 }).tail(1000)).toBe(40)
    const repeat = { do: 'repeat', steps: [data], times: 1, everyMs: 1, until: [{ text: '>' }] }
    expect(timed([repeat, done], { bytes: 100 }).tail(1000)).toBe(9)
  })
  it('is the programming too where another command sets it going', () => {
    expect(timed([data, send('burn\r'), done], { bytes: 100 }).tail(1000)).toBe(5 + 9 + 1000)
    const framed = { do: 'frame', bytes: '02', answer: [{ bytes: '82' }], withinMs: 300 }
    expect(timed([data, framed], { bytes: 100, link: { frame } }).tail(1000)).toBe(5 + 5 + 5 + 1000)
    expect(timed([data, { do: 'send', bytes: '0D' }], { bytes: 100 }).tail(1000)).toBe(1 + 1000)
    // A bare line end only asks whether it is there.
    expect(timed([data, send('\r\n')], { bytes: 100 }).tail(1000)).toBe(2)
  })
  it('is nothing where no step carries data', () => {
    expect(timed([send('hello\r'), done], { bytes: 100 }).tail(1000)).toBe(0)
    expect(timed([send('{database}\r'), done], { bytes: 100 }).tail(1000)).toBe(0)
  })
})

describe('what was heard, to a person', () => {
  it.each<[number[], string]>([
    [[], 'silence'],
    [[...asciiBytes('ok')], '"ok"'],
    [[...asciiBytes('ok\r\n')], '"ok\\r\\n"'],
    [[0x20, 0x7e], '" ~"'],
    [[0x1f], '1f'],
    [[0x7f], '7f'],
    [[0x01, 0xa2, 0x03], '01 a2 03'],
    [[9], '09'],
    // Nine of ten are enough for a text, eight of nine are not.
    [[...asciiBytes('123456789'), 1], '"123456789\\u0001"'],
    [[...asciiBytes('12345678'), 1], '31 32 33 34 35 36 37 38 01'],
  ])('%o is %s', (bytes, text) => expect(heardText(Uint8Array.from(bytes))).toBe(text))
  it('is the end of it, where it is long', () => {
    expect(heardText(asciiBytes('x'.repeat(30) + 'y'.repeat(60)))).toBe(`"${'y'.repeat(60)}"`)
    expect(heardText(asciiBytes('y'.repeat(60)))).toBe(`"${'y'.repeat(60)}"`)
    expect(heardText(asciiBytes('abcdef'), 3)).toBe('"def"')
  })
  it('names a step as a person counts', () => {
    expect(stepText('write.0.2')).toBe('step 3 in step 1 of write')
    expect(stepText('read.4')).toBe('step 5 of read')
  })
})
