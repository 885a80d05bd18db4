import { inZone } from '@bench-wake/testing/in-zone'
import { afterEach, describe, expect, it, vi } from 'vitest'
import {
  asTyped,
  dayText,
  fixed,
  short,
  nearDayText,
  plainWriting,
  timeText,
  weekdayText,
  writing,
  written,
} from './written'

afterEach(() => {
  writing.value = { ...plainWriting }
})
const afternoon = new Date(2026, 10, 24, 14, 32).getTime()

describe('what is written of a figure or a day', () => {
  // Source: ISO 8601-1:2019, 5.2.2.1 and 5.3.1.2: calendar date and time of day, extended format.
  it('is ISO by default, on a clock of 24 hours', () => {
    expect(dayText(afternoon)).toBe('2026-11-24')
    expect(dayText('2026-11-24')).toBe('2026-11-24')
    expect(timeText(afternoon)).toBe('14:32')
    expect(timeText(new Date(2026, 0, 1, 0, 5).getTime())).toBe('00:05')
    expect(weekdayText('2026-11-24')).toBe('Tuesday, 2026-11-24')
    expect(fixed(12.6, 2)).toBe('12.60')
    // Four digits of 1/3 and of a large figure, as the SI writes them: no grouping, no trailing zero.
    expect([short(1 / 3, 4), short(1_234_567, 4), short(12.6, 4), short(0, 4)]).toEqual([
      '0.3333',
      '1235000',
      '12.6',
      '0',
    ])
  })

  it('is a day of this computer, whatever the hour', () => {
    expect(dayText(new Date(2026, 10, 24, 0, 1).getTime())).toBe('2026-11-24')
    expect(dayText(new Date(2026, 10, 24, 23, 59).getTime())).toBe('2026-11-24')
    expect(nearDayText('2020-02-29')).toBe('2020-02-29')
  })

  // Source: IANA time zones: Kiritimati is 14 hours before universal time, Pago Pago 11 behind it.
  it('calls today what the people there call so, on either side of the date line', async () => {
    vi.useFakeTimers({ now: Date.parse('2026-11-24T10:30Z') })
    const near = (...days: string[]) => days.map(nearDayText)
    try {
      expect(
        await inZone('Pacific/Kiritimati', () => near('2026-11-24', '2026-11-25', '2026-11-26')),
      ).toEqual(['yesterday', 'today', 'tomorrow'])
      expect(await inZone('Pacific/Pago_Pago', () => near('2026-11-23'))).toEqual(['today'])
    } finally {
      vi.useRealTimers()
    }
  })

  // Source: Unicode CLDR, English as these regions write it.
  it('follows the region that was chosen', () => {
    writing.value = { ...plainWriting, locale: 'en-GB' }
    expect(dayText(afternoon)).toBe('24 Nov 2026')
    writing.value = { ...plainWriting, locale: 'en-US' }
    expect(dayText(afternoon)).toBe('Nov 24, 2026')
    expect(timeText(afternoon)).toMatch(/^02:32\sPM$/)
    writing.value = { ...plainWriting, locale: 'en-DE' }
    expect(fixed(12.6, 2)).toBe('12,60')
    expect(short(12.6, 4)).toBe('12,6')
  })
})

describe('a sentence', () => {
  it('is left as it is where nothing was chosen', () => {
    const said = 'The battery is at 4 °C and 12.41 V over 2.50 mm².'
    expect(written(said)).toBe(said)
    expect(written(undefined)).toBe('')
  })

  // Source: NIST SP 811 (2008), B.8: t/°F = 1.8 t/°C + 32; 0, 20, 37, −40 and 100 °C are in every handbook.
  it.each([
    ['At 0 °C.', 'At 32 °F.'],
    ['At 20 °C.', 'At 68 °F.'],
    ['At 37 °C.', 'At 98.6 °F.'],
    ['At 36.6 °C.', 'At 97.9 °F.'],
    ['At -40 °C.', 'At -40 °F.'],
    ['At 100 °C.', 'At 212 °F.'],
    ['It is charged from 0 to 45 °C.', 'It is charged from 32 to 113 °F.'],
    ['From -20 to 60 °C, at most 3.0 A.', 'From -4 to 140 °F, at most 3.0 A.'],
  ])('gives temperatures as chosen: %s', (said, wanted) => {
    writing.value = { ...plainWriting, temperature: 'fahrenheit' }
    expect(written(said)).toBe(wanted)
  })

  // Source: ASTM B258-18, table 1: 14 AWG 2.08, 12 AWG 3.31, 10 AWG 5.26, 1/0 AWG 53.5 mm².
  it.each([
    ['A lead of 3 m, 2.08 mm².', 'A lead of 3 m, 14 AWG (2.08 mm²).'],
    ['3.31 mm²', '12 AWG (3.31 mm²)'],
    ['53.5 mm²', '1/0 AWG (53.5 mm²)'],
    ['one of 4.3 mm² or more', 'one of between 10 and 11 AWG (4.3 mm²) or more'],
    ['107.2 mm²', '4/0 AWG (107.2 mm²)'],
    ['120 mm²', '120 mm²'],
    ['14 AWG, 2.08 mm²', '14 AWG, 2.08 mm²'],
  ])('gives leads as chosen: %s', (said, wanted) => {
    writing.value = { ...plainWriting, wire: 'awg' }
    expect(written(said)).toBe(wanted)
  })

  it('has the decimal mark of the region in figures with a unit, and leaves versions alone', () => {
    writing.value = { ...plainWriting, locale: 'en-DE' }
    expect(written('Version 2.48: 12.41 V, floor 11.80 V, 3.5 s at 11.1 kB/s, 0.5 %.')).toBe(
      'Version 2.48: 12,41 V, floor 11,80 V, 3,5 s at 11,1 kB/s, 0,5 %.',
    )
    expect(written('from 11.80 to 15.20 V')).toBe('from 11,80 to 15,20 V')
    expect(written('version 1.2.3 writes 192.168.1.4')).toBe('version 1.2.3 writes 192.168.1.4')
    expect(written('3.1 vane of 2.0 Ah')).toBe('3.1 vane of 2,0 Ah')
    // A letter of a revision is no unit.
    expect(written('for hardware 3.2 A, revision 2.1 V')).toBe('for hardware 3.2 A, revision 2.1 V')
  })
})

describe('a figure typed without a unit', () => {
  it('has the unit that was chosen; one with a unit keeps it', () => {
    expect(asTyped('68', 'celsius')).toBe('68')
    writing.value = { locale: 'iso', temperature: 'fahrenheit', wire: 'awg' }
    expect(asTyped('68', 'celsius')).toBe('68 °F')
    expect(asTyped(' -4 ', 'celsius')).toBe('-4 °F')
    expect(asTyped('20 °C', 'celsius')).toBe('20 °C')
    expect(asTyped('14', 'square-millimetres')).toBe('14 AWG')
    expect(asTyped('1/0', 'square-millimetres')).toBe('1/0 AWG')
    expect(asTyped('2.5 mm²', 'square-millimetres')).toBe('2.5 mm²')
    expect(asTyped('12.6', 'volts')).toBe('12.6')
    expect(asTyped('', 'celsius')).toBe('')
  })
})
