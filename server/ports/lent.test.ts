import { asciiBytes, realClock } from '@bench-wake/core/kernel'
import type { Port, UsbPort } from '@bench-wake/core/link'
import { describe, expect, it } from 'vitest'
import { hostTime } from '../host-time'
import { LentPorts, type LentCall } from './lent'

const clock = realClock(hostTime)

/** A lent port with a page that keeps what it is asked and answers by hand. */
function lend(kind: 'serial' | 'usb' = 'serial') {
  const ports = new LentPorts((ms, act) => hostTime.after(ms, act))
  const id = ports.lend({ name: 'adapter', kind })
  const calls: LentCall[] = []
  let answers = true
  ports.listen(id, (call) => {
    calls.push(call)
    if (answers) ports.answer(id, call.seq, { value: call.call === 'controlIn' ? '0a0b' : null })
  })
  const channel = ports.connect(id, clock)
  return { ports, id, calls, channel, silence: () => (answers = false) }
}
const settings = { baudRate: 9600, dataBits: 8, parity: 'none', stopBits: 1 } as const

describe('a lent serial port', () => {
  it('keeps the guarantees of Port', async () => {
    const { ports, id, calls, channel } = lend()
    const port = channel.port as Port
    await expect(port.read(1, 10)).rejects.toMatchObject({ facts: { kind: 'port-closed' } })
    await port.open(settings)
    expect(port.settings.baudRate).toBe(9600)
    expect(await port.read(10, 10)).toBeNull()
    ports.heard(id, 1, asciiBytes('ok\r\n'))
    expect(await port.read(2, 10)).toEqual(asciiBytes('ok'))
    expect(await port.read(9, 0)).toEqual(asciiBytes('\r\n'))
    await port.write(Uint8Array.of(1, 255))
    await port.setLines({ brk: true })
    expect(calls.map(({ call, args }) => [call, ...args])).toEqual([
      ['open', settings],
      ['write', '01ff'],
      ['lines', { brk: true }],
    ])
    const pending = expect(port.read(1, 5000)).rejects.toMatchObject({ facts: { kind: 'port-closed' } })
    await port.close()
    await pending
  })
  it('takes each piece of what it heard once, and is lost where one is missing', async () => {
    const { ports, id, channel } = lend()
    const port = channel.port as Port
    await port.open(settings)
    ports.heard(id, 1, asciiBytes('ab'))
    ports.heard(id, 1, asciiBytes('ab'))
    ports.heard(id, 2, asciiBytes('cd'))
    ports.heard(id, 1, asciiBytes('ab'))
    expect(await port.read(9, 10)).toEqual(asciiBytes('ab'))
    expect(await port.read(9, 10)).toEqual(asciiBytes('cd'))
    expect(await port.read(9, 10)).toBeNull()
    expect(() => ports.heard(id, 4, asciiBytes('gh'))).toThrow(/bytes that it heard are missing/)
    await expect(port.read(9, 10)).rejects.toMatchObject({ facts: { kind: 'port-lost' } })
    expect(ports.list()).toEqual([])
  })
  it('that no page listens to goes by itself; one that is listened to stays', async () => {
    let ring = () => {}
    const ports = new LentPorts((_, act) => {
      ring = act
      return () => {}
    })
    ports.lend({ name: 'forgotten', kind: 'serial' })
    ring()
    expect(ports.list()).toEqual([])
    const id = ports.lend({ name: 'used', kind: 'serial' })
    ports.listen(id, () => {})
    ring()
    expect(ports.list()).toHaveLength(1)
  })
  it('is one of sixteen at most', () => {
    const ports = new LentPorts(() => () => {})
    for (let at = 0; at < 16; at++) ports.lend({ name: `${at}`, kind: 'serial' })
    expect(() => ports.lend({ name: 'one more', kind: 'serial' })).toThrow(/lent already/)
  })
  it('is lost when the page goes away, also in the middle of a read and of a write', async () => {
    const { ports, id, channel, silence } = lend()
    const port = channel.port as Port
    await port.open(settings)
    silence()
    const both = [port.read(1, 60_000), port.write(Uint8Array.of(1))].map((each) =>
      expect(each).rejects.toMatchObject({ facts: { kind: 'port-lost' } }),
    )
    ports.end(id)
    await Promise.all(both)
    await expect(port.write(Uint8Array.of(1))).rejects.toMatchObject({ facts: { kind: 'port-lost' } })
    expect(ports.list()).toEqual([])
  })
  it('hands on what the page says is wrong', async () => {
    const { ports, id, channel, silence, calls } = lend()
    silence()
    const opening = expect((channel.port as Port).open(settings)).rejects.toMatchObject({
      facts: { kind: 'port-open', says: 'the port is taken' },
    })
    ports.answer(id, calls[0]!.seq, {
      problem: { kind: 'port-open', says: 'the port is taken', remedy: 'Close the other program.' },
    })
    await opening
  })
  it('tells the page first what was asked before it came', async () => {
    const ports = new LentPorts((ms, act) => hostTime.after(ms, act))
    const id = ports.lend({ name: 'adapter', kind: 'serial' })
    const opening = (ports.connect(id, clock).port as Port).open(settings)
    ports.listen(id, ({ seq }) => ports.answer(id, seq, { value: null }))
    await opening
  })
})

describe('a lent USB device', () => {
  it('carries control and bulk transfers', async () => {
    const { calls, channel } = lend('usb')
    const port = channel.port as UsbPort
    const setup = { type: 'class', recipient: 'interface', request: 3, value: 0, index: 0 } as const
    await port.open()
    expect([...(await port.controlIn(setup, 6))]).toEqual([10, 11])
    await port.transferOut(1, Uint8Array.of(5, 6))
    expect(calls.at(-1)).toMatchObject({ call: 'transferOut', args: [1, '0506'] })
  })
})
