import { Problem } from '@bench-wake/core/kernel'

/** Who holds which port: one program, one run, one reading at a time. */
export class PortHolds {
  /** Id of a run, or a word of what else holds it, by port. */
  private readonly held = new Map<string, string>()
  private readonly readings = new Map<string, Promise<unknown>>()

  /** What holds a port. */
  readonly by = (portId: string): string | undefined => this.held.get(portId)

  hold(portId: string, holder: string): void {
    this.held.set(portId, holder)
  }

  free(portId: string): void {
    this.held.delete(portId)
  }

  /** @throws Problem `port-held` that names what holds it. */
  refuseHeld(portId: string): void {
    const holder = this.held.get(portId)
    if (holder === undefined) return
    throw new Problem({
      kind: 'port-held',
      thing: portId,
      says: 'the port is in use',
      found: holder,
      remedy: 'One run a port: wait until it has ended, or use another adapter.',
    })
  }

  /** Readings of one port take turns; a run that holds the port refuses them. @throws Problem `port-held`. */
  async reading<T>(portId: string, act: () => Promise<T>): Promise<T> {
    this.refuseHeld(portId)
    const before = this.readings.get(portId) ?? Promise.resolve()
    const turn = before
      // A reading that failed has told whoever asked for it.
      .catch(() => {})
      .then(() => {
        this.refuseHeld(portId)
        return act()
      })
    this.readings.set(portId, turn)
    try {
      return await turn
    } finally {
      if (this.readings.get(portId) === turn) this.readings.delete(portId)
    }
  }

  /** Resolves when the reading under way is over, well or not. */
  async quiet(portId: string): Promise<void> {
    await this.readings.get(portId)?.catch(() => {})
  }
}
