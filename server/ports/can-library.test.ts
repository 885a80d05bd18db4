import { until } from '@bench-wake/testing/until'
import { realClock } from '@bench-wake/core/kernel'
import { isoTp, udsClient, udsTimingOf, type CanFrame, type CanPort, type Port } from '@bench-wake/core/link'
import { serveSlcan } from '@bench-wake/standins'
import fc from 'fast-check'
import { spawn } from 'node:child_process'
import { existsSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { afterEach, describe, expect, it } from 'vitest'
import { hostTime } from '../host-time'
import { endChildren, scratchFolder, tended } from '../server.test-support'
import { serialPort } from './serial-port'

/*
 * The bus as another library takes it: python3-can's driver for slcan (e2e/peers/can_library.md) at the far end of a real line,
 * our stand-in of an adapter at the near one.
 */
endChildren()
const folder = scratchFolder()
const clock = realClock(hostTime)
let port: Port | undefined
let count = 0
afterEach(() => port?.close().catch(() => {}))

/** Two ends that hear each other's frames, as two nodes of one bus do. */
function bus(): [CanPort, CanPort] {
  const end = () => ({ frames: [] as CanFrame[], wake: () => {} })
  const [a, b] = [end(), end()]
  const node = (own: typeof a, other: typeof a): CanPort => ({
    name: 'bus',
    async send(frame) {
      other.frames.push(frame)
      other.wake()
    },
    async receive(timeoutMs) {
      if (own.frames.length === 0)
        await new Promise<void>((done) => {
          const timer = timeoutMs === Infinity ? undefined : setTimeout(done, timeoutMs)
          own.wake = () => {
            clearTimeout(timer)
            done()
          }
        })
      return own.frames.shift() ?? null
    },
  })
  return [node(a, b), node(b, a)]
}

/** The library's node behind our adapter. */
async function node(
  ...words: string[]
): Promise<{ own: CanPort; lines: AsyncIterator<string>; rate: () => number }> {
  const [near, far] = [join(folder, `near-${count}`), join(folder, `far-${count++}`)]
  tended(spawn('socat', [`pty,rawer,link=${near}`, `pty,rawer,link=${far}`], { stdio: 'ignore' }))
  await until(() => existsSync(near) && existsSync(far), 'The pair of terminals')
  port = serialPort(near, clock)
  await port.open({ baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 })
  const [own, adapter] = bus()
  let rate = 0
  void serveSlcan(port, adapter, (bitsPerSecond) => (rate = bitsPerSecond)).catch(() => {})
  const peer = join(import.meta.dirname, '../../e2e/peers/can_library.py')
  // A package of the system's own Python, which another Python on the path may not see.
  const child = tended(
    spawn('/usr/bin/python3', [peer, far, ...words], { stdio: ['ignore', 'pipe', 'inherit'] }),
  )
  const lines = createInterface(child.stdout!)[Symbol.asyncIterator]()
  expect((await lines.next()).value).toBe('ready')
  return { own, lines, rate: () => rate }
}

describe('frames of the bus, by another library', () => {
  it('are the same both ways: 11 and 29 bits, none to eight bytes', async () => {
    const frames = fc
      .sample(
        fc.boolean().chain((extended) =>
          fc.record({
            extended: fc.constant(extended),
            id: fc.integer({ min: 0, max: extended ? 0x1fff_ffff : 0x7ff }),
            data: fc.uint8Array({ maxLength: 8 }).map((bytes) => Buffer.from(bytes).toString('hex')),
          }),
        ),
        { numRuns: 120, seed: 20261128 },
      )
      .concat([
        { extended: false, id: 0, data: '' },
        { extended: false, id: 0x7ff, data: 'ffffffffffffffff' },
        { extended: true, id: 0x1fff_ffff, data: '00' },
        // Small enough for eleven bits, and still one of 29.
        { extended: true, id: 1, data: '0d' },
      ])
    const file = join(folder, 'frames.json')
    writeFileSync(file, JSON.stringify(frames))
    const { own, lines, rate } = await node('frames', file)
    const plain = ({ id, extended = false, data }: CanFrame) => ({
      extended,
      id,
      data: Buffer.from(data).toString('hex'),
    })
    const heard = []
    for (const _ of frames) {
      const frame = await own.receive(20_000)
      heard.push(frame && plain(frame))
    }
    expect(heard).toEqual(frames)
    expect(rate()).toBe(500_000)
    const told = []
    for (const { id, extended, data } of frames) {
      await own.send({ id, data: Buffer.from(data, 'hex'), ...(extended ? { extended } : {}) })
      told.push(JSON.parse((await lines.next()).value as string) as object)
    }
    expect(told).toEqual(frames.map(({ id, extended, data }) => ({ id, extended, data })))
  })
  it('carry messages of several frames, and a refusal, from a controller of its own', async () => {
    const { own } = await node('unit')
    // It is on the bus once it has said so.
    expect(await own.receive(20_000)).toMatchObject({ id: 0x7af })
    const channel = isoTp(own, clock, { sendId: 0x7a0, receiveId: 0x7a8 })
    const client = udsClient(channel, clock, udsTimingOf({ answerMs: 5000 }))
    const text = await client.readData(0xf189)
    expect(Buffer.from(text).toString()).toBe('HX-2 firmware 4.07, harbour works')
    await expect(client.readData(0xf190)).rejects.toMatchObject({
      facts: { says: 'the controller refuses', found: 'it does not have this identifier or this range' },
    })
  })
})
