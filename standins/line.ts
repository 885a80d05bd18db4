import type { Clock } from '@bench-wake/core/kernel'
import {
  Inbox,
  portClosed,
  portLost,
  wireMs,
  type ControlLines,
  type Port,
  type SerialSettings,
} from '@bench-wake/core/link'

/** Bytes that arrive later than they should. */
export interface LateBytes {
  bytes: Uint8Array
  lateMs: number
}

/** What a disturbance may do to bytes on their way: change, drop, double, split, merge or delay them. */
export type Disturb = (bytes: Uint8Array, to: 'unit' | 'host', baudRate: number) => Uint8Array | LateBytes[]

export interface LineForm {
  name: string
  clock: Clock
  /** How the unit's own end is set; a host set otherwise hears and sends noise. */
  unit: SerialSettings
  disturb?: Disturb
  /** Speeds that the unit takes up by itself beside its own, as long as it does. */
  follows?: () => readonly number[]
  /** One wire for both: the host hears its own characters. */
  echo?: boolean
  /** Whether the unit has power: without it, it hears and says nothing. */
  powered?: () => boolean
  /** The host's hand on the control lines; a break is a low on the wire. */
  onLines?: (lines: ControlLines) => void
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

export function serialLine(form: LineForm): Line {
  const { name, clock, unit, disturb = (bytes) => bytes } = form
  const toUnit = new Lane(clock)
  const toHost = new Lane(clock)
  let hostSettings = unit
  let open = false
  let pulled = false

  const follows = () => form.follows?.().includes(hostSettings.baudRate) ?? false
  const matched = () =>
    (hostSettings.baudRate === unit.baudRate || follows()) &&
    hostSettings.dataBits === unit.dataBits &&
    hostSettings.parity === unit.parity &&
    hostSettings.stopBits === unit.stopBits

  const send = async (lane: Lane, bytes: Uint8Array, settings: SerialSettings, to: 'unit' | 'host') => {
    if (pulled) throw portLost(name)
    await lane.occupy(wireMs(bytes.length, settings))
    if (pulled) throw portLost(name)
    if (to === 'host' && !open) return
    if (form.powered?.() === false && to === 'host') return
    if (to === 'unit' && form.echo) toHost.deliver(bytes.slice())
    const arrive = (heard: Uint8Array) => {
      // At another speed the same bits are other characters.
      if (!pulled && form.powered?.() !== false)
        lane.deliver(matched() ? heard : heard.map((byte) => (byte * 0x9d + 0x55) & 0xff))
    }
    const heard = disturb(bytes, to, settings.baudRate)
    if (heard instanceof Uint8Array) arrive(heard)
    else for (const { bytes: late, lateMs } of heard) clock.after(lateMs, () => arrive(late))
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
        // Set anew while it is open, nothing that came is lost.
        if (!open) toHost.clear()
        open = true
        if (settings.lines) form.onLines?.(settings.lines)
      },
      async close() {
        open = false
        toHost.fail(portClosed(name))
      },
      read: (max, timeoutMs) => (pulled ? Promise.reject(portLost(name)) : toHost.read(max, timeoutMs)),
      write: (bytes) => send(toUnit, bytes, hostSettings, 'unit'),
      async setLines(lines) {
        form.onLines?.(lines)
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
      write: (bytes) => send(toHost, bytes, follows() ? hostSettings : unit, 'host'),
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

/** One direction of the line: the wire, which carries one character at a time, and what has arrived at its end. */
class Lane extends Inbox {
  private freeAt = 0

  constructor(private readonly time: Clock) {
    super(time)
  }

  /** Resolves when the last bit has left; characters queue up after those already on their way. */
  async occupy(ms: number): Promise<void> {
    const now = this.time.now()
    this.freeAt = Math.max(now, this.freeAt) + ms
    await this.time.sleep(this.freeAt - now)
  }
}
