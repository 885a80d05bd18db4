import { describe, expect, it } from 'vitest'
import { demoFamily } from '@bench-wake/demo'
import type { DrivenLink } from '../../family'
import { Problem, virtualClock } from '../../kernel'
import type { AgreedChannel } from '../quality'
import { readCsvLog } from '../log'
import { usualKinds } from '../case'
import {
  askedRows,
  channelSourceIn,
  judgeSession,
  logCsv,
  maxHertz,
  recordChannels,
  recordingHertz,
  recordingOverBus,
  recordingOverLink,
  rowJitter,
  sessionSeconds,
  unreadChannels,
  type ChannelSource,
} from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))
const source = (text: string): ChannelSource => channelSourceIn(text)!
const channel = (name: string, text: string): AgreedChannel & { read: ChannelSource } => ({
  name,
  unit: '',
  role: 'other',
  read: source(text),
})

describe('how often a list can be read', () => {
  // ISO 11898-1: a data frame of eight bytes has 108 bits and 3 of interframe space before stuffing; ISO 15765-2: request and
  // answer are one frame each up to seven bytes. At 500 kbit/s two frames are 0.444 ms at least; the unit's millisecond on top.
  it('is bounded by bus, text of the adapter and the unit’s own time', () => {
    const sources = Array.from({ length: 40 }, (_, index) =>
      source(`0x20${String(index).padStart(2, '0')} u16`),
    )
    const hertz = recordingHertz(sources, recordingOverBus({ bitsPerSecond: 500_000 }))
    expect(hertz).toBeLessThanOrEqual(1000 / (40 * (1 + 0.444)))
    // With every stuff bit there can be (a quarter of 98 bits, ISO 11898-1) it is no slower than this.
    expect(hertz).toBeGreaterThan(1000 / (40 * (1 + (2 * 135 * 1000) / 500_000)))
    const slow = recordingHertz(
      sources,
      recordingOverBus({
        bitsPerSecond: 500_000,
        adapter: { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 },
      }),
    )
    // 46 characters of ten bits at 115 200 baud are 3.99 ms a channel more.
    expect(1000 / slow / 40).toBeGreaterThan(1000 / hertz / 40 + 3.9)
    expect(recordingHertz(sources.slice(0, 1), recordingOverBus({ bitsPerSecond: 500_000 }))).toBe(maxHertz)
    expect(recordingHertz([], recordingOverBus({ bitsPerSecond: 500_000 }))).toBe(0)
  })
  it('is the quickest rate where the unit sends by itself, as long as the bus carries all of it', () => {
    const bus = { ...recordingOverBus({ bitsPerSecond: 500_000 }), periods: { slow: 1000, fast: 20 } }
    expect(recordingHertz([source('0xF201 u16 fast'), source('0xF202 u8 slow')], bus)).toBe(50)
    expect(recordingHertz([source('0xF202 u8 slow')], bus)).toBe(1)
    // 99 frames of 111 bits or more in 20 ms are 549 kbit/s: more than the bus has.
    const many = Array.from({ length: 99 }, (_, index) =>
      source(`0xF2${String(index).padStart(2, '0')} u16 fast`),
    )
    expect(recordingHertz(many, bus)).toBeLessThan((50 * 500_000) / (99 * 50 * 111))
    expect(recordingHertz([source('0xF201 u8 medium')], bus)).toBe(0)
  })
  it('is once a look where the unit shows its lines, however many of them are taken', () => {
    const shows = { showMs: 200 }
    expect(recordingHertz([source('line supply')], shows)).toBe(5)
    expect(
      recordingHertz([source('line supply'), source('line speed'), source('beside lambda')], shows),
    ).toBe(5)
    const both = { showMs: 150, answerMs: () => 50 }
    expect(recordingHertz([source('line supply'), source('0x2001 u8')], both)).toBe(5)
  })
  // ISO 14230-2: head and sum are four bytes; the question has three, the answer three and its datum: 16 bytes. At 10 400
  // baud they are 15.4 ms without any pause.
  it('is what the single wire carries', () => {
    const family = demoFamily('launch-motor')
    const wire = family.links.find(({ drive }) => drive?.speaks === 'kwp') as DrivenLink
    const hertz = recordingHertz([source('0x2001 u16')], recordingOverLink(wire))
    expect(hertz).toBeLessThan(1000 / ((16 * 10 * 1000) / 10_400))
    expect(hertz).toBeGreaterThan(1000 / ((16 * 10 * 1000) / 10_400 + 10))
  })
})

describe('the laptop’s battery and the session (PRACTICE K5)', () => {
  const kinds = usualKinds('Load')
  const minutes = sessionSeconds(kinds) / 60
  it('is longer than the logs alone, each is tried twice', () => {
    expect(minutes * 60).toBeGreaterThan(2 * kinds.reduce((sum, { minSeconds }) => sum + minSeconds, 0))
  })
  it.each([
    [minutes - 0.1, 'stop'],
    [minutes, 'go'],
    [null, 'go'],
    [undefined, 'hold'],
  ])('with %s minutes left: %s', (left, level) => {
    expect(judgeSession(kinds, left)).toMatchObject({ rule: 'session-battery', level })
  })
})

describe('recording', () => {
  const silence = () => new Problem({ kind: 'uds-silent', says: 'nobody answers', remedy: 'Look.' })
  const channels = [channel('Speed', '0x2001 u16'), channel('Temperature', '0x2002 u8 - 40')]
  function unit(form: { answerMs?: number; fails?: (asked: number) => boolean } = {}) {
    const clock = virtualClock(turn)
    let asked = 0
    const ask = async (identifier: number) => {
      asked++
      await clock.sleep(form.answerMs ?? 5)
      if (form.fails?.(asked)) throw silence()
      return identifier === 0x2001 ? Uint8Array.of(0x03, 0xe8) : Uint8Array.of(60)
    }
    return { clock, ask, asked: () => asked }
  }
  it('takes every row, at the rate that the answers allow, and loses none', async () => {
    const { clock, ask } = unit()
    const seen: number[] = []
    const log = await recordChannels(askedRows({ ask }, clock, channels), clock, {
      channels,
      seconds: 60,
      stopped: () => false,
      onRow: (rows) => seen.push(rows),
    })
    // Two answers of 5 ms: 100 rows a second, over 60 s.
    expect(log.seconds).toHaveLength(6000)
    expect(seen.at(-1)).toBe(6000)
    expect([...new Set(log.channels[0]!.values)]).toEqual([1000])
    expect([...new Set(log.channels[1]!.values)]).toEqual([20])
    expect(rowJitter(log.seconds)).toEqual({ medianMs: expect.closeTo(10, 6), p99Ms: expect.closeTo(10, 6) })
    expect(log.preamble).toEqual([])
  })
  it('asks no more than a hundred times a second', async () => {
    const { clock, ask, asked } = unit({ answerMs: 1 })
    await recordChannels(askedRows({ ask }, clock, channels), clock, {
      channels,
      seconds: 1,
      stopped: () => false,
    })
    expect(asked()).toBe(200)
  })
  it('ends when a person says so', async () => {
    const { clock, ask } = unit()
    let rows = 0
    const log = await recordChannels(askedRows({ ask }, clock, channels), clock, {
      channels,
      seconds: 60,
      stopped: () => rows >= 7,
      onRow: (r) => (rows = r),
    })
    expect(log.seconds).toHaveLength(7)
  })
  it('asks a silent question once more, then leaves its place empty and says so', async () => {
    const { clock, ask } = unit({ fails: (asked) => asked === 3 || asked === 7 || asked === 8 })
    const log = await recordChannels(askedRows({ ask }, clock, channels), clock, {
      channels,
      seconds: 0.06,
      stopped: () => false,
    })
    expect(log.channels[0]!.values[1]).toBe(1000)
    const empty = log.channels.flatMap(({ values }) => [...values]).filter(Number.isNaN)
    expect(empty.length).toBeGreaterThan(0)
    expect(log.preamble).toEqual([`${empty.length} readings stayed without an answer`])
  })
  it('gives up where nothing answers any more, with the reason of the link', async () => {
    const { clock, ask } = unit({ fails: (asked) => asked > 20 })
    await expect(
      recordChannels(askedRows({ ask }, clock, channels), clock, {
        channels,
        seconds: 60,
        stopped: () => false,
      }),
    ).rejects.toThrow('nobody answers')
  })
  it('an answer that is too short is no figure', async () => {
    const clock = virtualClock(turn)
    const ask = async () => {
      await clock.sleep(1)
      return Uint8Array.of(1)
    }
    const log = await recordChannels(askedRows({ ask }, clock, channels.slice(0, 1)), clock, {
      channels: channels.slice(0, 1),
      seconds: 0.05,
      stopped: () => false,
    })
    expect([...log.channels[0]!.values].every(Number.isNaN)).toBe(true)
  })
  it('is a CSV that is read again as it was', async () => {
    const { clock, ask } = unit()
    const log = await recordChannels(askedRows({ ask }, clock, channels), clock, {
      channels,
      seconds: 1,
      stopped: () => false,
    })
    const again = readCsvLog(new TextEncoder().encode(logCsv(log)))
    expect(again.channels.map(({ name }) => name)).toEqual(['Speed', 'Temperature'])
    expect([...again.channels[1]!.values]).toEqual([...log.channels[1]!.values])
    expect(again.seconds.at(-1)).toBeCloseTo(log.seconds.at(-1)!, 3)
  })
  it('names the channels that the link cannot give', () => {
    expect(unreadChannels([channels[0]!, { name: 'Lambda', unit: '', role: 'mixture' }])).toEqual(['Lambda'])
  })
})
