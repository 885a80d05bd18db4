import type { HostTime } from '@bench-wake/core/kernel'

/** Node's timers may be a millisecond and more late; the last stretch is waited out turn by turn. */
const coarseMs = 2

/** This process's time: never set back, with fractions of a millisecond. */
export const hostTime: HostTime = {
  now: () => performance.timeOrigin + performance.now(),
  after(ms, act) {
    const due = performance.now() + ms
    let timer: NodeJS.Timeout | undefined
    let turn: NodeJS.Immediate | undefined
    const finish = () => {
      if (performance.now() >= due) act()
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
