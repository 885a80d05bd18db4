import type { Clock } from '@bench-wake/core/kernel'
import { Inbox, portClosed, portLost, wireMs, type Port, type SerialSettings } from '@bench-wake/core/link'

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
  const toUnit = new Lane(clock)
  const toHost = new Lane(clock)
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

/** One direction of the line: the wire, which carries one character at a time, and what has arrived behind it. */
class Lane extends Inbox {
  private freeAt = 0

  constructor(private readonly time: Clock) {
    super(time)
  }

  /** Resolves when the last bit has left; characters queue behind those already on their way. */
  async occupy(ms: number): Promise<void> {
    const now = this.time.now()
    this.freeAt = Math.max(now, this.freeAt) + ms
    await this.time.sleep(this.freeAt - now)
  }
}
