import { describe, expect, it } from 'vitest'
import { Problem, virtualClock } from '../../kernel'
import type { AgreedChannel } from '../quality'
import { askedRows, BesideWatch, channelSourceIn, joinByTime, recordChannels, sentRows, type Shown } from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))
const channel = (name: string, text: string) => ({
  name,
  unit: '',
  role: 'other' as AgreedChannel['role'],
  read: channelSourceIn(text)!,
})
const lambda = channel('Lambda', 'beside lambda')
const shown = (...readings: [number, string | null][]): Shown[] =>
  readings.map(([at, text]) => ({ at, lines: new Map(text === null ? [] : [['lambda', text]]) }))
const silence = (kind = 'no-answer') => new Problem({ kind, says: 'nobody answers', remedy: 'Look.' })

describe('a second device joined by time', () => {
  // Worked by hand: in proportion between the readings before and behind.
  it('is in proportion between two readings', () => {
    const readings = shown([0, '1.00'], [100, '0.90'], [200, '0.80'])
    expect(joinByTime([0, 25, 50, 100, 175, 200], readings, lambda)).toEqual(
      [1, 0.975, 0.95, 0.9, 0.825, 0.8].map((each) => expect.closeTo(each, 9)),
    )
  })
  it('takes the factor of its channel', () => {
    const ratio = channel('Air', 'beside lambda × 14.7 - 1')
    expect(joinByTime([50], shown([0, '1'], [100, '1']), ratio)).toEqual([expect.closeTo(13.7, 9)])
  })
  // Readings every 100 ms: three steps are 300 ms.
  it.each([
    [300, false],
    [301, true],
  ])('has none where readings are %i ms apart: %s', (gap, none) => {
    const readings = shown([0, '1'], [100, '1'], [200, '1'], [200 + gap, '1'])
    expect(Number.isNaN(joinByTime([200 + gap / 2], readings, lambda)[0]!)).toBe(none)
  })
  // Readings every second: three steps are three seconds.
  it.each([
    [3000, false],
    [3001, true],
  ])('of a slow device has none where readings are %i ms apart: %s', (gap, none) => {
    const readings = shown([0, '1'], [1000, '1'], [2000, '1'], [2000 + gap, '1'])
    expect(Number.isNaN(joinByTime([2000 + gap / 2], readings, lambda)[0]!)).toBe(none)
  })
  it('has its nearest reading before the first and behind the last, close by alone', () => {
    const readings = shown([1000, '0.9'], [1100, '0.8'])
    expect(joinByTime([849, 850, 1000, 1250, 1251], readings, lambda)).toEqual([NaN, 0.9, 0.9, 0.8, NaN])
  })
  it('passes over a reading without the line, and has none where there is none at all', () => {
    expect(joinByTime([50], shown([0, '1'], [40, null], [60, 'heating'], [100, '2']), lambda)).toEqual([1.5])
    expect(joinByTime([0, 10], shown([0, 'heating']), lambda)).toEqual([NaN, NaN])
    expect(joinByTime([0], [], lambda)).toEqual([NaN])
  })
  it('is no channel of the unit’s own', () => {
    expect(() => joinByTime([0], [], channel('Speed', '0x2001 u8'))).toThrow(TypeError)
  })
})

describe('a second device that is asked meanwhile', () => {
  function device(form: { fails?: (asked: number) => Problem | null; answerMs?: number } = {}) {
    const clock = virtualClock(turn)
    let asked = 0
    const from = clock.now()
    const ask = async () => {
      asked++
      await clock.sleep(form.answerMs ?? 50)
      const failed = form.fails?.(asked)
      if (failed) throw failed
      return new Map([['lambda', String((clock.now() - from) / 1000)]])
    }
    return { clock, ask, asked: () => asked }
  }
  it('stands beside the unit’s own channels, in the order of the list', async () => {
    const { clock, ask } = device()
    const watch = new BesideWatch(ask, clock)
    const channels = [lambda, channel('Speed', '0x2001 u8')]
    const own = askedRows(
      {
        ask: async () => {
          await clock.sleep(20)
          return Uint8Array.of(7)
        },
      },
      clock,
      channels.slice(1),
    )
    const seen: number[][] = []
    const plan = {
      channels,
      seconds: 2,
      stopped: () => false,
      onRow: (_rows: number, _second: number, figures: readonly number[]) => void seen.push([...figures]),
    }
    const log = await recordChannels(own, clock, plan, watch)
    await watch.end()
    expect(log.channels.map(({ name }) => name)).toEqual(['Lambda', 'Speed'])
    expect(new Set(log.channels[1]!.values)).toEqual(new Set([7]))
    // Its figure is its time: the joined one is the row's own time, but for the first row, before any reading.
    log.channels[0]!.values.forEach((figure, row) => {
      if (log.seconds[row]! < 0.06 || log.seconds[row]! > 1.9) return
      expect(figure).toBeCloseTo(log.seconds[row]!, 6)
    })
    // What is shown while it is recorded is what it said last.
    expect(seen[0]![0]).toBeNaN()
    expect(seen.at(-1)![0]).toBeGreaterThan(1.8)
    expect(seen.at(-1)![1]).toBe(7)
  })
  it('is asked again where it does not answer, and the log says what is missing', async () => {
    const { clock, ask, asked } = device({ fails: (count) => (count > 3 ? silence() : null) })
    const watch = new BesideWatch(ask, clock)
    const own = askedRows({ ask: () => clock.sleep(20).then(() => Uint8Array.of(7)) }, clock, [
      channel('A', '0x1 u8'),
    ])
    const channels = [channel('A', '0x1 u8'), lambda]
    const log = await recordChannels(own, clock, { channels, seconds: 3, stopped: () => false }, watch)
    await watch.end()
    const missing = [...log.channels[1]!.values].filter(Number.isNaN).length
    expect(missing).toBeGreaterThan(100)
    expect(log.preamble).toEqual([`${missing} readings of the second device are missing at their time`])
    // 250 ms of rest and 50 ms of waiting each time.
    expect(asked()).toBeGreaterThan(8)
    expect(asked()).toBeLessThan(16)
  })
  it('whose port is gone is asked no more', async () => {
    const { clock, ask, asked } = device({ fails: () => silence('port-lost') })
    const watch = new BesideWatch(ask, clock)
    await clock.sleep(2000)
    await watch.end()
    expect(asked()).toBe(1)
    expect(watch.latest()).toBeNull()
  })
  it('is asked no more than a hundred times a second', async () => {
    const { clock, ask, asked } = device({ answerMs: 1 })
    const watch = new BesideWatch(ask, clock)
    await clock.sleep(1000)
    await watch.end()
    expect(asked()).toBeLessThanOrEqual(102)
    expect(asked()).toBeGreaterThan(90)
  })
})

describe('lines that the unit shows', () => {
  it('are looked at once a row, whatever many are taken', async () => {
    const clock = virtualClock(turn)
    let looks = 0
    const show = async () => {
      looks++
      await clock.sleep(30)
      return new Map([
        ['supply', '12,4 V'],
        ['speed', '900'],
      ])
    }
    const channels = [
      channel('Supply', 'line supply'),
      channel('Speed', 'line speed'),
      channel('Oil', 'line oil'),
    ]
    const { figures } = await askedRows({ show }, clock, channels)()
    expect(figures).toEqual([12.4, 900, NaN])
    expect(looks).toBe(1)
  })
  it('stay empty where the link shows none', async () => {
    const clock = virtualClock(turn)
    expect(await askedRows({}, clock, [channel('Supply', 'line supply')])()).toMatchObject({ figures: [NaN] })
  })
  it('that the unit refuses are asked for once more, then left empty', async () => {
    const clock = virtualClock(turn)
    let looks = 0
    const show = async () => {
      looks++
      throw silence('unit-refused')
    }
    const { figures, silence: none } = await askedRows({ show }, clock, [
      channel('A', 'line a'),
      channel('B', 'line b'),
    ])()
    expect(figures).toEqual([NaN, NaN])
    expect(none).toBeUndefined()
    expect(looks).toBe(2)
  })
})

describe('rows of what the unit sends by itself', () => {
  const channels = [channel('Slow', '0xF201 u8 slow'), channel('Fast', '0xF202 u8 fast')]
  const periods = { slow: 100, fast: 10 }
  /** Messages at their times, ms. */
  function stream(messages: [number, number, number][]) {
    const clock = virtualClock(turn)
    const from = clock.now()
    const waits: number[] = []
    const next = async (timeoutMs: number) => {
      waits.push(timeoutMs)
      const message = messages.shift()
      if (!message) {
        await clock.sleep(timeoutMs)
        throw silence('uds-silent')
      }
      const [at, identifier, value] = message
      await clock.sleep(from + at - clock.now())
      return { identifier, bytes: Uint8Array.of(value) }
    }
    return { row: sentRows({ next }, clock, channels, periods), waits }
  }
  it('come with each message of the quickest, the others as they came last', async () => {
    const { row } = stream([
      [5, 0xf201, 1],
      [10, 0xf202, 10],
      [20, 0xf202, 20],
      [25, 0xf201, 2],
      [30, 0xf202, 30],
    ])
    expect((await row()).figures).toEqual([1, 10])
    expect((await row()).figures).toEqual([1, 20])
    expect((await row()).figures).toEqual([2, 30])
  })
  it('hold a figure for one and a half of its periods, and no longer', async () => {
    const { row } = stream([
      [0, 0xf201, 1],
      [150, 0xf202, 10],
      [151, 0xf202, 11],
    ])
    expect((await row()).figures).toEqual([1, 10])
    expect((await row()).figures).toEqual([NaN, 11])
  })
  it('are empty, with the reason, where nothing comes for five of the longest periods', async () => {
    const { row, waits } = stream([])
    expect(await row()).toMatchObject({ figures: [NaN, NaN], silence: { facts: { kind: 'uds-silent' } } })
    expect(waits).toEqual([500])
  })
})
