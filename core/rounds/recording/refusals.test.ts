import { demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import type { DrivenLink } from '../../family'
import { Problem, virtualClock } from '../../kernel'
import type { Log } from '../log'
import type { AgreedChannel, LogKind } from '../quality'
import {
  askedRows,
  BesideWatch,
  channelSourceIn,
  channelSourceText,
  figureOfText,
  joinByTime,
  judgeSession,
  logCsv,
  recordChannels,
  recordingHertz,
  recordingOverBus,
  recordingOverLink,
  rowJitter,
  sentRows,
  sessionSeconds,
  type Row,
} from '.'

/* Each figure and each refusal of a recording at its edge, worked by hand. */
const turn = () => new Promise<void>((done) => setImmediate(done))
const channel = (name: string, text: string) => ({
  name,
  unit: '',
  role: 'other' as AgreedChannel['role'],
  read: channelSourceIn(text)!,
})
const silence = (kind = 'no-answer') => new Problem({ kind, says: 'nobody answers', remedy: 'Look.' })

describe('rows as they come', () => {
  /** Rows of these figures, one each 100 ms, from a clock that does not begin at nothing. */
  function recorded(rows: number[][], form: { seconds?: number; everyMs?: number; silent?: boolean } = {}) {
    const clock = virtualClock(turn, 5_000_000)
    const told: [number, number][] = []
    let asked = 0
    const next = async (): Promise<Row> => {
      const at = clock.now()
      const figures = rows[Math.min(asked++, rows.length - 1)]!
      await clock.sleep(form.everyMs ?? 100)
      const isSilent = form.silent !== false && figures.every(Number.isNaN)
      return { at, figures, ...(isSilent ? { silence: silence() } : {}) }
    }
    const log = recordChannels(next, clock, {
      channels: rows[0]!.map((_, index) => channel(`C${index}`, '0x1 u8')),
      seconds: form.seconds ?? 1,
      stopped: () => false,
      onRow: (count, second) => void told.push([count, second]),
    })
    return { log, told, asked: () => asked }
  }
  it('have their time from the first one, and end when it is over', async () => {
    const { log, told } = recorded([[1]])
    expect([...(await log).seconds]).toEqual([0, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9])
    expect(told[0]).toEqual([1, 0])
    expect(told[9]).toEqual([10, 0.9])
  })
  it('come no closer than ten milliseconds, and no later than they have to', async () => {
    const spaced = async (everyMs: number) => {
      const { seconds } = await recorded([[1]], { seconds: 0.2, everyMs }).log
      return Math.round((seconds[1]! - seconds[0]!) * 1000)
    }
    expect([await spaced(0), await spaced(4), await spaced(10), await spaced(13)]).toEqual([10, 10, 10, 13])
  })
  it('without any answer are borne four times, and not five', async () => {
    const none = [NaN, NaN]
    await expect(recorded([none, none, none, none, [1, NaN], none, none, [1, 1]]).log).resolves.toBeDefined()
    const { log, asked } = recorded([none])
    await expect(log).rejects.toThrow('nobody answers')
    expect(asked()).toBe(5)
  })
  it('that are empty for another reason than silence end nothing, and are counted', async () => {
    const { preamble } = await recorded([[NaN, NaN]], { silent: false }).log
    expect(preamble).toEqual(['20 readings stayed without an answer'])
    expect((await recorded([[1, NaN]]).log).preamble).toEqual(['10 readings stayed without an answer'])
    expect((await recorded([[1, 2]]).log).preamble).toEqual([])
  })
  it('of a second device that is not there have no figure of it', async () => {
    const clock = virtualClock(turn)
    const own = askedRows({ ask: async () => Uint8Array.of(7) }, clock, [channel('A', '0x1 u8')])
    const channels = [channel('L', 'beside l'), channel('A', '0x1 u8'), channel('M', 'beside m')]
    const seen: number[][] = []
    const plan = {
      channels,
      seconds: 0.05,
      stopped: () => false,
      onRow: (_: number, __: number, row: readonly number[]) => void seen.push([...row]),
    }
    const log = await recordChannels(own, clock, plan)
    expect(seen[0]).toEqual([NaN, 7, NaN])
    expect(log.preamble).toEqual(['10 readings of the second device are missing at their time'])
  })
})

describe('what is asked of a unit', () => {
  const clock = virtualClock(turn)
  it('ends the row where it met silence, and no sooner', async () => {
    const asked: number[] = []
    const list = ['0x1 u8', '0x2 u8', '0x3 u8'].map((text) => channel(text, text))
    const rows = (fails: (identifier: number) => Problem | null) =>
      askedRows(
        {
          ask: async (identifier) => {
            asked.push(identifier)
            const failed = fails(identifier)
            if (failed) throw failed
            return Uint8Array.of(identifier)
          },
        },
        clock,
        list,
      )()
    expect(await rows((id) => (id === 2 ? silence() : null))).toMatchObject({
      figures: [1, NaN, NaN],
      silence: { facts: { kind: 'no-answer' } },
    })
    expect(asked).toEqual([1, 2, 2])
    // Refused alone, its place stays empty and the rest is asked.
    const refused = await rows((id) => (id === 2 ? silence('uds-refused') : null))
    expect(refused.figures).toEqual([1, NaN, 3])
    expect('silence' in refused).toBe(false)
    // Whatever else it is, it is no row.
    await expect(rows((id) => (id === 2 ? silence('can-bus-off') : null))).rejects.toThrow('nobody answers')
  })
  it('an error of ours is not asked again', async () => {
    let asked = 0
    const broken = askedRows(
      {
        ask: async () => {
          asked++
          throw new TypeError('ours')
        },
      },
      clock,
      [channel('A', '0x1 u8')],
    )
    await expect(broken()).rejects.toThrow(TypeError)
    expect(asked).toBe(1)
  })
  it('without data identifiers is nothing', async () => {
    expect(await askedRows({}, clock, [channel('A', '0x1 u8')])()).toMatchObject({ figures: [NaN] })
  })
  it('a channel of a second device has no place in the unit’s own rows', async () => {
    const both = [channel('L', 'beside l'), channel('A', '0x1 u8')]
    const { figures } = await askedRows({ ask: async () => Uint8Array.of(9) }, clock, both)()
    expect(figures).toEqual([NaN, 9])
  })
})

describe('what a unit sends by itself', () => {
  it('makes its rows by the first of equally quick channels, and waits for the slowest', async () => {
    const clock = virtualClock(turn)
    const waits: number[] = []
    const messages = [0xf201, 0xf202, 0xf203, 0xf201]
    const stream = {
      next: async (ms: number) => {
        waits.push(ms)
        const identifier = messages.shift()
        if (identifier === undefined) throw new TypeError('ours')
        return { identifier, bytes: Uint8Array.of(identifier & 255) }
      },
    }
    const list = [
      channel('S', '0xF203 u8 slow'),
      channel('A', '0xF201 u8 fast'),
      channel('B', '0xF202 u8 fast'),
    ]
    const row = sentRows(stream, clock, list, { fast: 20, slow: 300 })
    expect((await row()).figures).toEqual([NaN, 1, NaN])
    expect((await row()).figures).toEqual([3, 1, 2])
    expect(waits).toEqual([1500, 1500, 1500, 1500])
    await expect(row()).rejects.toThrow(TypeError)
  })
})

describe('a second device', () => {
  it('whose usual step is the middle one, not the middle in time', () => {
    const shown = [0, 100, 500, 600].map((at) => ({ at, lines: new Map([['l', '1']]) }))
    // Steps of 100, 400 and 100: three usual ones are 300, and 400 are too far.
    expect(joinByTime([50, 300, 550], shown, channel('L', 'beside l'))).toEqual([1, NaN, 1])
  })
  it('at the very time of a row shows what it shows, whatever is around it', () => {
    const shown = [0, 5000, 10_000].map((at) => ({ at, lines: new Map([['l', String(at)]]) }))
    expect(joinByTime([5000], shown, channel('L', 'beside l'))).toEqual([5000])
  })
  it('that fails by an error of ours says so at its end', async () => {
    const clock = virtualClock(turn)
    const watch = new BesideWatch(async () => {
      throw new TypeError('ours')
    }, clock)
    await expect(watch.end()).rejects.toThrow(TypeError)
  })
})

describe('a log as it is sent', () => {
  // RFC 4180: a field with a comma, a quote or a line end stands in quotes, a quote in it twice; lines end with CR LF.
  it('is CSV to the last sign', () => {
    const log = {
      seconds: Float64Array.of(0, 0.05),
      channels: [
        { name: 'A, b', unit: 'V', values: Float64Array.of(1.5, NaN) },
        { name: 'C "x"', unit: '', values: Float64Array.of(1234567.891, 1 / 3) },
      ],
      bytes: 0,
      preamble: ['two words', 'a, comma'],
      findings: [],
    } satisfies Log
    expect(logCsv(log)).toBe(
      'two words\r\n"a, comma"\r\nTime [s],"A, b [V]","C ""x"""\r\n0.0000,1.5,1234567.89\r\n0.0500,,0.333333333\r\n',
    )
  })
  it('has its steps in their order: the middle one and the one of a hundred that is longest', () => {
    expect(rowJitter(Float64Array.of(0, 0.03, 0.04, 0.05))).toEqual({
      medianMs: expect.closeTo(10, 9),
      p99Ms: expect.closeTo(30, 9),
    })
    expect(rowJitter(Float64Array.of(4))).toEqual({ medianMs: 0, p99Ms: 0 })
    expect(rowJitter(new Float64Array(0))).toEqual({ medianMs: 0, p99Ms: 0 })
  })
})

describe('a source as it is written', () => {
  it.each([
    '0x2001 u16',
    '0x2001 byte 2 u16le',
    '0x2001 u16 × 0.1',
    '0x2001 u16 - 40',
    '0x2001 u16 + 3',
    '0xF201 u16 × 0.1 - 40 fast',
    'line supply × 0.001',
    'line "Supply voltage"',
    'beside lambda + 1',
  ])('%s', (text) => expect(channelSourceText(channelSourceIn(text)!)).toBe(text))
  it('an exponent belongs to its figure', () => {
    expect(['2e3', '2e-12', '2e+1', '7e'].map(figureOfText)).toEqual([2000, 2e-12, 20, 7])
  })
})

describe('how often, to the frame', () => {
  const bus = (form: object = {}) => recordingOverBus({ bitsPerSecond: 500_000, thinkMs: 0, ...form })
  // ISO 15765-2: a single frame carries seven bytes, with a byte of address six; the answer has three before its datum.
  it('an answer that fits one frame takes two with its question, one more byte takes four', () => {
    const one = bus().answerMs!(4)
    expect(bus().answerMs!(5)).toBeCloseTo(2 * one, 9)
    expect(bus({ addressed: true }).answerMs!(3)).toBeCloseTo(one, 9)
    expect(bus({ addressed: true }).answerMs!(4)).toBeCloseTo(2 * one, 9)
    // A message by itself has two bytes before its datum, and nobody asks for it.
    expect(bus().sentMs!(5)).toBeCloseTo(one / 2, 9)
    expect(bus().sentMs!(6)).toBeCloseTo(one, 9)
  })
  it('the adapter’s text comes on top: 22 characters a frame, two for each that is sent', () => {
    const line = { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 } as const
    const text = (characters: number) => (characters * 10 * 1000) / 115_200
    const more = (bytes: number) => bus({ adapter: line }).answerMs!(bytes) - bus().answerMs!(bytes)
    expect(more(4)).toBeCloseTo(text(2 * 22 + 2), 6)
    expect(more(5)).toBeCloseTo(text(4 * 22 + 4), 6)
    expect(bus({ adapter: line }).sentMs!(2) - bus().sentMs!(2)).toBeCloseTo(text(22), 6)
  })
  it('a controller’s own time counts for each question, a millisecond where nobody says it', () => {
    expect(recordingOverBus({ bitsPerSecond: 500_000 }).answerMs!(4) - bus().answerMs!(4)).toBeCloseTo(1, 9)
    expect(bus({ thinkMs: 5 }).answerMs!(4) - bus().answerMs!(4)).toBeCloseTo(5, 9)
  })
  it('a figure further back in its answer makes the answer longer', () => {
    const slow = { answerMs: (bytes: number) => 10 * bytes, sentMs: () => 0, showMs: 40 }
    const hertz = (...texts: string[]) =>
      recordingHertz(
        texts.map((text) => channelSourceIn(text)!),
        slow,
      )
    expect(hertz('0x1 u16')).toBe(50)
    expect(hertz('0x1 byte 3 u16')).toBe(20)
    expect(hertz('0x1 u16', 'line a', 'line b')).toBeCloseTo(1000 / 60, 9)
    expect(hertz('beside l')).toBe(0)
  })
  it('what a bus cannot carry comes later, and not before', () => {
    const sent = (ms: number) => ({ sentMs: (bytes: number) => (ms * bytes) / 4, periods: { fast: 20 } })
    const list = ['0xF201 byte 2 u16 fast', '0xF202 byte 2 u16 fast'].map((text) => channelSourceIn(text)!)
    expect(recordingHertz(list, sent(10))).toBe(50)
    expect(recordingHertz(list, sent(20))).toBe(25)
  })
  it('is what the profile says of its bus and its rates', () => {
    const uds = demoFamily('launch-motor').links.find(({ drive }) => drive?.speaks === 'uds') as DrivenLink
    const shaped = (change: object) =>
      recordingOverLink({ ...uds, drive: { ...uds.drive, ...change } } as DrivenLink)
    expect(shaped({ periodic: { slowMs: 900 } }).periods).toEqual({ slow: 900 })
    expect(shaped({ periodic: { mediumMs: 90, fastMs: 9 } }).periods).toEqual({ medium: 90, fast: 9 })
    expect(shaped({ periodic: undefined }).periods).toEqual({})
    expect(shaped({ addresses: { target: 1, source: 2 } }).answerMs!(4)).toBeGreaterThan(
      1.3 * shaped({}).answerMs!(4),
    )
    const bare = recordingOverLink({ ...uds, line: undefined } as never)
    expect(bare.answerMs!(4)).toBeLessThan(recordingOverLink(uds).answerMs!(4))
  })
  it('on the single wire is sixteen bytes and both turnings for two of a datum', () => {
    const kwp = demoFamily('launch-motor').links.find(({ drive }) => drive?.speaks === 'kwp') as DrivenLink
    const { answerMs } = recordingOverLink(kwp)
    expect(answerMs!(2)).toBeCloseTo((16 * 10 * 1000) / 10_400 + 4, 6)
    expect(answerMs!(10) - answerMs!(2)).toBeCloseTo((8 * 10 * 1000) / 10_400, 6)
  })
})

describe('the session in figures', () => {
  const kinds: LogKind[] = [
    { id: 'a', name: 'A', asks: '', minSeconds: 60, minHertz: 5, conditions: [] },
    { id: 'b', name: 'B', asks: '', minSeconds: 120, minHertz: 5, conditions: [] },
  ]
  // Each kind twice, two minutes between the tries (common practice): 2 × 180 + 2 × 240 s.
  it('is twice each log and two minutes between', () => {
    expect(sessionSeconds(kinds)).toBe(840)
    expect(sessionSeconds([])).toBe(0)
  })
  it('stands in its finding, with the minutes of the battery where there are any', () => {
    expect(judgeSession(kinds, 20).numbers).toEqual({ seconds: 840, minutesLeft: 20 })
    expect(judgeSession(kinds, null).numbers).toEqual({ seconds: 840 })
    expect(judgeSession(kinds, undefined).numbers).toEqual({ seconds: 840 })
    expect(judgeSession(kinds, 13.9).numbers).toEqual({ seconds: 840, minutesLeft: 13.9 })
  })
})
