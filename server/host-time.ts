import type { HostTime } from '@bench-wake/core/kernel'

/** Node's timers may be a millisecond and more late; the last stretch is waited out turn by turn. */
const coarseMs = 2

/** A timer that is later than this was late because this process stood still. */
const lateMs = 20
/** What came in meanwhile is heard before anything is called too late: turns of the event loop for a driver to hand it on, ms. */
const hearMs = 20

/** This process's time: never set back, with fractions of a millisecond. */
export const hostTime: HostTime = {
  now: () => performance.timeOrigin + performance.now(),
  after(ms, act) {
    const due = performance.now() + ms
    let timer: NodeJS.Timeout | undefined
    let turn: NodeJS.Immediate | undefined
    const finish = () => {
      const now = performance.now()
      if (now > due + lateMs) timer = setTimeout(act, hearMs)
      else if (now >= due) act()
      else turn = setImmediate(finish)
    }
    if (ms > coarseMs) timer = setTimeout(finish, ms - coarseMs)
    else turn = setImmediate(finish)
    return () => {
      clearTimeout(timer)
      clearImmediate(turn)
    }
  },
}

/** Resolves after all pending promise jobs have run: the turn of a virtual clock. */
export const nextTurn = () => new Promise<void>((done) => setImmediate(done))

/** Behind by more than this, a pace begins anew: the laptop slept, or time was held for a person. */
const lostMs = 50
/** Less than a timer can keep is not waited for; it is made up later. */
const minMs = 2

/**
 * Paces a virtual clock at so many times real time. It keeps to the whole time that has passed, not to each
 * step: a link makes steps of a fraction of a millisecond, and a timer of the host keeps none of these.
 */
export function paceOf(speed: number, host: HostTime = hostTime): (aheadMs: number) => Promise<void> {
  let due = host.now()
  return (aheadMs) => {
    const now = host.now()
    if (now - due > lostMs) due = now
    due += aheadMs / speed
    const wait = due - now
    return wait < minMs ? Promise.resolve() : new Promise((done) => void host.after(wait, done))
  }
}
