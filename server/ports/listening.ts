import { Problem } from '@bench-wake/core/kernel'
import {
  discardInput,
  findSpeed,
  type ControlLines,
  type HeardAt,
  type Port,
  type SerialSettings,
  type SpeedSearch,
} from '@bench-wake/core/link'
import type { PortHolds } from './holds'
import { portClock } from './port-clock'
import type { Ports } from './ports'
import type { PortTraces } from './traces'
import { wrongChannel } from './wrong-channel'

/** What holds a port that is only listened to. */
const listening = 'listening'
/** Input is thrown away when the line was silent for this long, ms; the trace has kept it. */
const quietMs = 60

/** Ports that a person looks at: opened and listened to, and written to by hand. */
export class Listening {
  /** Ports that are open here, with what ends each. */
  private readonly open = new Map<string, { port: Port; end: () => Promise<void> }>()

  constructor(
    private readonly ports: Ports,
    private readonly holds: PortHolds,
    private readonly traces: PortTraces,
  ) {}

  /**
   * Opens a serial port and only listens, until `stop`. One program a port: a run cannot start meanwhile.
   * @throws Problem `port-held`, `wrong-channel`, and what keeps the port from being opened.
   */
  async begin(portId: string, settings: SerialSettings): Promise<void> {
    const entry = await this.ports.find(portId, this.holds.by)
    this.holds.refuseHeld(portId)
    this.holds.hold(portId, listening)
    const clock = portClock(1)
    try {
      const { channel: bare } = this.ports.connect(portId, clock)
      const channel = this.traces.traced(portId, bare, clock, { speaks: 'bytes' })
      if (channel.kind !== 'serial') throw wrongChannel(entry.name)
      const { port } = channel
      await port.open(settings)
      const hear = async () => {
        for (;;) await discardInput(port, quietMs)
      }
      // Ends when the port is closed or pulled.
      const heard = hear().catch(() => {})
      this.open.set(portId, {
        port,
        end: async () => {
          await port.close()
          await heard
        },
      })
    } catch (error) {
      this.holds.free(portId)
      throw error
    }
  }

  /**
   * Sends bytes as a person typed them. Nothing judges them: it is the person's own hand at the unit.
   * @throws Problem `not-open`, and whatever the port says.
   */
  async send(portId: string, bytes: Uint8Array): Promise<void> {
    await this.opened(portId).write(bytes)
  }

  /** Sets DTR, RTS or a break; a break is taken off again after its time. @throws Problem `not-open`. */
  async setLines(portId: string, lines: ControlLines, breakMs?: number): Promise<void> {
    const port = this.opened(portId)
    await port.setLines(lines)
    if (breakMs === undefined) return
    await portClock(1).sleep(breakMs)
    await port.setLines({ brk: false })
  }

  /** Other settings from here on; the port stays open, so that no control line moves. @throws Problem `not-open`. */
  async set(portId: string, settings: SerialSettings): Promise<void> {
    await this.opened(portId).open(settings)
  }

  /**
   * Listens at one speed after the other on a port that nothing holds.
   * @throws Problem `port-held`, `wrong-channel`, and what keeps the port from being opened.
   */
  async findSpeed(portId: string, search: SpeedSearch): Promise<HeardAt[]> {
    const entry = await this.ports.find(portId, this.holds.by)
    return this.holds.reading(portId, async () => {
      const clock = portClock(1)
      const { channel: bare } = this.ports.connect(portId, clock)
      const channel = this.traces.traced(portId, bare, clock, { speaks: 'bytes' })
      if (channel.kind !== 'serial') throw wrongChannel(entry.name)
      const { port } = channel
      await port.open({ baudRate: 9600, dataBits: 8, parity: 'none', stopBits: 1 })
      try {
        return await findSpeed(port, clock, search)
      } finally {
        await port.close()
      }
    })
  }

  private opened(portId: string): Port {
    const { port } = this.open.get(portId) ?? {}
    if (port) return port
    throw new Problem({
      kind: 'not-open',
      thing: portId,
      says: 'the terminal is not open at this port',
      remedy: 'Open it first. A port that was pulled has to be plugged in again.',
    })
  }

  async stop(portId: string): Promise<void> {
    const opened = this.open.get(portId)
    this.open.delete(portId)
    await opened?.end()
    if (this.holds.by(portId) === listening) this.holds.free(portId)
  }
}
