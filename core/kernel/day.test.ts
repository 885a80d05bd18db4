import { expect, it } from 'vitest'
import { isDay } from '.'

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
