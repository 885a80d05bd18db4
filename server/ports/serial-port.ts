import type { Clock } from '@bench-wake/core/kernel'
import { isProblem, Problem } from '@bench-wake/core/kernel'
import {
  Inbox,
  portClosed,
  portLost,
  type ControlLines,
  type Port,
  type SerialSettings,
} from '@bench-wake/core/link'
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

  const setOn = (to: SerialPort, lines: ControlLines) =>
    new Promise<void>((resolve, reject) =>
      to.set(lines, (error) =>
        error
          ? reject(
              /inappropriate ioctl|not supported|ENOTTY/i.test(error.message)
                ? noLines(path)
                : portLost(path, error.message),
            )
          : resolve(),
      ),
    )

  return {
    name: path,
    get settings() {
      return settings
    },
    async open(wanted) {
      const before = settings
      settings = wanted
      if (device?.isOpen && lost === undefined) {
        // The system's driver changes the speed alone of a port that is open.
        if (sameButSpeed(before, wanted))
          return call((done) => opened().update({ baudRate: wanted.baudRate }, done))
        const old = device
        device = undefined
        old.removeAllListeners()
        await new Promise<void>((done) => old.close(() => done()))
      }
      lost = undefined
      inbox.clear()
      const { lines, flow, ...line } = wanted
      if ((line.parity === 'mark' || line.parity === 'space') && process.platform !== 'win32')
        throw noFixedBit(path, line.parity)
      const opening = new SerialPort({
        path,
        ...line,
        rtscts: flow === 'rts-cts',
        xon: flow === 'xon-xoff',
        xoff: flow === 'xon-xoff',
        // Left to fall at the close they would reset a board that listens to them; the driver's package does this on Windows.
        ...(lines ? { hupcl: false } : {}),
        autoOpen: false,
        lock: true,
      })
      await new Promise<void>((resolve, reject) =>
        opening.open((error) => (error ? reject(cannotOpen(path, error.message)) : resolve())),
      )
      device = opening
      if (lines) await setOn(opening, lines).catch(whereNone)
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
      await setOn(opened(), lines)
    },
  }
}

const noLines = (path: string) =>
  new Problem({
    kind: 'no-control-lines',
    thing: path,
    says: 'this port has no control lines',
    remedy: 'Use an adapter that carries DTR and RTS, or let a person do what they do.',
  })
const noFixedBit = (path: string, parity: string) =>
  new Problem({
    kind: 'port-open',
    thing: path,
    says: `the serial driver of this system takes no ${parity} parity`,
    remedy:
      parity === 'mark'
        ? 'With 7 data bits set two stop bits and no parity: on the wire that is the same. Else use a computer with Windows.'
        : 'Use a computer with Windows for this unit, or an adapter that sets the ninth bit itself.',
  })
/** Lines that a port does not have cannot stand wrongly when it is opened. */
function whereNone(error: unknown): void {
  if (!isProblem(error, 'no-control-lines')) throw error
}

const sameButSpeed = (one: SerialSettings, other: SerialSettings): boolean =>
  JSON.stringify({ ...one, baudRate: 0 }) === JSON.stringify({ ...other, baudRate: 0 })

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
