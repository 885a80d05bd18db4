import type { Clock } from '../../kernel'
import type { Port, SerialSettings } from '../port'

/**
 * What comes over a port, with what was read and not used yet kept in front: an awaited text may end in the middle of
 * what arrived, and what follows it belongs to the next step.
 */
export class Stream {
  private kept = new Uint8Array(0)
  /** What was heard last, for a sentence. */
  private recent: number[] = []

  constructor(
    readonly port: Port,
    private readonly clock: Pick<Clock, 'now'>,
  ) {}

  /** Bytes that are there or come before a moment; null when it has passed without one. */
  async some(until: number): Promise<Uint8Array | null> {
    if (this.kept.length > 0) {
      const bytes = this.kept
      this.kept = new Uint8Array(0)
      return bytes
    }
    const bytes = await this.port.read(4096, Math.max(0, until - this.clock.now()))
    if (bytes) this.recent = [...this.recent, ...bytes].slice(-160)
    return bytes
  }

  /** Gives back what was not used. */
  giveBack(bytes: Uint8Array): void {
    if (bytes.length > 0)
      this.kept = this.kept.length > 0 ? Uint8Array.from([...bytes, ...this.kept]) : bytes.slice()
  }

  /** What came since the last `forget`, up to 160 bytes. */
  heard(): Uint8Array {
    return Uint8Array.from(this.recent)
  }

  forget(): void {
    this.recent = []
  }

  /** Throws away what has come already. */
  async discard(): Promise<void> {
    this.kept = new Uint8Array(0)
    while (await this.port.read(4096, 0)) {
      // Said before it was asked.
    }
    this.forget()
  }

  /** The port as a transfer takes it: what was kept comes first. */
  asPort(): Port {
    const { port } = this
    return {
      name: port.name,
      get settings(): SerialSettings {
        return port.settings
      },
      open: (settings) => port.open(settings),
      close: () => port.close(),
      write: (bytes) => port.write(bytes),
      setLines: (lines) => port.setLines(lines),
      read: (max, timeoutMs) => {
        if (this.kept.length === 0) return port.read(max, timeoutMs)
        const bytes = this.kept.slice(0, max)
        this.kept = this.kept.slice(max)
        return Promise.resolve(bytes)
      },
    }
  }
}
