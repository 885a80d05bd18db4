import type { Clock } from '../kernel'

interface Waiting {
  max: number
  settle(bytes: Uint8Array): void
  fail(error: Error): void
}

/** What has arrived at one end of a line and who waits for it: the reading half of every Port. */
export class Inbox {
  private arrived: Uint8Array[] = []
  private waiting: Waiting | undefined

  constructor(private readonly clock: Pick<Clock, 'after'>) {}

  /** Takes bytes off the line; empty ones are nothing. */
  deliver(bytes: Uint8Array): void {
    if (bytes.length === 0) return
    this.arrived.push(bytes)
    if (!this.waiting) return
    const { max, settle } = this.waiting
    this.waiting = undefined
    settle(this.take(max))
  }

  /** As `Port.read` guarantees. */
  read(max: number, timeoutMs: number): Promise<Uint8Array | null> {
    if (this.arrived.length > 0) return Promise.resolve(this.take(max))
    if (timeoutMs <= 0) return Promise.resolve(null)
    return new Promise((resolve, reject) => {
      const callOff =
        timeoutMs === Infinity
          ? () => {}
          : this.clock.after(timeoutMs, () => {
              this.waiting = undefined
              resolve(null)
            })
      this.waiting = {
        max,
        settle(bytes) {
          callOff()
          resolve(bytes)
        },
        fail(error) {
          callOff()
          reject(error)
        },
      }
    })
  }

  /** Makes a pending read fail. */
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
