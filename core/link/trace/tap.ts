import { hexOf, isProblem, type Clock } from '../../kernel'
import type { Channel } from '../drive'
import { lineText, type Port } from '../port'
import type { ControlSetup, UsbPort } from '../usb'
import type { TraceEvent } from './trace'

/** Bytes that came this close together are one event, ms: readers take them one by one, the wire brought them as one. */
const togetherMs = 20
const maxBytes = 4096

/** The same channel, with everything that goes over it told to `tell`. The channel itself behaves as before. */
export function tapChannel(
  channel: Channel,
  clock: Pick<Clock, 'now'>,
  tell: (event: TraceEvent) => void,
): Channel {
  return channel.kind === 'serial'
    ? { kind: 'serial', port: tapPort(channel.port, clock, tell) }
    : { kind: 'usb', port: tapUsb(channel.port, clock, tell) }
}

function tapPort(port: Port, clock: Pick<Clock, 'now'>, tell: (event: TraceEvent) => void): Port {
  let heard = ''
  let heardAt = 0
  const flush = () => {
    if (heard) tell({ at: heardAt, what: 'data', direction: 'in', bytes: heard })
    heard = ''
  }
  const take = (bytes: Uint8Array) => {
    const now = clock.now()
    if (heard && (now - heardAt > togetherMs || heard.length / 2 + bytes.length > maxBytes)) flush()
    if (!heard) heardAt = now
    heard += hexOf(bytes)
  }
  return {
    name: port.name,
    get settings() {
      return port.settings
    },
    async open(settings) {
      await port.open(settings)
      tell({
        at: clock.now(),
        what: 'open',
        says: lineText(settings),
      })
    },
    async close() {
      flush()
      tell({ at: clock.now(), what: 'close', says: port.name })
      await port.close()
    },
    async read(max, timeoutMs) {
      try {
        const bytes = await port.read(max, timeoutMs)
        if (bytes) take(bytes)
        else flush()
        return bytes
      } catch (error) {
        flush()
        if (isProblem(error, 'port-lost')) tell({ at: clock.now(), what: 'lost', says: port.name })
        throw error
      }
    },
    async write(bytes) {
      flush()
      tell({ at: clock.now(), what: 'data', direction: 'out', bytes: hexOf(bytes) })
      await port.write(bytes)
    },
    async setLines(lines) {
      flush()
      tell({
        at: clock.now(),
        what: 'lines',
        says: Object.entries(lines)
          .map(([line, on]) => `${line} ${on ? 'on' : 'off'}`)
          .join(', '),
      })
      await port.setLines(lines)
    },
  }
}

function tapUsb(port: UsbPort, clock: Pick<Clock, 'now'>, tell: (event: TraceEvent) => void): UsbPort {
  const note = (what: 'open' | 'close' | 'reset' | 'back' | 'lost') =>
    tell({ at: clock.now(), what, says: port.name })
  const control = (setup: ControlSetup, direction: 'out' | 'in', bytes: Uint8Array, stalled = false) => {
    const { type, request, value } = setup
    tell({
      at: clock.now(),
      what: 'control',
      direction,
      type,
      request,
      value,
      bytes: hexOf(bytes),
      ...(stalled ? { stalled } : {}),
    })
  }
  /** A stall is part of the story, and so is a device that goes away. */
  const watched = async <T>(act: () => Promise<T>, onStall = () => {}): Promise<T> => {
    try {
      return await act()
    } catch (error) {
      if (isProblem(error, 'usb-stall')) onStall()
      if (isProblem(error, 'port-lost')) note('lost')
      throw error
    }
  }
  const nothing = new Uint8Array(0)
  return {
    name: port.name,
    async open() {
      await port.open()
      note('open')
    },
    async close() {
      note('close')
      await port.close()
    },
    claimInterface: (number, alternate) => port.claimInterface(number, alternate),
    async controlIn(setup, length) {
      const bytes = await watched(
        () => port.controlIn(setup, length),
        () => control(setup, 'in', nothing, true),
      )
      control(setup, 'in', bytes)
      return bytes
    },
    async controlOut(setup, data = nothing) {
      await watched(
        () => port.controlOut(setup, data),
        () => control(setup, 'out', data, true),
      )
      control(setup, 'out', data)
    },
    async transferIn(endpoint, length) {
      const bytes = await watched(() => port.transferIn(endpoint, length))
      tell({ at: clock.now(), what: 'bulk', direction: 'in', bytes: hexOf(bytes) })
      return bytes
    },
    async transferOut(endpoint, data) {
      tell({ at: clock.now(), what: 'bulk', direction: 'out', bytes: hexOf(data) })
      await watched(() => port.transferOut(endpoint, data))
    },
    async reset() {
      note('reset')
      await port.reset()
    },
    async reopen(timeoutMs) {
      await watched(() => port.reopen(timeoutMs))
      note('back')
    },
  }
}
