import { inZone } from '@bench-wake/testing/in-zone'
import { describe, expect, it } from 'vitest'
import { dayAt, isDay } from '.'

// Source: Gregorian calendar, ISO 8601-1, 4.2.1: 1900 is no leap year, 2000 and 2028 are.
it.each(['2026-11-24', '2028-02-29', '2000-02-29', '2026-01-31', '2026-04-30', '0001-01-01', '9999-12-31'])(
  '%s is a day',
  (day) => expect(isDay(day)).toBe(true),
)
it.each([
  '2026-02-29',
  '1900-02-29',
  '2026-02-30',
  '2026-04-31',
  '2026-06-31',
  '2026-09-31',
  '2026-11-31',
  '2026-12-32',
  '2026-13-01',
  '2026-00-10',
  '2026-01-00',
  '0000-01-01',
  '2026-1-1',
  '2026-11-24T00:00',
  ' 2026-11-24',
  '',
])('"%s" is none', (day) => expect(isDay(day)).toBe(false))

it('agrees with the host’s own calendar on every day of the years around a century', () => {
  for (const year of [1899, 1900, 1999, 2000, 2026, 2028, 2100])
    for (let month = 0; month <= 13; month++)
      for (let day = 0; day <= 32; day++) {
        const date = new Date(Date.UTC(year, month - 1, day))
        const there =
          date.getUTCFullYear() === year && date.getUTCMonth() === month - 1 && date.getUTCDate() === day
        const two = (number: number) => String(number).padStart(2, '0')
        expect(isDay(`${year}-${two(month)}-${two(day)}`)).toBe(there)
      }
})

describe('the day of a time', () => {
  const zones = ['UTC', 'Pacific/Kiritimati', 'Pacific/Pago_Pago', 'Europe/Berlin', 'America/St_Johns']

  // By the zones of the IANA database, as the host's own formats of dates have them.
  it.each(zones)('is that of the calendar in %s', (timeZone) =>
    inZone(timeZone, () => {
      const byZone = new Intl.DateTimeFormat('sv-SE', { timeZone })
      const from = Date.UTC(2026, 9, 20)
      for (let hours = 0; hours < 24 * 20; hours++) {
        const at = from + hours * 3_600_000
        expect(dayAt(at)).toBe(byZone.format(at))
      }
    }),
  )
  // Source: Directive 2000/84/EC: summer time there begins on 29 March and ends on 25 October 2026, at 01:00 UTC.
  it('is tomorrow’s one day ahead, also where the day between lasts 23 hours or 25', () =>
    inZone('Europe/Berlin', () => {
      expect(dayAt(Date.parse('2026-03-28T22:30Z'), 1)).toBe('2026-03-29')
      expect(dayAt(Date.parse('2026-10-24T22:15Z'), 1)).toBe('2026-10-26')
      expect(dayAt(Date.parse('2026-10-25T22:30Z'), -1)).toBe('2026-10-24')
      expect(dayAt(Date.parse('2026-12-31T12:00Z'), 1)).toBe('2027-01-01')
    }))
})
