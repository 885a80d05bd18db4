import { describe, expect, it } from 'vitest'
import { timeMarks } from './time-marks'

/** `2026-11-24 14:32` of this computer's time. */
const at = (text: string) => new Date(text.replace(' ', 'T')).getTime()
const written = (moments: readonly number[]) =>
  moments.map((moment) => {
    // Written by Intl, which knows the calendar by itself.
    const parts = new Intl.DateTimeFormat('sv-SE', { dateStyle: 'short', timeStyle: 'short' })
    return parts.format(moment)
  })

describe('marks of a time axis', () => {
  it.each([
    // Source: the Gregorian calendar (ISO 8601): 2026-11-23 and 30 are Mondays.
    [
      '2026-11-24 09:10',
      '2026-11-24 13:00',
      6,
      'hour',
      ['2026-11-24 10:00', '2026-11-24 11:00', '2026-11-24 12:00', '2026-11-24 13:00'],
    ],
    [
      '2026-11-24 09:10',
      '2026-11-25 08:00',
      4,
      'hour',
      ['2026-11-24 12:00', '2026-11-24 18:00', '2026-11-25 00:00', '2026-11-25 06:00'],
    ],
    [
      '2026-11-24 09:10',
      '2026-11-27 08:00',
      4,
      'day',
      ['2026-11-25 00:00', '2026-11-26 00:00', '2026-11-27 00:00'],
    ],
    [
      '2026-11-20 09:10',
      '2026-12-08 08:00',
      4,
      'day',
      ['2026-11-23 00:00', '2026-11-30 00:00', '2026-12-07 00:00'],
    ],
    [
      '2026-11-02 00:00',
      '2026-12-08 08:00',
      3,
      'day',
      // Every second Monday, counted from that of 1970-01-05: 20 762 days are 1 483 times two weeks.
      ['2026-11-09 00:00', '2026-11-23 00:00', '2026-12-07 00:00'],
    ],
    [
      '1969-12-20 00:00',
      '1970-01-08 08:00',
      3,
      'day',
      ['1969-12-22 00:00', '1969-12-29 00:00', '1970-01-05 00:00'],
    ],
    [
      '2026-11-01 00:00',
      '2027-03-31 08:00',
      5,
      'month',
      ['2026-11-01 00:00', '2026-12-01 00:00', '2027-01-01 00:00', '2027-02-01 00:00', '2027-03-01 00:00'],
    ],
    [
      '2025-11-26 00:00',
      '2026-11-26 08:00',
      5,
      'month',
      ['2026-01-01 00:00', '2026-04-01 00:00', '2026-07-01 00:00', '2026-10-01 00:00'],
    ],
    [
      '2011-05-01 00:00',
      '2026-11-26 08:00',
      4,
      'year',
      ['2015-01-01 00:00', '2020-01-01 00:00', '2025-01-01 00:00'],
    ],
  ] as const)('from %s to %s, at most %i: each %s', (from, to, most, turns, marks) => {
    const made = timeMarks(at(from), at(to), most)
    expect(made.turns).toBe(turns)
    expect(written(made.at)).toEqual(marks)
  })
  it('are never more than there is room for, nor outside, from an hour to centuries', () => {
    for (const hours of [1, 5, 20, 30, 100, 400, 1000, 5000, 20_000, 90_000, 500_000, 3_000_000])
      for (const most of [1, 2, 3, 7]) {
        const from = at('2026-03-28 22:17')
        const to = from + hours * 3_600_000
        const { at: marks } = timeMarks(from, to, most)
        expect(marks.length).toBeLessThanOrEqual(most)
        for (const mark of marks) {
          expect(mark).toBeGreaterThanOrEqual(from)
          expect(mark).toBeLessThanOrEqual(to)
        }
        expect([...marks].sort((a, b) => a - b)).toEqual(marks)
      }
  })
  it('stand at both ends where they turn there', () => {
    expect(written(timeMarks(at('2026-01-01 00:00'), at('2027-01-01 00:00'), 2).at)).toEqual([
      '2026-01-01 00:00',
      '2027-01-01 00:00',
    ])
  })
  it('have none where there is room for none', () => {
    expect(timeMarks(at('2026-01-01 00:00'), at('2026-02-01 00:00'), 0)).toEqual({ turns: 'year', at: [] })
  })
})
