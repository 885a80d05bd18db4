import { describe, expect, it } from 'vitest'
import { hexOf, asciiBytes } from '../../kernel'
import { lineText } from '../port'
import { readExchanges, writeTrace, type TraceEvent } from '.'

/* Logs as terminal programs and line monitors save them (common practice). */
const heardOf = (text: string, prompt?: string) =>
  readExchanges(text, prompt ?? null).exchanges.map(({ sent, heard }) => [sent, heard])

describe('a log of a terminal', () => {
  const log = ['TG-4', '=> ver', 'TG-4 board 2', 'fw 1.3', '=> boot', 'boot> '].join('\r\n')
  it('is taken apart by the prompt that its lines show most', () => {
    const two = log.replace('boot> ', '=> go\r\nbye\r\n=> ')
    expect(readExchanges(two).by).toBe('prompt')
    expect(heardOf(two)).toEqual([
      ['', 'TG-4\r\n=> '],
      ['ver', 'TG-4 board 2\r\nfw 1.3\r\n=> '],
      ['boot', '=> '],
      ['go', 'bye\r\n=> '],
    ])
  })
  it('by both prompts of a unit that shows another in its bootloader', () => {
    const both = `${log}erase 8000 1000\r\n?range\r\n?range\r\nboot> go\r\n=> `
    expect(heardOf(both)).toEqual([
      ['', 'TG-4\r\n=> '],
      ['ver', 'TG-4 board 2\r\nfw 1.3\r\n=> '],
      ['boot', 'boot> '],
      ['erase 8000 1000', '?range\r\n?range\r\nboot> '],
      ['go', '=> '],
    ])
    expect(heardOf(both, '=> ')).toEqual(heardOf(both))
    // Remarks begin with a mark too, and are none.
    expect(heardOf('# one\n# two\nok> a\nb\nok> c\nd\nok> ')).toEqual([
      ['', '# one\r\n# two\r\nok> '],
      ['a', 'b\r\nok> '],
      ['c', 'd\r\nok> '],
    ])
  })
  it('by the prompt that is said, where it shows another more often', () => {
    expect(heardOf('boot> crc 8000 10\n29b1\nboot> go\n', 'boot> ')).toEqual([
      ['crc 8000 10', '29b1\r\nboot> '],
      ['go', ''],
    ])
  })
  it.each([
    ['TX: ver\nRX: fw 1.3\nRX: ok\nTX: go\nRX: bye\n'],
    [
      '12:03:04.120 TX: ver\n12:03:04.180 RX: fw 1.3\n12:03:04.181 RX: ok\n12:03:05.000 TX: go\n12:03:05.1 RX: bye',
    ],
    ['>> ver\n<< fw 1.3\n<< ok\n>> go\n<< bye'],
    ['[2026-11-28 12:03:04] > ver\n[2026-11-28 12:03:04] < fw 1.3\n< ok\n> go\n< bye'],
    ['-> ver\n<- fw 1.3\n<- ok\n-> go\n<- bye'],
    ['Sent: ver\nReceived: fw 1.3\nReceived: ok\nSent: go\nReceived: bye'],
  ])('is taken apart by its marks: %j', (text) => {
    expect(readExchanges(text).by).toBe('marks')
    expect(heardOf(text)).toEqual([
      ['ver', 'fw 1.3\r\nok'],
      ['go', 'bye'],
    ])
  })
  it('has bytes where every marked line is pairs of digits, with what ended each line', () => {
    const text = 'TX: 76 65 72 0D\nRX: 66 77 20 31 0D 0A\nRX: 3D 3E 20\nTX: 67 6F 0D\n'
    expect(readExchanges(text).exchanges).toEqual([
      { sent: 'ver', lineEnd: '\r', heard: 'fw 1\r\n=> ' },
      { sent: 'go', lineEnd: '\r', heard: '' },
    ])
    // "be ef" could be pairs; "fw" is none.
    expect(heardOf('TX: be ef\nRX: fw\n')).toEqual([['be ef', 'fw']])
  })
  it('that nothing takes apart is all heard', () => {
    expect(readExchanges('fw 1.3\nserial 7\n')).toEqual({
      by: 'nothing',
      line: null,
      exchanges: [{ sent: '', lineEnd: '', heard: 'fw 1.3\r\nserial 7' }],
    })
    // One line that begins so is no prompt.
    expect(readExchanges('# a remark\nfw 1.3\n').by).toBe('nothing')
  })
  it('has marks of both directions, before half of its lines at least', () => {
    const by = (text: string) => readExchanges(text).by
    expect(by('TX: ver\nfw 1.3\n\nserial 7\nRX: ok')).toBe('marks')
    expect(by('TX: ver\nfw 1.3\nserial 7\nmade 2026\nRX: ok')).toBe('nothing')
    expect(by('TX: ver\nTX: go\n')).toBe('nothing')
    expect(by('RX: ver\nRX: go\n')).toBe('nothing')
    // What stands without a mark came with the line before it; a blank line is nothing.
    expect(heardOf('TX: ver\nRX: fw 1.3\nserial 7\n\nTX: go\nRX: bye')).toEqual([
      ['ver', 'fw 1.3\r\nserial 7'],
      ['go', 'bye'],
    ])
    // Other bytes between two marked lines of pairs: they are bytes all the same.
    expect(heardOf('TX: 67 6F\nnote\nRX: 6F 6B\n')[0]![0]).toBe('go')
  })
  it('is read to its four hundredth exchange, whatever took it apart', () => {
    const marked = Array.from({ length: 401 }, (_, at) => `TX: c${at}\nRX: r${at}`).join('\n')
    expect(readExchanges(marked).exchanges).toHaveLength(400)
    const shown = Array.from({ length: 402 }, (_, at) => `ok> c${at}`).join('\n')
    expect(readExchanges(shown).exchanges).toHaveLength(400)
  })
  it('without text is refused', () => {
    expect(() => readExchanges(' \n')).toThrow('there is no text in this file')
  })
})

describe('a saved trace', () => {
  const event = (at: number, direction: 'in' | 'out', text: string): TraceEvent => ({
    at,
    what: 'data',
    direction,
    bytes: hexOf(asciiBytes(text)).toLowerCase(),
  })
  const head = {
    format: 'bench-wake/trace',
    formatVersion: 1,
    port: 'p',
    startedAt: 0,
    speech: { speaks: 'console' },
  } as const
  const trace = (events: TraceEvent[]) => writeTrace({ head, events })
  it('is each line that was sent with what came until the next, whatever pieces it came in', () => {
    const text = trace([
      { at: 0, what: 'open', says: '9600 baud, 8N1' },
      event(1, 'in', 'TG-4\r\n=> '),
      event(2, 'out', 've'),
      event(3, 'out', 'r\r'),
      event(4, 'in', 'fw 1.'),
      event(5, 'in', '3\r\n=> '),
      event(6, 'out', 'boot\r\n'),
    ])
    expect(readExchanges(text)).toEqual({
      by: 'trace',
      line: { baudRate: 9600, dataBits: 8, parity: 'none', stopBits: 1 },
      exchanges: [
        { sent: '', lineEnd: '', heard: 'TG-4\r\n=> ' },
        { sent: 'ver', lineEnd: '\r', heard: 'fw 1.3\r\n=> ' },
        { sent: 'boot', lineEnd: '\r\n', heard: '' },
      ],
    })
  })
  it.each([
    '19200 baud, 7E1',
    '9600 baud, 8S2',
    '115200 baud, 8N1, RTS/CTS',
    '2400 baud, 5O1, XON/XOFF',
    '300 baud, 8M1',
  ])('says how its line was set: %s', (says) => {
    const { line } = readExchanges(trace([{ at: 0, what: 'open', says }, event(1, 'in', 'x')]))
    expect(lineText(line!)).toBe(says)
  })
  it.each(['', '9600', '9600 baud, 9N1', '9600 baud, 8N3', '9600 baud, 8X1', 'a 9600 baud, 8N1'])(
    'whose line is told as %j says nothing about it',
    (says) => {
      expect(readExchanges(trace([{ at: 0, what: 'open', says }, event(1, 'in', 'x')])).line).toBeNull()
    },
  )
  it('is found behind blanks and is text otherwise, its last opening counts, four hundred are read', () => {
    const open = (at: number, says: string): TraceEvent => ({ at, what: 'open', says })
    const text = trace([open(0, '300 baud, 8N1'), event(1, 'in', 'x'), open(2, '9600 baud, 8N1')])
    expect(readExchanges(` \n${text}`)).toMatchObject({ by: 'trace', line: { baudRate: 9600 } })
    expect(readExchanges(trace([event(1, 'in', 'x')])).line).toBeNull()
    expect(readExchanges('said {"format":"bench-wake/trace"}').by).toBe('nothing')
    const many = Array.from({ length: 401 }, (_, at) => [event(at, 'out', 'a\r'), event(at, 'in', 'b')])
    expect(readExchanges(trace(many.flat())).exchanges).toHaveLength(400)
  })
  it('that is damaged is refused at its line', () => {
    expect(() => readExchanges(trace([event(1, 'in', 'x')]) + '{"at":')).toThrow(/line 3|no JSON/i)
  })
})
