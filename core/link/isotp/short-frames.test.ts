import { describe, expect, it } from 'vitest'
import { virtualClock, type Problem } from '../../kernel'
import type { CanFrame, CanPort } from '../can'
import { isoTp, type IsoTpForm } from '.'

/* Frames that carry less than the standard gives them. Source: ISO 15765-2, clause 9.6.4 (a consecutive frame but the last is full) and 9.7 (N_Cr); clause numbers from memory. */

const turn = () => new Promise<void>((done) => setImmediate(done))
const bytes = (text: string) => Uint8Array.from(text.split(' '), (pair) => Number.parseInt(pair, 16))

/** A bus on which these frames come from the other side, one after the other. */
function hears(frames: readonly (string | { id: number; text: string })[], form: Partial<IsoTpForm> = {}) {
  const clock = virtualClock(turn)
  const sent: string[] = []
  const left: CanFrame[] = frames.map((frame) =>
    typeof frame === 'string' ? { id: 0x7e8, data: bytes(frame) } : { id: frame.id, data: bytes(frame.text) },
  )
  const bus: CanPort = {
    name: 'bus',
    send: async ({ data }) =>
      void sent.push([...data].map((byte) => byte.toString(16).padStart(2, '0')).join(' ')),
    async receive(timeoutMs) {
      const next = left.shift()
      if (next) return next
      await clock.sleep(timeoutMs)
      return null
    },
  }
  return { clock, sent, tp: isoTp(bus, clock, { sendId: 0x7e0, receiveId: 0x7e8, ...form }) }
}
const outcome = (act: Promise<Uint8Array | null>) =>
  act.then(
    (message) => message && [...message],
    (error: unknown) => (error as Problem).facts,
  )
const first = '10 0e 01 02 03 04 05 06'

describe('a message in several frames', () => {
  it('is whole with the last frame as short as it likes', async () => {
    expect(await outcome(hears([first, '21 07 08 09 0a 0b 0c 0d', '22 0e']).tp.receive(100))).toEqual(
      Array.from({ length: 14 }, (_, at) => at + 1),
    )
    expect(
      await outcome(hears([first, '21 07 08 09 0a 0b 0c 0d', '22 0e 55 55 55 55 55 55']).tp.receive(100)),
    ).toEqual(Array.from({ length: 14 }, (_, at) => at + 1))
  })
  it.each([
    ['in the middle', [first, '21 07 08 09 0a 0b 0c', '22 0d 0e']],
    ['at the end', ['10 0f 01 02 03 04 05 06', '21 07 08 09 0a 0b 0c 0d', '22 0e']],
  ])('with a frame too short %s is not filled up with zeros', async (_, frames) => {
    expect(await outcome(hears(frames).tp.receive(100))).toMatchObject({ kind: 'isotp-frame-missing' })
  })
  it('with a frame left out, twice, or out of its turn is none', async () => {
    for (const frames of [
      [first, '22 0e'],
      [first, '21 07 08 09 0a 0b 0c 0d', '21 07 08 09 0a 0b 0c 0d'],
      [first, '20 07 08 09 0a 0b 0c 0d'],
    ])
      expect(await outcome(hears(frames).tp.receive(100))).toMatchObject({
        kind: 'isotp-frame-missing',
        says: 'a part of the message is missing',
      })
  })
  it('that breaks off is none, after a second', async () => {
    const { tp, clock } = hears([first])
    expect(await outcome(tp.receive(100))).toMatchObject({
      kind: 'isotp-frame-missing',
      says: 'the message broke off',
      place: { offset: 6 },
    })
    expect(clock.now()).toBe(1000)
  })
  it('in which a new one begins ends there, and the new one is read next', async () => {
    const { tp } = hears([first, '02 3e 00'])
    expect(await outcome(tp.receive(100))).toMatchObject({ kind: 'isotp-frame-missing' })
    expect(await outcome(tp.receive(100))).toEqual([0x3e, 0])
  })
  it('of another identifier, another width of it, or another address is nobody’s', async () => {
    expect(await outcome(hears([{ id: 0x7e9, text: '02 3e 00' }]).tp.receive(100))).toBeNull()
    expect(await outcome(hears(['02 3e 00'], { extended: true }).tp.receive(100))).toBeNull()
    const addresses = { sent: 0xf1, heard: 0x10, alsoHeard: 0xfe }
    expect(await outcome(hears(['11 02 3e 00'], { addresses }).tp.receive(100))).toBeNull()
    expect(await outcome(hears(['10 02 3e 00'], { addresses }).tp.receive(100))).toEqual([0x3e, 0])
    const both = { addresses, alsoReceiveId: 0x7df }
    expect(await outcome(hears([{ id: 0x7df, text: 'fe 02 3e 00' }], both).tp.receive(100))).toEqual([
      0x3e, 0,
    ])
    expect(await outcome(hears([{ id: 0x7df, text: '10 02 3e 00' }], both).tp.receive(100))).toBeNull()
  })
  it('longer than can be taken is refused to the other side, and passed over', async () => {
    const { tp, sent } = hears([first, '02 3e 00'], { maxBytes: 13 })
    expect(await outcome(tp.receive(100))).toEqual([0x3e, 0])
    expect(sent).toEqual(['32 00 00 cc cc cc cc cc'])
    expect(
      await outcome(hears([first, '21 07 08 09 0a 0b 0c 0d', '22 0e'], { maxBytes: 14 }).tp.receive(100)),
    ).toHaveLength(14)
  })
  it('has leave after every block that was asked for, and none after the last frame', async () => {
    const frames = ['10 15 01 02 03 04 05 06', '21 07 08 09 0a 0b 0c 0d', '22 0e 0f 10 11 12 13 14', '23 15']
    const { tp, sent } = hears(frames, { blockSize: 2, separationMs: 20 })
    expect(await outcome(tp.receive(100))).toHaveLength(21)
    expect(sent).toEqual(['30 02 14 cc cc cc cc cc', '30 02 14 cc cc cc cc cc'])
    const even = hears(
      frames.slice(0, 3).map((text, at) => (at === 0 ? '10 14 01 02 03 04 05 06' : text)),
      { blockSize: 2 },
    )
    expect(await outcome(even.tp.receive(100))).toHaveLength(20)
    expect(even.sent).toHaveLength(1)
  })
})

describe('a busy bus', () => {
  const foreign = { id: 0x123, data: bytes('01 02') }
  const ours = { id: 0x7e8, data: bytes('02 50 03') }
  /** @param comes the next frame, or null; it may let time pass. */
  function busOf(
    comes: (clock: ReturnType<typeof virtualClock>, ms: number, count: number) => Promise<CanFrame | null>,
  ) {
    const clock = virtualClock(turn)
    let count = 0
    const bus: CanPort = { name: 'bus', send: async () => {}, receive: (ms) => comes(clock, ms, count++) }
    return { clock, tp: isoTp(bus, clock, { sendId: 0x7e0, receiveId: 0x7e8 }) }
  }
  it('that is not for us does not hold us past our time', async () => {
    // A frame of others each millisecond, for ever.
    const { clock, tp } = busOf(async (time, ms) => {
      await time.sleep(Math.min(1, ms))
      return ms < 1 ? null : foreign
    })
    expect(await tp.receive(100)).toBeNull()
    expect(clock.now()).toBe(100)
  })
  it('nor one that gives frames of others without end and without a pause', async () => {
    const { tp } = busOf(async (time) => {
      await time.sleep(0.1)
      return foreign
    })
    expect(await tp.receive(100)).toBeNull()
  })
  // A computer that stood still finds the frames of others in front of the answer, which came in time.
  it('whose frames lie in front of the answer when the computer stood still does not hide it', async () => {
    const { tp } = busOf(async (time, ms, count) => {
      if (count === 0) await time.sleep(60_000)
      if (count < 200) return foreign
      if (count === 200) return ours
      await time.sleep(ms)
      return null
    })
    expect([...(await tp.receive(100))!]).toEqual([0x50, 0x03])
  })
})
