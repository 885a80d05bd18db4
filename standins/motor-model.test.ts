import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { motorLogCsv, type MotorRow } from './motor-model'

const row = (second: number): MotorRow => ({
  second,
  speedRpm: 900,
  pedal: 5,
  amps: 20,
  wantedAmps: 20,
  volts: 48,
  motorCelsius: 20,
})

describe('the clock of a log that the motor model writes', () => {
  /** Seconds of the day that a time of day of ISO 8601 stands for, with the comma that ISO 8601 prefers. */
  const seconds = (text: string) => {
    const [, hours, minutes, rest] = /^(\d\d):(\d\d):(\d\d,\d{3})$/.exec(text)!
    return Number(hours) * 3600 + Number(minutes) * 60 + Number(rest!.replace(',', '.'))
  }
  it('goes forward by the time between its rows, whenever it begins', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 86_000_000 }), (startMs) => {
        const rows = Array.from({ length: 60 }, (_, at) => row(at * 0.05))
        const times = motorLogCsv(rows, startMs / 1000)
          .trimEnd()
          .split('\r\n')
          .slice(1)
          .map((line) => seconds(line.split(';')[0]!))
        times.forEach((time, at) => expect(time).toBeCloseTo(startMs / 1000 + at * 0.05, 2))
      }),
    )
  })
  it('counts on over a full second and over midnight', () => {
    const at = (second: number) =>
      motorLogCsv([row(0)], second)
        .split('\r\n')[1]!
        .split(';')[0]
    expect([at(59.9996), at(86_399.9999), at(3661.25)]).toEqual([
      '00:01:00,000',
      '00:00:00,000',
      '01:01:01,250',
    ])
  })
})
