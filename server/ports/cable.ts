import { portLost, type Channel, type Port, type UsbPort } from '@bench-wake/core/link'

/** The cable of a stand-in, which a person may pull at any time, in the middle of a write too. */
export class Cable {
  joined = true
  private readonly waiting = new Set<() => void>()

  plug(joined: boolean): void {
    this.joined = joined
    if (!joined) for (const pulled of [...this.waiting]) pulled()
  }

  /** Carries out a transfer; fails at once with Problem `port-lost` when the cable is out or is pulled meanwhile. */
  async carry<T>(name: string, act: () => Promise<T>): Promise<T> {
    if (!this.joined) throw portLost(name)
    let pulled: () => void = () => {}
    const out = new Promise<never>((_, reject) => {
      pulled = () => reject(portLost(name))
      this.waiting.add(pulled)
    })
    const done = act()
    // What the unit still says once the cable is pulled, nobody hears.
    done.catch(() => {})
    try {
      return await Promise.race([done, out])
    } finally {
      this.waiting.delete(pulled)
    }
  }
}

/** A channel that goes over a cable. */
export function throughCable(channel: Channel, cable: Cable): Channel {
  if (channel.kind === 'serial') {
    const { port } = channel
    const over = <T>(act: () => Promise<T>) => cable.carry(port.name, act)
    const cabled: Port = {
      name: port.name,
      get settings() {
        return port.settings
      },
      open: (settings) => over(() => port.open(settings)),
      close: () => port.close(),
      read: (max, timeoutMs) => over(() => port.read(max, timeoutMs)),
      write: (bytes) => over(() => port.write(bytes)),
      setLines: (lines) => over(() => port.setLines(lines)),
    }
    return { kind: 'serial', port: cabled }
  }
  const { port } = channel
  const over = <T>(act: () => Promise<T>) => cable.carry(port.name, act)
  const cabled: UsbPort = {
    name: port.name,
    open: () => over(() => port.open()),
    close: () => port.close(),
    claimInterface: (number, alternate) => over(() => port.claimInterface(number, alternate)),
    controlIn: (setup, length) => over(() => port.controlIn(setup, length)),
    controlOut: (setup, data) => over(() => port.controlOut(setup, data)),
    transferIn: (endpoint, length) => over(() => port.transferIn(endpoint, length)),
    transferOut: (endpoint, data) => over(() => port.transferOut(endpoint, data)),
    reset: () => over(() => port.reset()),
    reopen: (timeoutMs) => over(() => port.reopen(timeoutMs)),
  }
  return { kind: 'usb', port: cabled }
}
