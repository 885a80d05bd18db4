import { describe, expect, it } from 'vitest'
import { writeRtu } from '.'
import { modbusRows } from './trace-rows'

/*
 * A register bus as a trace tells it: frames of Modbus Application Protocol V1.1b3 (function codes, clause 6; exceptions, clause 7),
 * each ended by its CRC (Modbus over Serial Line V1.02, 2.5.1.2).
 */

const bytes = (text: string) => Uint8Array.from(text.split(' ').filter(Boolean), (pair) => parseInt(pair, 16))
const frame = (address: number, pdu: string) => writeRtu({ address, pdu: bytes(pdu) })
type Event = [direction: 'out' | 'in', bytes: Uint8Array]
function read(...events: Event[]) {
  const reader = modbusRows()
  return events.flatMap(([direction, data], at) => reader({ at: at * 10, direction, bytes: data }))
}
const says = (...events: Event[]) => read(...events).map((row) => row.says)

describe('a register bus in a trace', () => {
  it.each<['out' | 'in', string, string]>([
    ['out', '03 00 64 00 04', '9: read holding registers 100, 4 of them'],
    ['in', '03 08 00 01 00 02 00 03 00 04', '9: read holding registers, 4 registers'],
    ['out', '06 01 00 00 e0', '9: write register 256 = 224'],
    ['in', '06 01 00 00 e0', '9: write register 256 = 224'],
    ['out', '10 00 20 00 02 04 00 00 00 40', '9: write registers 32, 2 of them'],
    ['in', '10 00 20 00 02', '9: write registers 32, 2 of them'],
    // 6.14: byte count 7, reference type 6, file 4, record 1, 2 records.
    ['out', '14 07 06 00 04 00 01 00 02', '9: read file records, file 4, record 1, 2 records'],
    ['out', '15 0b 06 00 04 00 07 00 02 06 af 04 be', '9: write file records, file 4, record 7, 2 records'],
    ['in', '14 05 05 06 0d fe 00 20', '9: read file records, 4 bytes'],
    ['out', '14 00', '9: read file records'],
    ['out', '2b 0e 01 00', '9: device identification'],
    ['in', '2b 0e 01 01 00 00 03 00 01 41', '9: device identification, 3 objects'],
    ['out', '41 00 01 00 02', '9: function 65 1, 2 of them'],
  ])('%s %s: %s', (direction, pdu, text) => {
    const [row, ...more] = read([direction, frame(9, pdu)])
    expect(more).toEqual([])
    expect(row).toMatchObject({ direction, says: text })
    expect(row!.wrong).toBeUndefined()
  })
  it('a refusal says which and why, and is marked', () => {
    const [row] = read(['in', frame(7, '83 02')])
    expect(row).toMatchObject({ wrong: true, direction: 'in' })
    expect(row!.says).toMatch(/^7: read holding registers refused, exception 2: \S/)
    expect(read(['in', frame(7, '90 63')])[0]!.says).toBe(
      '7: write registers refused, exception 99: no known reason',
    )
  })
  it('an answer is whole with its CRC, in however many pieces it came, at the time of the first', () => {
    const whole = frame(9, '03 02 12 34')
    const rows = read(
      ['out', frame(9, '03 00 01 00 01')],
      ['in', whole.subarray(0, 3)],
      ['in', whole.subarray(3)],
    )
    expect(rows.map(({ at, direction }) => [at, direction])).toEqual([
      [0, 'out'],
      [10, 'in'],
    ])
    expect(rows[1]!.bytes.replace(/\s/g, '').toLowerCase()).toBe(Buffer.from(whole).toString('hex'))
  })
  it('what never becomes whole is told as it is when the next request goes out, and not mixed with its answer', () => {
    const broken = frame(9, '03 02 12 34')
    broken[3]! ^= 1
    const rows = read(['in', broken], ['out', frame(9, '06 00 01 00 02')], ['in', frame(9, '06 00 01 00 02')])
    expect(rows.map(({ at, direction, wrong }) => [at, direction, wrong ?? false])).toEqual([
      [0, 'in', true],
      [10, 'out', false],
      [20, 'in', false],
    ])
    expect(rows[0]!.says).toMatch(/\S{3}/)
  })
  it('noise without end is told from 256 bytes on, longer than which no frame is', () => {
    const noise = (length: number) => new Uint8Array(length).fill(0x55)
    expect(says(['in', noise(255)])).toEqual([])
    expect(read(['in', noise(255)], ['in', noise(1)])).toMatchObject([{ at: 0, wrong: true }])
    expect(says(['in', noise(256)], ['in', frame(9, '03 02 12 34')])).toHaveLength(2)
  })
})
