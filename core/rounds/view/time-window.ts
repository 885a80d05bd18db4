/** A stretch of a log that is looked at, s. */
export interface TimeWindow {
  from: number
  to: number
}

/** Less than this nobody looks at: two rows of the fastest logger, s. */
const shortest = 0.02

/** A window that never leaves the log and is never shorter than two rows. @param seconds length of the log. */
export function within({ from, to }: TimeWindow, seconds: number): TimeWindow {
  const span = Math.min(Math.max(to - from, shortest), Math.max(seconds, shortest))
  const start = Math.min(Math.max(0, from), Math.max(0, seconds - span))
  return { from: start, to: start + span }
}

/** Wider or closer around a time, which stays where it is. @param factor below 1 is closer. */
export const zoomed = (
  { from, to }: TimeWindow,
  factor: number,
  seconds: number,
  around = (from + to) / 2,
): TimeWindow =>
  within({ from: around - (around - from) * factor, to: around + (to - around) * factor }, seconds)

/** Moved by a share of its own width. */
export function panned({ from, to }: TimeWindow, share: number, seconds: number): TimeWindow {
  const by = (to - from) * share
  return within({ from: from + by, to: to + by }, seconds)
}
