import type { Trace, TraceEvent, TraceHead } from '@bench-wake/core/link'

/** Most that one port's trace keeps, characters of hexadecimal; the oldest goes first. */
const maxCharacters = 16_000_000

/** What went over one port since it was opened last, for whoever looks at it now or later. */
export class TraceLog {
  private events: TraceEvent[] = []
  private characters = 0
  private readonly listeners = new Set<(event: TraceEvent) => void>()

  constructor(readonly head: TraceHead) {}

  readonly tell = (event: TraceEvent): void => {
    this.events.push(event)
    this.characters += 'bytes' in event ? event.bytes.length : 0
    while (this.characters > maxCharacters) {
      const oldest = this.events.shift()!
      this.characters -= 'bytes' in oldest ? oldest.bytes.length : 0
    }
    for (const listener of this.listeners) listener(event)
  }

  /** Calls `listener` for each event from now on; call the result to end that. */
  listen(listener: (event: TraceEvent) => void): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  trace(): Trace {
    return { head: this.head, events: [...this.events] }
  }
}
