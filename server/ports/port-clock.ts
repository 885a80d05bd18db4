import { realClock, virtualClock, type Clock } from '@bench-wake/core/kernel'
import { hostTime, nextTurn, paceOf } from '../host-time'

/** Speeds of a stand-in: as in life, 10 and 60 times as fast, and 0 for unpaced. */
export const speeds = [1, 10, 60, 0] as const
export type Speed = (typeof speeds)[number]

/**
 * The clock of a port: the person's own for a real one; for a stand-in a virtual one, paced or not.
 * @param at when a virtual clock begins, ms since 1970 UTC.
 */
export function portClock(speed: Speed, at = Date.now(), standIn = speed !== 1): Clock {
  if (!standIn) return realClock(hostTime)
  // Paced, not scaled: at 60 times real time a time-out of a second is 17 ms, which a busy laptop overruns.
  return speed === 0 ? virtualClock(nextTurn, at) : virtualClock(nextTurn, at, paceOf(speed))
}
