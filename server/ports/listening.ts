import { discardInput, type SerialSettings } from '@bench-wake/core/link'
import type { PortHolds } from './holds'
import { portClock } from './port-clock'
import type { Ports } from './ports'
import type { PortTraces } from './traces'
import { wrongChannel } from './wrong-channel'

/** What holds a port that is only listened to. */
const listening = 'listening'
/** Input is thrown away when the line was silent for this long, ms; the trace has kept it. */
const quietMs = 60

/** Ports that are opened and only listened to. */
export class Listening {
  /** What ends it, by port. */
  private readonly ends = new Map<string, () => Promise<void>>()

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
      this.ends.set(portId, async () => {
        await port.close()
        await heard
      })
    } catch (error) {
      this.holds.free(portId)
      throw error
    }
  }

  async stop(portId: string): Promise<void> {
    const end = this.ends.get(portId)
    this.ends.delete(portId)
    await end?.()
    if (this.holds.by(portId) === listening) this.holds.free(portId)
  }
}
