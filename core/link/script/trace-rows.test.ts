import { describe, expect, it } from 'vitest'
import { blockOf, filled } from '../xmodem/hand.test-support'
import { consoleRows } from './trace-rows'

/* A console in a trace: lines as they end, and the signs and blocks of the block transfer between (Forsberg 1988). */

type Event = ['out' | 'in', string | readonly number[]]
const bytesOf = (said: string | readonly number[]) =>
  Uint8Array.from(typeof said === 'string' ? Buffer.from(said, 'latin1') : said)
function rows(...events: Event[]) {
  const read = consoleRows()
  return events.flatMap(([direction, said], at) => read({ at, direction, bytes: bytesOf(said) }))
}
const says = (...events: Event[]) => rows(...events).map((row) => (row.wrong ? `! ${row.says}` : row.says))

describe('lines', () => {
  it('are rows once they end, in whatever pieces they come, each direction by itself', () => {
    expect(says(['in', 'rea'], ['out', 've'], ['in', 'dy\r\n'], ['out', 'r\r'])).toEqual(['ready', 'ver'])
    const [row] = rows(['in', ' ok \r'])
    expect(row).toEqual({ at: 0, direction: 'in', says: 'ok', bytes: '206f6b20' })
  })
  it('that are empty are rows only where a person sent a return', () => {
    expect(says(['in', '\r\n\r\n'], ['in', '  \r\n'])).toEqual([])
    expect(says(['out', '\r'], ['out', '\n'])).toEqual(['(empty line)'])
  })
  it('that never end are noise after two hundred characters', () => {
    expect(says(['in', 'x'.repeat(200)])).toEqual([])
    expect(says(['in', 'x'.repeat(201)], ['in', 'ok\r'])).toEqual([`! ${'x'.repeat(201)}`, 'ok'])
  })
})

describe('the signs of the block transfer', () => {
  it.each([
    [0x06, 'ACK'],
    [0x15, '! NAK'],
    [0x18, '! CAN'],
    [0x04, 'EOT, end of the file'],
  ])('%i is %s, in both directions', (byte, text) => {
    expect(says(['in', [byte]], ['out', [byte]])).toEqual([text, text])
  })
  it('a C by itself asks for blocks, one within a word or from this side does not', () => {
    const asks = 'C, asks for blocks with CRC'
    expect(says(['in', 'C'])).toEqual([asks])
    expect(says(['in', 'CC'])).toEqual([asks, asks])
    expect(says(['in', 'C\r'])).toEqual([asks])
    expect(says(['in', 'C \r'])).toEqual(['C'])
    expect(says(['in', 'CPU 72 MHz\r'])).toEqual(['CPU 72 MHz'])
    expect(says(['in', 'a'], ['in', 'C'], ['in', '\r'])).toEqual(['aC'])
    expect(says(['out', 'C\r'])).toEqual(['C'])
  })
})

describe('blocks that are sent', () => {
  const data = filled(128, 7)
  const header = (text: string, length = 128) => [
    ...Buffer.from(text, 'latin1'),
    ...filled(length - text.length, 0),
  ]
  it('are told with number, length and what checks them', () => {
    expect(says(['out', blockOf(1, data)])).toEqual(['block 1, 128 bytes, CRC holds'])
    expect(says(['out', blockOf(9, filled(1024, 7))])).toEqual(['block 9, 1024 bytes, CRC holds'])
    expect(says(['out', blockOf(2, data, 'sum')])).toEqual(['block 2, 128 bytes, sum holds'])
    expect(says(['out', blockOf(3, filled(1024, 7), 'sum')])).toEqual(['block 3, 1024 bytes, sum holds'])
    expect(says(['out', blockOf(1, data).with(50, 8)])).toEqual(['! block whose check does not hold'])
  })
  it('number 0 is a file’s name, or the end of a batch', () => {
    expect(says(['out', blockOf(0, header('a.bin\x00100 17'))])).toEqual(['block 0: file "a.bin", 100 bytes'])
    expect(says(['out', blockOf(0, filled(128, 0))])).toEqual(['block 0, empty: end of the batch'])
    expect(says(['out', blockOf(0, header('a.bin'))])).toEqual(['block 0, 128 bytes, CRC holds'])
    // After number 255 comes 0 again; of a kilobyte it is data.
    expect(says(['out', blockOf(0, filled(1024, 0))])).toEqual(['block 0, 1024 bytes, CRC holds'])
    expect(says(['out', blockOf(1, filled(128, 0))])).toEqual(['block 1, 128 bytes, CRC holds'])
  })
  // Source: Forsberg 1988, section 5: a path too long for 128 bytes goes out in a block 0 of 1024.
  it('a long name is told as a short one, and data that looks like a name is data', () => {
    const long = `${'deep/'.repeat(30)}a.bin`
    expect(says(['out', blockOf(0, header(`${long}\x0070000 17`, 1024))])).toEqual([
      `block 0: file "${long}", 70000 bytes`,
    ])
    const named = blockOf(0, header('a.bin\x00100 17'))
    const [told, plain] = ['block 0: file "a.bin", 100 bytes', 'block 0, 128 bytes, CRC holds']
    const one = 'block 1, 128 bytes, CRC holds'
    // Sent again it is what it was; within a file it is its 256th block; behind the end another file begins.
    expect(says(['out', named], ['out', named])).toEqual([told, told])
    expect(says(['out', blockOf(1, data)], ['out', named])).toEqual([one, plain])
    expect(says(['out', blockOf(1, data)], ['in', [0x04]], ['out', named]).at(-1)).toBe(plain)
    expect(says(['out', blockOf(1, data)], ['out', [0x04]], ['out', named]).at(-1)).toBe(told)
    expect(says(['out', blockOf(1, data)], ['in', [0x18]], ['out', named]).at(-1)).toBe(told)
    const wrong = '! block whose check does not hold'
    expect(says(['out', blockOf(1, data).with(50, 8)], ['out', named])).toEqual([wrong, told])
  })
  it('what is shorter, or comes from the unit, is no block', () => {
    expect(says(['out', [...blockOf(1, data).slice(0, 131), 13]]).join()).not.toMatch(/^block 1/)
    expect(says(['in', [...blockOf(1, data), 13]]).join()).not.toMatch(/^block 1/)
  })
})
