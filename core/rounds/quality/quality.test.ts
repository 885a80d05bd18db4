import { describe, expect, it } from 'vitest'
import { verdictOf } from '../../kernel'
import type { Log } from '../log'
import { judgeLog, medianStep, timeWhile, type AgreedChannel, type LogKind, type LogQuestion } from '.'

const kind: LogKind = {
  id: 'full-load',
  name: 'Full load',
  asks: 'One pull.',
  minSeconds: 10,
  minHertz: 10,
  conditions: [{ channel: 'Pedal', min: 90, seconds: 4 }],
}
const channels: AgreedChannel[] = [
  { name: 'Pedal', unit: '%', role: 'load', min: 0, max: 100 },
  { name: 'Lambda', unit: '', role: 'mixture' },
  { name: 'Supply', unit: 'V', role: 'supply' },
  { name: 'Fan', unit: '', role: 'switch' },
]
type Rows = Record<string, (second: number, row: number) => number>
const sound: Rows = {
  Pedal: (t) => (t < 4 ? 20 + t : 95 + (t % 2)),
  Lambda: (t) => 0.86 + 0.05 * Math.sin(t),
  Supply: (t) => 13.8 - 0.02 * t,
  Fan: () => 1,
}
function logOf(rows: Rows, { count = 241, step = 0.05, bytes = 20_000 } = {}): Log {
  const seconds = Float64Array.from({ length: count }, (_, row) => row * step)
  return {
    seconds,
    channels: Object.entries(rows).map(([name, at]) => ({
      name,
      unit: '',
      values: seconds.map((t, row) => at(t, row)),
    })),
    bytes,
    preamble: [],
    findings: [],
  }
}
const judged = (log: Log, change: Partial<LogQuestion> = {}) =>
  judgeLog({ log, kind, channels, limits: [], floorVolts: 12, ...change })
const said = (log: Log, change: Partial<LogQuestion> = {}) =>
  judged(log, change).map(({ rule, level }) => `${rule} ${level}`)
const withRows = (rows: Rows) => ({ ...sound, ...rows })

describe('whether a log is worth sending (PRACTICE K2, K4)', () => {
  it('a sound one is', () => {
    expect(said(logOf(sound))).toEqual(['log-good go'])
  })

  it('a kilobyte is a failed log, and one byte more is not', () => {
    expect(said(logOf(sound, { bytes: 1024 }))).toContain('too-small stop')
    expect(said(logOf(sound, { bytes: 1025 }))).not.toContain('too-small stop')
    expect(said(logOf(sound, { count: 19, step: 1 }))).toContain('too-small stop')
    expect(said(logOf(sound, { count: 20, step: 1 }))).not.toContain('too-small stop')
  })
  it('too short by a row', () => {
    expect(said(logOf(sound, { count: 200 }))).toContain('too-short stop')
    expect(said(logOf(sound, { count: 201 }))).not.toContain('too-short stop')
  })
  it('a channel of the list is missing, and its name is said', () => {
    const { Lambda: _, ...rest } = sound
    expect(judged(logOf(rest))[0]).toMatchObject({ rule: 'channel-missing', level: 'stop' })
    expect(judged(logOf(rest))[0]!.says).toContain('Lambda')
  })
  it('finds a channel whatever its capitals and marks', () => {
    const { Lambda, ...rest } = sound
    expect(said(logOf({ ...rest, ' LAMBDA_': Lambda! }))).toEqual(['log-good go'])
  })
  it('a mixture of one constant value stops, another channel holds, a switch may rest', () => {
    expect(said(logOf(withRows({ Lambda: () => 1 })))).toContain('stuck stop')
    expect(said(logOf(withRows({ Supply: () => 13 })))).toContain('stuck hold')
    expect(said(logOf(withRows({ Lambda: (_, row) => (row === 7 ? 0.9 : 1) })))).not.toContain('stuck stop')
  })
  it('a temperature may rest for minutes, and not for longer', () => {
    const warm = [...channels, { name: 'Oil', unit: '°C', role: 'temperature' as const }]
    const rows = withRows({ Oil: () => 80, Pedal: (_, row) => 95 + (row % 3) })
    const long = (count: number) => said(logOf(rows, { count, step: 0.1 }), { channels: warm })
    expect(long(3000)).not.toContain('stuck hold')
    expect(long(3001)).toContain('stuck hold')
  })
  it('a channel without figures in half of its rows', () => {
    expect(said(logOf(withRows({ Lambda: (t, row) => (row % 2 ? NaN : 0.9 + t / 100) })))).not.toContain(
      'no-figures stop',
    )
    expect(said(logOf(withRows({ Lambda: (t, row) => (row % 3 ? NaN : 0.9 + t / 100) })))).toContain(
      'no-figures stop',
    )
    expect(said(logOf(withRows({ Lambda: () => NaN })))).toContain('no-figures stop')
  })
  it('a sensor at its end for more than a tenth of the rows', () => {
    const at = (rows: number, end: number) =>
      withRows({ Pedal: (t, row) => (row < rows ? end : sound['Pedal']!(t, row)) })
    expect(said(logOf(at(24, 100)))).not.toContain('at-rail hold')
    expect(said(logOf(at(25, 100)))).toContain('at-rail hold')
    expect(said(logOf(at(25, 0)))).toContain('at-rail hold')
    expect(judged(logOf(at(25, 0)))[0]!.says).toContain('its end, 0 %')
  })
  it('a narrow-band probe where wide was asked', () => {
    const switching = withRows({
      Lambda: (_, row) => (row % 8 < 3 ? 0.1 + (row % 3) / 100 : row % 8 < 7 ? 0.82 : 0.5),
    })
    expect(said(logOf(switching))).toContain('narrow-band stop')
    // The same swing in lambda is a wideband one: a rich engine under load never shows 0.1.
    expect(said(logOf(withRows({ Lambda: (_, row) => (row % 8 < 4 ? 0.78 : 0.98) })))).not.toContain(
      'narrow-band stop',
    )
    expect(said(logOf(withRows({ Lambda: (_, row) => (row % 8 < 4 ? 11.5 : 14.6) })))).not.toContain(
      'narrow-band stop',
    )
  })
  it('the time goes back', () => {
    const log = logOf(sound)
    log.seconds[100] = log.seconds[99]!
    expect(said(log)).not.toContain('time-back stop')
    log.seconds[100] = log.seconds[99]! - 0.01
    expect(judged(log)[0]).toMatchObject({
      rule: 'time-back',
      level: 'stop',
      numbers: { row: 101, times: 1 },
    })
  })
  it('a gap is noted, and holds where it is a twentieth of the log', () => {
    const gap = (seconds: number) => {
      const log = logOf(sound)
      for (let row = 150; row < log.seconds.length; row++) log.seconds[row]! += seconds
      return said(log)
    }
    expect(gap(0.4)).not.toContain('gaps note')
    expect(gap(0.5)).toContain('gaps note')
    expect(gap(0.55)).toContain('gaps note')
    expect(gap(0.7)).toContain('gaps hold')
  })
  it('a rate too low for what is looked for', () => {
    expect(said(logOf(sound, { step: 0.1, count: 121 }))).not.toContain('rate-too-low stop')
    expect(said(logOf(sound, { step: 0.11, count: 121 }))).toContain('rate-too-low stop')
  })
  it('a condition that was never reached, or not for long enough', () => {
    expect(
      judged(logOf(withRows({ Pedal: (t) => 20 + t }))).find(
        ({ rule }) => rule === 'condition-never-reached',
      ),
    ).toMatchObject({
      level: 'stop',
      says: 'Full load was not held: Pedal was at 90 or more for no time.',
      remedy: 'One pull.',
    })
    const held = (seconds: number) =>
      withRows({ Pedal: (t) => (t >= 2 && t < 2 + seconds - 0.001 ? 90 : 40 + t) })
    expect(said(logOf(held(3.95)))).toContain('condition-never-reached stop')
    expect(said(logOf(held(4)))).not.toContain('condition-never-reached stop')
    const { Pedal: _, ...rest } = sound
    expect(said(logOf(rest), { channels: channels.slice(1) })).toContain('condition-never-reached stop')
    const between = { ...kind, conditions: [{ channel: 'Pedal', min: 10, max: 30, seconds: 4 }] }
    expect(said(logOf(withRows({ Pedal: (t) => 30.5 + t })), { kind: between })).toContain(
      'condition-never-reached stop',
    )
    expect(said(logOf(withRows({ Pedal: (t) => 18 + t })), { kind: between })).toEqual(['log-good go'])
  })
  it('a supply below its floor for longer than an inrush', () => {
    const dip = (rows: number, volts: number) =>
      withRows({ Supply: (t, row) => (row >= 50 && row < 50 + rows ? volts : 13 + t / 100) })
    expect(said(logOf(dip(4, 11.9)))).not.toContain('supply-sagging hold')
    expect(said(logOf(dip(6, 11.9)))).toContain('supply-sagging hold')
    expect(said(logOf(dip(60, 12)))).not.toContain('supply-sagging hold')
    expect(said(logOf(dip(60, 11)), { floorVolts: null })).not.toContain('supply-sagging hold')
  })
  describe('lean under load', () => {
    const limits: LogQuestion['limits'] = [
      {
        channel: 'Lambda',
        max: 0.95,
        when: { channel: 'Pedal', min: 80 },
        seconds: 0.2,
        says: 'It ran lean under load',
      },
    ]
    const lean = (rows: number, lambda: number, from = 100) =>
      withRows({ Lambda: (t, row) => (row >= from && row < from + rows ? lambda : sound['Lambda']!(t, row)) })
    it('stops, and says not to repeat the pull', () => {
      expect(judged(logOf(lean(5, 1.02)), { limits })[0]).toMatchObject({
        rule: 'limit-passed',
        level: 'stop',
        says: 'It ran lean under load. Do not repeat this pull.',
        numbers: { worst: 1.02 },
      })
    })
    it('not at the limit, not for a moment, and not without load', () => {
      expect(said(logOf(lean(20, 0.95)), { limits })).toEqual(['log-good go'])
      expect(said(logOf(lean(3, 1.02)), { limits })).toEqual(['log-good go'])
      expect(said(logOf(lean(20, 1.02, 10)), { limits })).toEqual(['log-good go'])
    })
    it('counts a single row where no time is asked for', () => {
      const watched = [{ ...limits[0]!, seconds: 0 }]
      expect(said(logOf(lean(1, 1.02)), { limits: watched })).toContain('limit-passed stop')
    })
    it('holds where the channel to watch is not there', () => {
      const knock = [{ channel: 'Knock', max: 2, seconds: 0, says: 'It knocked' }]
      expect(judged(logOf(sound), { limits: knock })[0]).toMatchObject({
        level: 'hold',
        rule: 'limit-passed',
      })
      const unloaded = [{ ...limits[0]!, when: { channel: 'Torque', min: 1 } }]
      expect(judged(logOf(sound), { limits: unloaded })[0]).toMatchObject({
        level: 'hold',
        rule: 'limit-passed',
      })
    })
    it('below its lowest as well', () => {
      const low = [{ channel: 'Lambda', min: 0.7, seconds: 0, says: 'It ran too rich' }]
      expect(judged(logOf(lean(3, 0.6)), { limits: low })[0]).toMatchObject({
        level: 'stop',
        numbers: { worst: 0.6 },
      })
    })
  })
  it('what reading showed counts as well', () => {
    const log = logOf(sound)
    log.findings.push({ rule: 'log-junk', level: 'hold', says: 'x', because: 'y' })
    expect(verdictOf(judged(log))).toBe('hold')
    expect(said(log)).not.toContain('log-good go')
  })
  it('an empty log is told, and nothing of it is called good', () => {
    const empty = logOf(sound, { count: 0 })
    expect(verdictOf(judged(empty))).toBe('stop')
  })
})

describe('measures of a log', () => {
  it('the usual step is the middle one', () => {
    expect(medianStep(Float64Array.of(0, 1, 2, 3, 100))).toBe(1)
    expect(medianStep(Float64Array.of(5))).toBe(0)
    expect(medianStep(Float64Array.of(0, 0, 0))).toBe(0)
  })
  it('time in which something holds, and its longest stretch', () => {
    const seconds = Float64Array.from({ length: 11 }, (_, row) => row)
    const there = [1, 1, 0, 1, 1, 1, 0, 0, 1, 0, 0]
    expect(timeWhile({ seconds }, (row) => there[row] === 1)).toEqual({
      seconds: 6,
      longest: 3,
      longestFrom: 3,
    })
  })
  it('a gap is not counted as if it had held all along', () => {
    const seconds = Float64Array.of(0, 1, 2, 3, 103, 104, 105)
    expect(timeWhile({ seconds }, () => true)).toMatchObject({ seconds: 15, longest: 13 })
  })
})
