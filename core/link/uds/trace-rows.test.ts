import { describe, expect, it } from 'vitest'
import { canRows, serviceRow } from './trace-rows'

/*
 * The vehicle bus in a trace: lines of the adapter (a letter, identifier, length, data), frames of ISO 15765-2 (9.6: 0 single, 1
 * first, 2 consecutive, 3 flow control) and services of ISO 14229-1 (annex A codes) within them, each written out by hand.
 */

type Event = [direction: 'out' | 'in', line: string]
const ids = { requestId: 0x7e0, answerId: 0x7e8 }
function read(events: Event[], form: Parameters<typeof canRows>[0] = ids) {
  const reader = canRows(form)
  return events.flatMap(([direction, line], at) =>
    reader({ at, direction, bytes: Uint8Array.from(Buffer.from(line, 'latin1')) }),
  )
}
const says = (...events: Event[]) => read(events).map((row) => row.says)
const message = (direction: 'out' | 'in', text: string) =>
  serviceRow(
    5,
    direction,
    Uint8Array.from(text.split(' '), (pair) => parseInt(pair, 16)),
  )

describe('a message of the services', () => {
  it.each<['out' | 'in', string, string]>([
    ['out', '10 01', 'session control standard'],
    ['out', '10 02', 'session control programming'],
    ['in', '50 03 00 32 01 f4', 'session control extended, done'],
    ['out', '10 60', 'session control 96'],
    ['out', '22 f1 89', '0xF189'],
    ['in', '62 f1 89 41', '0xF189, done'],
    ['out', '2e f1 90 41', '0xF190'],
    ['out', '27 01', 'seed of level 1'],
    ['in', '67 01 aa', 'seed of level 1, done'],
    ['out', '27 02 bb', 'key of level 2'],
    ['in', '67 02', 'key of level 2, done'],
    ['out', '31 01 ff 00', '0xFF00'],
    ['in', '71 01 ff 00', '0xFF00, done'],
    ['out', '36 07 01 02 03', 'block 7, 3 bytes'],
    ['in', '76 07', 'block 7, done'],
    ['in', '7e 00', ', done'],
  ])('%s %s: …%s', (direction, text, end) => {
    const row = message(direction, text)
    expect(row.says.endsWith(end), row.says).toBe(true)
    expect(row.says).toMatch(/^[a-z]/)
    expect(row.wrong).toBeUndefined()
    expect(row).toMatchObject({ at: 5, direction })
  })
  it('what we ask is never called done, and what nobody knows is told by its number', () => {
    expect(message('out', '3e 00').says).not.toContain('done')
    expect(message('out', '55 01').says).toBe('service 0x55')
    expect(message('in', 'b0 01').says).toBe('service 0x70, done')
  })
  it('a refusal says of what and why, and is marked; "needs longer" is none', () => {
    expect(message('in', '7f 22 31')).toMatchObject({
      wrong: true,
      says: expect.stringMatching(/: it does not have this identifier or this range$/),
    })
    const longer = message('in', '7f 31 78')
    expect(longer.wrong).toBeUndefined()
    expect(longer.says).toMatch(/: it has heard and needs longer$/)
  })
})

describe('the bus in a trace', () => {
  it('has a row for a message of one frame', () => {
    const rows = read([
      ['out', 't7E0803' + '22F189' + 'CCCCCCCC\r'],
      ['in', 't7E8804' + '62F18941' + '555555\r'],
    ])
    expect(rows.map((row) => [row.at, row.direction])).toEqual([
      [0, 'out'],
      [1, 'in'],
    ])
    expect(rows[0]!.says).toMatch(/0xF189$/)
    expect(rows[1]!.says).toMatch(/0xF189, done$/)
    expect(rows[1]!.bytes.replace(/\s/g, '').toLowerCase()).toBe('62f18941')
  })
  const first = 't7E881009' + '62F189414243\r'
  const last = 't7E88214445464C4C4C4C\r'
  it('puts a message of several frames together, and tells flow control between', () => {
    const rows = read([
      ['in', first],
      ['out', 't7E083000' + '0ACCCCCCCCCC\r'],
      ['in', last],
    ])
    expect(rows.map((row) => row.says)).toEqual([
      '7E8: first frame of 9 bytes',
      '7E0: flow control, continue, block size 0, STmin 10 ms',
      expect.stringMatching(/0xF189, done$/),
    ])
    expect(rows[2]!.bytes.replace(/\s/g, '').toLowerCase()).toBe('62f189414243444546')
  })
  it('frames behind no first are none, and do not go into the next message', () => {
    const rows = read([
      ['in', last],
      ['in', last],
      ['in', first],
      ['in', last],
      ['in', last],
    ])
    expect(rows).toHaveLength(2)
    expect(rows[1]!.bytes.replace(/\s/g, '').toLowerCase()).toBe('62f189414243444546')
  })
  // Asked by one frame to all, two controllers answer at the same time.
  it('two controllers that answer at the same time are told apart', () => {
    const other = { requestId: 0x7e1, answerId: 0x7e9 }
    const rows = read(
      [
        ['in', first],
        ['in', first.replace('7E8', '7E9').replace('414243', '515253')],
        ['in', last.replace('7E8', '7E9').replace('444546', '545556')],
        ['in', last],
      ],
      { ...ids, others: [other] },
    )
    expect(rows.slice(2).map((row) => row.bytes.replace(/\s/g, '').toLowerCase())).toEqual([
      '62f189515253545556',
      '62f189414243444546',
    ])
  })
  it('of others is told by its identifier and length', () => {
    expect(says(['in', 't12320102\r'])).toEqual(['123: 2 bytes'])
    expect(says(['in', 'T18DAF110' + '3010203\r'])).toEqual(['18DAF110: 3 bytes'])
    // Nothing is taken for a service where no identifiers are known.
    expect(read([['out', 't7E0803' + '22F189' + 'CCCCCCCC\r']], {})[0]!.says).toBe('7E0: 8 bytes')
  })
  it('with a byte of address in each frame is read behind it', () => {
    const [row] = read([['out', 't7E08F103' + '22F189' + 'CCCCCC\r']], { ...ids, addressed: true })
    expect(row!.says).toMatch(/0xF189$/)
  })
  it('the adapter’s own lines are told as such', () => {
    expect(says(['out', 'S6\r'], ['out', 'O\r'], ['out', 'C\r'])).toEqual([
      'adapter: bit rate (S6)',
      'adapter: joins the bus (O)',
      'adapter: leaves the bus (C)',
    ])
    expect(says(['out', 'S66\r'], ['out', 'XS6\r'], ['in', '\r'], ['in', 'z\r'])).toEqual([])
    expect(read([['in', '\x07']])).toMatchObject([{ says: 'adapter: refused', wrong: true, bytes: '07' }])
  })
  // The adapter’s lines of trouble, and what they say: as `busNotice` reads them.
  it('what the adapter tells of the bus is told, its troubles marked', () => {
    const told = (line: string) => read([['in', `${line}\r`]])[0]
    expect(told('sa000000')).toMatchObject({ says: expect.stringMatching(/^adapter: in order/) })
    expect(told('sa000000')!.wrong).toBeUndefined()
    expect(told('sb000256')).toMatchObject({ says: 'adapter: off the bus', wrong: true, direction: 'in' })
    expect(told('e2af')).toMatchObject({ says: expect.stringMatching(/^bus: .+, .+$/), wrong: true })
    // What is sent is no notice.
    expect(says(['out', 'sb000256\r'])).toEqual([])
  })
  it('a message that ends with its last frame, and one with bytes behind its end', () => {
    const exact = read([
      ['in', 't7E88100D' + '62F189414243\r'],
      ['in', 't7E8821' + '44454647484950\r'],
    ])
    expect(exact[1]!.bytes.replace(/\s/g, '').toLowerCase()).toBe('62f18941424344454647484950')
  })
  it('lines come in pieces, and one that never ends is not kept', () => {
    expect(says(['in', 't123'], ['in', '2010'], ['in', '2\r'])).toEqual(['123: 2 bytes'])
    // A refusal ends what was begun.
    expect(says(['in', 't123\x07'], ['in', 't12320102\r'])).toEqual(['adapter: refused', '123: 2 bytes'])
    expect(says(['in', 'x'.repeat(5000)], ['in', '\r'], ['in', 't12320102\r'])).toEqual(['123: 2 bytes'])
    // Each direction has lines of its own.
    expect(says(['in', 't12320'], ['out', 'S6\r'], ['in', '102\r'])).toEqual([
      'adapter: bit rate (S6)',
      '123: 2 bytes',
    ])
  })
})
