import { canBus } from '@bench-wake/standins'
import { serveUds, type UdsUnit } from '@bench-wake/standins'
import { describe, expect, it } from 'vitest'
import { hexOf, isProblem, virtualClock } from '../../kernel'
import { isoTp } from '../isotp'
import { periodicData, udsClient } from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))

/** A controller on a bus that counts up at two of its identifiers, and all that is on the bus. */
function bench(form: { bare?: boolean; periods?: object } = {}) {
  const clock = virtualClock(turn)
  const bus = canBus(clock, () => 500_000)
  const tester = bus.join('tester')
  const node = bus.join('controller')
  let count = 0
  const unit = {
    read: (identifier: number) =>
      identifier === 0xf201
        ? Uint8Array.of(count++)
        : identifier === 0xf202
          ? Uint8Array.of(0x12, 0x34)
          : null,
    periods: form.periods ?? { slow: 1000, fast: 20 },
    key: [],
    routines: { erase: 0xff00, check: 0x0202 },
    ...(form.bare ? { sendFrame: (data: Uint8Array) => node.send({ id: 0x6f0, data }) } : {}),
  } as unknown as UdsUnit
  void serveUds(isoTp(node, clock, { sendId: 0x7e8, receiveId: 0x7e0 }), clock, unit).catch(() => {})
  const heard: string[] = []
  const watcher = bus.join('watcher')
  const watch = async () => {
    for (;;) {
      const frame = await watcher.receive(Infinity)
      if (frame) heard.push(`${frame.id.toString(16)} ${hexOf(frame.data)}`)
    }
  }
  void watch()
  const transport = isoTp(tester, clock, { sendId: 0x7e0, receiveId: 0x7e8 })
  const frames = async (timeoutMs: number) => {
    const until = clock.now() + timeoutMs
    for (;;) {
      const frame = await tester.receive(Math.max(0, until - clock.now()))
      if (!frame) return null
      if (frame.id === 0x6f0) return frame.data
      if (clock.now() >= until) return null
    }
  }
  const begin = (asked: { identifier: number; rate: 'slow' | 'medium' | 'fast' }[]) =>
    periodicData(udsClient(transport, clock), transport, clock, asked, form.bare ? frames : undefined)
  return { clock, heard, begin, node }
}

describe('data that a controller sends by itself (ISO 14229-1, service 2A)', () => {
  it('is asked for by the low byte, in the extended session, and stopped by mode 4', async () => {
    const { clock, heard, begin } = bench()
    const stream = await begin([{ identifier: 0xf201, rate: 'fast' }])
    await stream.end()
    const ours = heard.filter((frame) => frame.startsWith('7e0')).map((frame) => frame.slice(4))
    // ISO 15765-2: a length, then the message; 10 03, 2A 03 01 (fast), 2A 04 (stop).
    expect(ours).toEqual(['021003cccccccccc', '032a0301cccccccc', '022a04cccccccccc'])
    const before = heard.length
    await clock.sleep(500)
    expect(heard.length).toBe(before)
  })
  it.each([false, true])('comes at its rate, each by its identifier; as bare frames: %s', async (bare) => {
    const { clock, begin } = bench({ bare })
    const stream = await begin([
      { identifier: 0xf201, rate: 'fast' },
      { identifier: 0xf202, rate: 'slow' },
    ])
    const from = clock.now()
    const got: number[] = []
    let slow = 0
    while (clock.now() - from < 3100) {
      const { identifier, bytes } = await stream.next(500)
      if (identifier === 0xf201) got.push(bytes[0]!)
      else {
        slow++
        // As messages the frame's padding is not of the datum; as bare frames it is as long as what it carries.
        expect([...bytes]).toEqual([0x12, 0x34])
      }
    }
    await stream.end()
    expect(slow).toBe(3)
    // Fifty a second, none lost.
    expect(got.length).toBeGreaterThanOrEqual(153)
    expect(got.length).toBeLessThanOrEqual(156)
    expect(got).toEqual(got.map((_, index) => (got[0]! + index) & 255))
  })
  // ISO 14229-2: a session that hears nothing for five seconds (S3) ends, and what is sent with it.
  it('goes on for longer than a session without a word would, since it is kept open', async () => {
    const { clock, heard, begin } = bench()
    const stream = await begin([{ identifier: 0xf201, rate: 'fast' }])
    const from = clock.now()
    while (clock.now() - from < 12_000) await stream.next(500)
    await stream.end()
    expect(heard.filter((frame) => frame.startsWith('7e0 023e80')).length).toBeGreaterThanOrEqual(5)
  })
  it('that stops coming is silence', async () => {
    const { clock, begin, node } = bench()
    const stream = await begin([{ identifier: 0xf201, rate: 'fast' }])
    await stream.next(100)
    node.leave()
    const from = clock.now()
    const error = await (async () => {
      for (;;) await stream.next(100)
    })().catch((reason: unknown) => reason)
    expect(isProblem(error, 'uds-silent')).toBe(true)
    expect(clock.now() - from).toBeLessThan(200)
  })
  it('is refused where the controller has no such rate, or no such identifier', async () => {
    const { begin } = bench({ periods: { fast: 20 } })
    await expect(begin([{ identifier: 0xf201, rate: 'slow' }])).rejects.toMatchObject({
      facts: { kind: 'uds-refused' },
    })
    await expect(begin([{ identifier: 0xf2aa, rate: 'fast' }])).rejects.toMatchObject({
      facts: { kind: 'uds-refused' },
    })
  })
  it('is asked for in parts, so that a request stays short', async () => {
    const { heard, begin } = bench()
    await begin(Array.from({ length: 7 }, () => ({ identifier: 0xf202, rate: 'slow' as const })))
    const asked = heard.filter((frame) => /^7e0 (10)?0[0-9a-f]2a01/.test(frame))
    expect(asked.length).toBe(2)
  })
})
