/**
 * Time, as an argument. Core never reads the system's time: with a real clock a run is real, with a
 * scaled one it is a practice run, with a virtual one it is a rehearsal of thousands in seconds.
 */
export interface Clock {
  /** Milliseconds since 1970-01-01 UTC, with fractions. Never goes back. */
  now(): number
  /** Resolves when `ms` milliseconds of this clock have passed. Zero or less resolves in the next turn. */
  sleep(ms: number): Promise<void>
  /** Calls `act` once after `ms` milliseconds, unless the returned function is called before. For time-outs. */
  after(ms: number, act: () => void): () => void
}

/** What a host must lend to make a running clock: its time and its timer. */
export interface HostTime {
  now(): number
  after(ms: number, act: () => void): () => void
}

/** The host's own time. Guards against a system clock that is set back while a run is under way. */
export function realClock(host: HostTime): Clock {
  return scaledClock(host, 1)
}

/**
 * Runs `factor` times as fast as the host, from the host's time at the moment of making.
 * @throws RangeError when factor is not above zero.
 */
export function scaledClock(host: HostTime, factor: number): Clock {
  if (!(factor > 0)) throw new RangeError(`A clock runs at a factor above 0, not ${factor}`)
  const start = host.now()
  let latest = start
  const after: Clock['after'] = (ms, act) => host.after(Math.max(0, ms) / factor, act)
  return {
    now() {
      latest = Math.max(latest, start + (host.now() - start) * factor)
      return latest
    },
    after,
    sleep: (ms) => new Promise((wake) => void after(ms, wake)),
  }
}

/** A clock whose time passes only when everybody waits. */
export interface VirtualClock extends Clock {
  /**
   * Time stands still until the promise settles. Wrap whatever really waits (a disk, a person), or the
   * clock would run through every time-out meanwhile.
   */
  freezeWhile<T>(pending: Promise<T>): Promise<T>
}

interface Sleeper {
  due: number
  order: number
  wake: (() => void) | undefined
}

/**
 * A clock that jumps to the next sleeper as soon as nothing else can happen.
 * @param turn resolves after all pending promise jobs have run (in Node `setImmediate`).
 * @param start milliseconds since 1970.
 * @param pace waits in the host's time for what a jump of so many milliseconds is to take; without it jumps take
 * none. Time still only moves when nothing else can happen, so a busy host rings no time-out.
 */
export function virtualClock(
  turn: () => Promise<void>,
  start = 0,
  pace?: (aheadMs: number) => Promise<void>,
): VirtualClock {
  const sleepers: Sleeper[] = []
  let now = start
  let order = 0
  let frozen = 0
  let turning = false

  async function advance(): Promise<void> {
    if (turning) return
    turning = true
    while (sleepers.length > 0 && frozen === 0) {
      await turn()
      // What ran in that turn may have begun to freeze it, or called its timer off: look again.
      if (frozen > 0) break
      while (sleepers.length > 0 && !sleepers[0]!.wake) pop(sleepers)
      const next = sleepers[0]
      if (!next) break
      if (pace && next.due > now) {
        await pace(next.due - now)
        if (frozen > 0 || sleepers[0] !== next || !next.wake) continue
      }
      pop(sleepers)
      now = Math.max(now, next.due)
      next.wake?.()
    }
    turning = false
  }

  const after: Clock['after'] = (ms, act) => {
    const sleeper: Sleeper = { due: now + Math.max(0, ms), order: order++, wake: act }
    push(sleepers, sleeper)
    void advance()
    return () => {
      sleeper.wake = undefined
    }
  }

  return {
    now: () => now,
    after,
    sleep: (ms) => new Promise((wake) => void after(ms, wake)),
    async freezeWhile(pending) {
      frozen++
      try {
        return await pending
      } finally {
        frozen--
        if (frozen === 0) void advance()
      }
    },
  }
}

const earlier = (a: Sleeper, b: Sleeper) => a.due < b.due || (a.due === b.due && a.order < b.order)

/** Binary heap, earliest first; sleepers due together wake in the order they lay down. */
function push(heap: Sleeper[], item: Sleeper): void {
  let at = heap.push(item) - 1
  while (at > 0) {
    const above = (at - 1) >> 1
    if (!earlier(item, heap[above]!)) break
    heap[at] = heap[above]!
    at = above
  }
  heap[at] = item
}

function pop(heap: Sleeper[]): Sleeper | undefined {
  const first = heap[0]
  const last = heap.pop()
  if (!last || heap.length === 0) return first
  let at = 0
  for (;;) {
    let child = 2 * at + 1
    if (child >= heap.length) break
    if (child + 1 < heap.length && earlier(heap[child + 1]!, heap[child]!)) child++
    if (!earlier(heap[child]!, last)) break
    heap[at] = heap[child]!
    at = child
  }
  heap[at] = last
  return first
}
