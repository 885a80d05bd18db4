import type { Clock } from '@bench-wake/core/kernel'
import { portClosed, portLost, wireMs, type Port, type SerialSettings } from '@bench-wake/core/link'

/** What a disturbance may do to bytes on their way: change, drop, double or split them. */
export type Disturb = (bytes: Uint8Array, to: 'unit' | 'host') => Uint8Array

export interface LineForm {
  name: string
  clock: Clock
  /** How the unit's own end is set; a host set otherwise hears and sends noise. */
  unit: SerialSettings
  disturb?: Disturb
}

/** A serial line between a host and a simulated unit: two ports, each direction paced by its own baud. */
export interface Line {
  host: Port
  unit: Port
  /** Makes the unit's pending read fail, as when its supply is cut. */
  interruptUnit(): void
  /** Pulls the plug: both ends fail from now on. */
  pull(): void
}

export function serialLine({ name, clock, unit, disturb = (bytes) => bytes }: LineForm): Line {
  const toUnit = new Lane(`${name} (unit)`, clock)
  const toHost = new Lane(name, clock)
  let hostSettings = unit
  let open = false
  let pulled = false

  const matched = () =>
    hostSettings.baudRate === unit.baudRate &&
    hostSettings.dataBits === unit.dataBits &&
    hostSettings.parity === unit.parity &&
    hostSettings.stopBits === unit.stopBits

  const send = async (lane: Lane, bytes: Uint8Array, settings: SerialSettings, to: 'unit' | 'host') => {
    if (pulled) throw portLost(name)
    await lane.occupy(wireMs(bytes.length, settings))
    if (pulled) throw portLost(name)
    if (to === 'host' && !open) return
    const heard = disturb(bytes, to)
    lane.deliver(matched() ? heard : heard.map((byte) => (byte * 0x9d + 0x55) & 0xff))
  }

  return {
    host: {
      name,
      get settings() {
        return hostSettings
      },
      async open(settings) {
        if (pulled) throw portLost(name)
        hostSettings = settings
        toHost.clear()
        open = true
      },
      async close() {
        open = false
        toHost.fail(portClosed(name))
      },
      read: (max, timeoutMs) => (pulled ? Promise.reject(portLost(name)) : toHost.read(max, timeoutMs)),
      write: (bytes) => send(toUnit, bytes, hostSettings, 'unit'),
      async setLines() {
        // Three wires: ground and the pair. This unit has no control lines.
      },
    },
    unit: {
      name: `${name} (unit)`,
      settings: unit,
      async open() {},
      async close() {
        toUnit.fail(portClosed(name))
      },
      read: (max, timeoutMs) => toUnit.read(max, timeoutMs),
      write: (bytes) => send(toHost, bytes, unit, 'host'),
      async setLines() {},
    },
    interruptUnit() {
      toUnit.clear()
      toUnit.fail(portClosed(name))
    },
    pull() {
      pulled = true
      toHost.fail(portLost(name))
      toUnit.fail(portLost(name))
    },
  }
}

interface Waiting {
  max: number
  settle(bytes: Uint8Array | null): void
  fail(error: Error): void
}

/** One direction of the line: what has arrived and who waits for it. */
class Lane {
  private arrived: Uint8Array[] = []
  private waiting: Waiting | undefined
  private freeAt = 0

  constructor(
    readonly name: string,
    private readonly clock: Clock,
  ) {}

  /** Resolves when the last bit has left; characters queue behind those already on their way. */
  async occupy(ms: number): Promise<void> {
    const now = this.clock.now()
    this.freeAt = Math.max(now, this.freeAt) + ms
    await this.clock.sleep(this.freeAt - now)
  }

  deliver(bytes: Uint8Array): void {
    if (bytes.length === 0) return
    this.arrived.push(bytes)
    if (!this.waiting) return
    const { max, settle } = this.waiting
    this.waiting = undefined
    settle(this.take(max))
  }

  read(max: number, timeoutMs: number): Promise<Uint8Array | null> {
    if (this.arrived.length > 0) return Promise.resolve(this.take(max))
    if (timeoutMs <= 0) return Promise.resolve(null)
    return new Promise((resolve, reject) => {
      const callOff = this.clock.after(timeoutMs, () => {
        this.waiting = undefined
        resolve(null)
      })
      this.waiting = {
        max,
        settle: (bytes) => {
          callOff()
          resolve(bytes)
        },
        fail: (error) => {
          callOff()
          reject(error)
        },
      }
    })
  }

  fail(error: Error): void {
    const waiting = this.waiting
    this.waiting = undefined
    waiting?.fail(error)
  }

  clear(): void {
    this.arrived = []
  }

  private take(max: number): Uint8Array {
    const first = this.arrived[0]!
    if (first.length <= max) {
      this.arrived.shift()
      return first
    }
    this.arrived[0] = first.subarray(max)
    return first.subarray(0, max)
  }
}
