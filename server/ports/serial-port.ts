import type { Clock } from '@bench-wake/core/kernel'
import { Problem } from '@bench-wake/core/kernel'
import { Inbox, portClosed, portLost, type Port, type SerialSettings } from '@bench-wake/core/link'
import { SerialPort } from 'serialport'

/** A serial port of this computer, through the system's driver. */
export function serialPort(path: string, clock: Clock): Port {
  const inbox = new Inbox(clock)
  let device: SerialPort | undefined
  let settings: SerialSettings = { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 }
  let lost: string | undefined

  const opened = (): SerialPort => {
    if (lost !== undefined) throw portLost(path, lost)
    if (!device?.isOpen) throw portClosed(path)
    return device
  }
  const call = (act: (done: (error?: Error | null) => void) => void) =>
    new Promise<void>((resolve, reject) =>
      act((error) => (error ? reject(portLost(path, error.message)) : resolve())),
    )

  return {
    name: path,
    get settings() {
      return settings
    },
    async open(wanted) {
      settings = wanted
      lost = undefined
      inbox.clear()
      const opening = new SerialPort({ path, ...wanted, autoOpen: false, lock: true })
      await new Promise<void>((resolve, reject) =>
        opening.open((error) => (error ? reject(cannotOpen(path, error.message)) : resolve())),
      )
      device = opening
      opening.on('data', (bytes: Buffer) => inbox.deliver(new Uint8Array(bytes)))
      opening.on('error', (error) => {
        lost = error.message
        inbox.fail(portLost(path, error.message))
      })
      opening.on('close', (error: Error | null) => {
        if (error) lost = error.message
        inbox.fail(error ? portLost(path, error.message) : portClosed(path))
      })
    },
    async close() {
      const closing = device
      device = undefined
      inbox.fail(portClosed(path))
      if (closing?.isOpen) await new Promise<void>((done) => closing.close(() => done()))
    },
    async read(max, timeoutMs) {
      opened()
      return inbox.read(max, timeoutMs)
    },
    async write(bytes) {
      const to = opened()
      await call((done) => to.write(Buffer.from(bytes), done))
      await call((done) => to.drain(done))
    },
    async setLines(lines) {
      await call((done) => opened().set(lines, done))
    },
  }
}

function cannotOpen(path: string, found: string): Problem {
  const held = /busy|lock|access denied|temporarily unavailable/i.test(found)
  const refused = /permission/i.test(found)
  return new Problem({
    kind: 'port-open',
    thing: path,
    says: held ? 'another program holds this port' : 'the port could not be opened',
    found,
    remedy: held
      ? 'Disconnect and close the other program, also in the background, then try again.'
      : refused
        ? 'Your user may not use serial ports: on Linux, join the group that owns the device and sign in again.'
        : 'Plug the adapter in, wait until the port is listed, then try again.',
  })
}
