import { describe, expect, it } from 'vitest'
import { virtualClock } from '../kernel'
import { Inbox, portClosed } from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))

// Source: the guarantees written at Port: 1 to max bytes or null, never an empty array; close fails a pending read.
describe('the reading half of a port', () => {
  it('gives what is there, at most what was asked, and the rest next time', async () => {
    const inbox = new Inbox(virtualClock(turn))
    inbox.deliver(Uint8Array.of(1, 2, 3))
    inbox.deliver(new Uint8Array())
    expect([...(await inbox.read(2, 0))!]).toEqual([1, 2])
    expect([...(await inbox.read(9, 0))!]).toEqual([3])
    expect(await inbox.read(1, 0)).toBeNull()
    inbox.deliver(Uint8Array.of(4))
    inbox.clear()
    expect(await inbox.read(1, 0)).toBeNull()
  })
  it('wakes a waiting reader at once, and a silent one at its time-out', async () => {
    const clock = virtualClock(turn)
    const inbox = new Inbox(clock)
    const waiting = inbox.read(10, 5000)
    inbox.deliver(Uint8Array.of(7))
    expect([...(await waiting)!]).toEqual([7])
    expect(clock.now()).toBe(0)
    expect(await inbox.read(1, 250)).toBeNull()
    expect(clock.now()).toBe(250)
  })
  it('asks nothing of the clock where nothing is waited for, or without end', async () => {
    const timers: number[] = []
    const inbox = new Inbox({ after: (ms) => (timers.push(ms), () => timers.push(-ms)) })
    expect(await inbox.read(1, 0)).toBeNull()
    const forever = inbox.read(1, Infinity)
    inbox.deliver(Uint8Array.of(1))
    await forever
    expect(timers).toEqual([])
    // A timer whose read is over is called off.
    const soon = inbox.read(1, 40)
    inbox.deliver(Uint8Array.of(2))
    await soon
    const failing = inbox.read(1, 60).catch(() => 'failed')
    inbox.fail(portClosed('p'))
    expect(await failing).toBe('failed')
    expect(timers).toEqual([40, -40, 60, -60])
  })
  it('fails a pending read when it is told to, and reads on after that', async () => {
    const inbox = new Inbox(virtualClock(turn))
    const pending = expect(inbox.read(1, Infinity)).rejects.toMatchObject({ facts: { kind: 'port-closed' } })
    inbox.fail(portClosed('p'))
    await pending
    inbox.deliver(Uint8Array.of(9))
    expect([...(await inbox.read(1, 10))!]).toEqual([9])
  })
})
