import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { concatBytes } from '../../kernel'
import { CsvLogReader, readCsvLog, rowsOf } from '.'
import { Utf16Reader, wideOrder } from './wide-text'

/** Units of a text as bytes of either order (Unicode 16.0, 3.10), without looking at what they mean. */
const wide = (text: string, order: 'little' | 'big') =>
  Uint8Array.from(
    Array.from({ length: text.length }, (_, at) => {
      const unit = text.charCodeAt(at)
      const [low, high] = [unit & 255, unit >> 8]
      return order === 'little' ? [low, high] : [high, low]
    }).flat(),
  )
const mark = { little: [0xff, 0xfe], big: [0xfe, 0xff] }
const orders = ['little', 'big'] as const

describe('a text in UTF-16', () => {
  it.each(orders)('is the same as another library reads, %s end first, cut anywhere', (order) =>
    fc.assert(
      // Lone halves of pairs among them.
      fc.property(
        fc.array(fc.integer({ min: 0, max: 0xffff }), { maxLength: 60 }),
        fc.array(fc.nat(130), { maxLength: 5 }),
        (units, cuts) => {
          const bytes = wide(`${units.map((unit) => String.fromCharCode(unit)).join('')}\n`, order)
          const reader = new Utf16Reader(order)
          const places = [0, ...cuts.map((cut) => Math.min(cut, bytes.length)), bytes.length].sort(
            (a, b) => a - b,
          )
          const read = concatBytes(
            places.slice(1).map((to, index) => reader.push(bytes.subarray(places[index], to))),
          )
          // WHATWG Encoding, as Node has it.
          const wanted = new TextDecoder(order === 'little' ? 'utf-16le' : 'utf-16be', {
            ignoreBOM: true,
          }).decode(bytes)
          expect(read).toEqual(new TextEncoder().encode(wanted))
        },
      ),
    ),
  )
  it('is told by its mark alone', () => {
    expect(wideOrder(Uint8Array.of(0xff, 0xfe))).toBe('little')
    expect(wideOrder(Uint8Array.of(0xfe, 0xff))).toBe('big')
    for (const other of [[], [0xff], [0xfe], [0xff, 0xff], [0xfe, 0xfe], [0x74, 0xfe], [0xef, 0xbb, 0xbf]])
      expect(wideOrder(Uint8Array.from(other))).toBe(null)
  })
})

describe('a log in UTF-16', () => {
  const text = 'Zeit [s];Öltemperatur [°C];Lambda\r\n0,0;81,5;0,98\r\n0,5;81,75;1,02\r\n1,0;82,0;1,00\r\n'
  it.each(orders)('is read like the same in UTF-8, %s end first', (order) => {
    const log = readCsvLog(Uint8Array.from([...mark[order], ...wide(text, order)]))
    const plain = readCsvLog(new TextEncoder().encode(text))
    expect(log.channels).toEqual(plain.channels)
    expect(log.channels[0]).toMatchObject({ name: 'Öltemperatur', unit: '°C' })
    expect([...log.channels[0]!.values]).toEqual([81.5, 81.75, 82])
    expect([...log.seconds]).toEqual([0, 0.5, 1])
    expect(log.findings).toEqual([])
  })
  it('may come a byte at a time', () => {
    const bytes = Uint8Array.from([...mark.little, ...wide(text, 'little')])
    const reader = new CsvLogReader()
    for (const byte of bytes) reader.push(Uint8Array.of(byte))
    expect(rowsOf(reader.finish())).toBe(3)
  })
})
