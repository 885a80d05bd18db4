import { describe, expect, it } from 'vitest'
import { asciiBytes, hexOf, Problem } from '../../kernel'
import { portLost, type Port } from '../port'
import { usbStall, type ControlSetup, type UsbPort } from '../usb'
import { tapChannel, type TraceEvent } from '.'

/* What a person later reads of a port: every byte once, in its order, and what became of the device. */

const settings = { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 } as const

describe('a tapped serial port', () => {
  function tapped(reads: (Uint8Array | null | Error)[] = []) {
    const told: TraceEvent[] = []
    const did: unknown[][] = []
    const clock = { at: 1000, now: () => clock.at }
    const port = {
      name: 'jack',
      settings,
      open: async (form: unknown) => void did.push(['open', form]),
      close: async () => void did.push(['close']),
      write: async (bytes: Uint8Array) => void did.push(['write', hexOf(bytes)]),
      setLines: async (lines: unknown) => void did.push(['lines', lines]),
      read: async (max: number, timeoutMs: number) => {
        did.push(['read', max, timeoutMs])
        const next = reads.shift() ?? null
        if (next instanceof Error) throw next
        return next
      },
    } as Port
    const channel = tapChannel({ kind: 'serial', port }, clock, (event) => told.push(event))
    if (channel.kind !== 'serial') throw new TypeError('a serial line stays one')
    return { port: channel.port, told, did, clock }
  }
  const heard = (at: number, bytes: string) => ({ at, what: 'data', direction: 'in', bytes })

  it('behaves as the port itself', async () => {
    const { port, did } = tapped([asciiBytes('ok')])
    await port.open(settings)
    await port.write(asciiBytes('id\r'))
    expect(await port.read(10, 100)).toEqual(asciiBytes('ok'))
    expect(await port.read(5, 50)).toBeNull()
    await port.setLines({ dtr: true })
    await port.close()
    expect([port.name, port.settings]).toEqual(['jack', settings])
    expect(did).toEqual([
      ['open', settings],
      ['write', '69640d'],
      ['read', 10, 100],
      ['read', 5, 50],
      ['lines', { dtr: true }],
      ['close'],
    ])
  })
  it('tells what goes over it with its time, bytes that came together as one', async () => {
    const { port, told, clock } = tapped([Uint8Array.of(1), Uint8Array.of(2), Uint8Array.of(3), null])
    await port.open(settings)
    await port.read(1, 100)
    clock.at = 1020
    await port.read(1, 100)
    clock.at = 1021
    await port.read(1, 100)
    expect(told.slice(1)).toEqual([heard(1000, '0102')])
    await port.read(1, 100)
    await port.write(Uint8Array.of(9))
    await port.setLines({ dtr: false, brk: true })
    clock.at = 1030
    await port.close()
    expect(told).toEqual([
      { at: 1000, what: 'open', says: '115200 baud, 8N1' },
      heard(1000, '0102'),
      heard(1021, '03'),
      { at: 1021, what: 'data', direction: 'out', bytes: '09' },
      { at: 1021, what: 'lines', says: 'dtr off, brk on' },
      { at: 1030, what: 'close', says: 'jack' },
    ])
  })
  it('tells what came before something is sent, set or closed before it', async () => {
    for (const act of ['write', 'setLines', 'close'] as const) {
      const { port, told } = tapped([Uint8Array.of(7)])
      await port.read(1, 100)
      if (act === 'write') await port.write(Uint8Array.of(1))
      else if (act === 'setLines') await port.setLines({ rts: true })
      else await port.close()
      expect(told[0]).toEqual(heard(1000, '07'))
      expect(told).toHaveLength(2)
    }
  })
  it('tells no more than 4 096 bytes as one', async () => {
    const { port, told } = tapped([new Uint8Array(4000), new Uint8Array(96), new Uint8Array(1), null])
    for (let at = 0; at < 4; at++) await port.read(4096, 100)
    expect(told.map((event) => 'bytes' in event && event.bytes.length / 2)).toEqual([4096, 1])
  })
  it('tells what came before it went away, and that it went', async () => {
    const { port, told } = tapped([Uint8Array.of(7), portLost('jack')])
    await port.read(1, 100)
    await expect(port.read(1, 100)).rejects.toMatchObject({ facts: { kind: 'port-lost' } })
    expect(told).toEqual([heard(1000, '07'), { at: 1000, what: 'lost', says: 'jack' }])
    const other = tapped([new Problem({ kind: 'port-closed', says: 'closed', remedy: 'Open it.' })])
    await expect(other.port.read(1, 100)).rejects.toThrow()
    expect(other.told).toEqual([])
  })
})

describe('a tapped device', () => {
  const setup: ControlSetup = { type: 'class', recipient: 'interface', request: 3, value: 7, index: 2 }
  function tapped(over: Partial<UsbPort> = {}) {
    const told: TraceEvent[] = []
    const did: unknown[][] = []
    const does =
      (name: string, answer?: unknown) =>
      async (...args: unknown[]) => {
        did.push([name, ...args])
        return answer
      }
    const plain = {
      name: 'jack',
      open: does('open'),
      close: does('close'),
      claimInterface: does('claimInterface'),
      controlIn: does('controlIn', Uint8Array.of(1, 2)),
      controlOut: does('controlOut'),
      transferIn: does('transferIn', Uint8Array.of(3)),
      transferOut: does('transferOut'),
      reset: does('reset'),
      reopen: does('reopen'),
      ...over,
    } as unknown as UsbPort
    const channel = tapChannel({ kind: 'usb', port: plain }, { now: () => 5 }, (event) => told.push(event))
    if (channel.kind !== 'usb') throw new TypeError('a device stays one')
    return { port: channel.port, told, did }
  }
  const control = { at: 5, what: 'control', type: 'class', request: 3, value: 7 }

  it('behaves as the device itself, and tells each thing once it was', async () => {
    const { port, told, did } = tapped()
    await port.open()
    await port.claimInterface(2, 1)
    expect([...(await port.controlIn(setup, 6))]).toEqual([1, 2])
    await port.controlOut(setup, Uint8Array.of(9))
    await port.controlOut(setup)
    expect([...(await port.transferIn(1, 64))]).toEqual([3])
    await port.transferOut(2, Uint8Array.of(4))
    await port.reset()
    await port.reopen(900)
    await port.close()
    expect(port.name).toBe('jack')
    expect(did).toEqual([
      ['open'],
      ['claimInterface', 2, 1],
      ['controlIn', setup, 6],
      ['controlOut', setup, Uint8Array.of(9)],
      ['controlOut', setup, new Uint8Array(0)],
      ['transferIn', 1, 64],
      ['transferOut', 2, Uint8Array.of(4)],
      ['reset'],
      ['reopen', 900],
      ['close'],
    ])
    expect(told).toEqual([
      { at: 5, what: 'open', says: 'jack' },
      { ...control, direction: 'in', bytes: '0102' },
      { ...control, direction: 'out', bytes: '09' },
      { ...control, direction: 'out', bytes: '' },
      { at: 5, what: 'bulk', direction: 'in', bytes: '03' },
      { at: 5, what: 'bulk', direction: 'out', bytes: '04' },
      { at: 5, what: 'reset', says: 'jack' },
      { at: 5, what: 'back', says: 'jack' },
      { at: 5, what: 'close', says: 'jack' },
    ])
  })
  it('tells a request that it refuses, and throws as before', async () => {
    const stall = async () => {
      throw usbStall('jack', 'request 3')
    }
    const { port, told } = tapped({ controlIn: stall, controlOut: stall, transferIn: stall })
    await expect(port.controlIn(setup, 6)).rejects.toMatchObject({ facts: { kind: 'usb-stall' } })
    await expect(port.controlOut(setup, Uint8Array.of(9))).rejects.toMatchObject({
      facts: { kind: 'usb-stall' },
    })
    await expect(port.transferIn(1, 64)).rejects.toMatchObject({ facts: { kind: 'usb-stall' } })
    expect(told).toEqual([
      { ...control, direction: 'in', bytes: '', stalled: true },
      { ...control, direction: 'out', bytes: '09', stalled: true },
    ])
  })
  it('tells that it went away, whatever was asked of it', async () => {
    const lost = async () => {
      throw portLost('jack')
    }
    const acts: [keyof UsbPort, (port: UsbPort) => Promise<unknown>][] = [
      ['controlIn', (port) => port.controlIn(setup, 6)],
      ['controlOut', (port) => port.controlOut(setup)],
      ['transferIn', (port) => port.transferIn(1, 64)],
      ['transferOut', (port) => port.transferOut(1, Uint8Array.of(1))],
      ['reopen', (port) => port.reopen(100)],
    ]
    for (const [name, act] of acts) {
      const { port, told } = tapped({ [name]: lost })
      await expect(act(port), name).rejects.toMatchObject({ facts: { kind: 'port-lost' } })
      expect(told.at(-1), name).toEqual({ at: 5, what: 'lost', says: 'jack' })
    }
  })
})
