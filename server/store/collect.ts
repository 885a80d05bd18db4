import { setImmediate as turn } from 'node:timers/promises'
import { setFlagsFromString } from 'node:v8'
import { runInNewContext } from 'node:vm'

let collector: (() => void) | undefined

/**
 * Lets go of what the database's library holds of statements that are over: their values, megabytes of a large file, until
 * the engine collects the small objects that stand for them, of whose weight it knows nothing.
 */
export async function collect(): Promise<void> {
  if (!collector) {
    setFlagsFromString('--expose_gc')
    collector = runInNewContext('gc') as () => void
  }
  collector()
  // What was collected is let go of in the next turn.
  await turn()
}
