/** What turns at a mark of a time axis: it says how a mark is written. */
export type TimeStep = 'hour' | 'day' | 'month' | 'year'

interface Step {
  turns: TimeStep
  each: number
  /** About as long, ms. */
  ms: number
}
const hour = 3_600_000
const day = 24 * hour
const year = 365.25 * day
const firstMonday = 4 * day
const steps: readonly Step[] = [
  ...[1, 3, 6, 12].map((each) => ({ turns: 'hour' as const, each, ms: each * hour })),
  ...[1, 2, 7, 14].map((each) => ({ turns: 'day' as const, each, ms: each * day })),
  ...[1, 3, 6].map((each) => ({ turns: 'month' as const, each, ms: (each * year) / 12 })),
  ...[1, 2, 5, 10, 50, 100].map((each) => ({ turns: 'year' as const, each, ms: each * year })),
]

/** The last turn at or before a moment. Weeks begin on a Monday (ISO 8601). */
function turnBefore(at: number, { turns, each }: Step): Date {
  const date = new Date(at)
  if (turns === 'hour') date.setHours(date.getHours() - (date.getHours() % each), 0, 0, 0)
  else date.setHours(0, 0, 0, 0)
  if (turns === 'day') {
    // 1970-01-05 was a Monday.
    const days = Math.round(
      (Date.UTC(date.getFullYear(), date.getMonth(), date.getDate()) - firstMonday) / day,
    )
    date.setDate(date.getDate() - (((days % each) + each) % each))
  }
  if (turns === 'month') date.setMonth(date.getMonth() - (date.getMonth() % each), 1)
  if (turns === 'year') date.setFullYear(date.getFullYear() - (date.getFullYear() % each), 0, 1)
  return date
}

/** The turn after one. A day with a change of the clock is as long as it is. */
function turnAfter(date: Date, { turns, each }: Step): Date {
  const next = new Date(date)
  if (turns === 'hour') next.setHours(next.getHours() + each)
  if (turns === 'day') next.setDate(next.getDate() + each)
  if (turns === 'month') next.setMonth(next.getMonth() + each)
  if (turns === 'year') next.setFullYear(next.getFullYear() + each)
  return next
}

/**
 * Marks of a time axis: moments at which the calendar turns, in this computer's time, as close as they may stand.
 * @param from ms since 1970, as `to`.
 * @param most so many marks at most, at least one.
 */
export function timeMarks(from: number, to: number, most: number): { turns: TimeStep; at: number[] } {
  for (const step of steps) {
    if ((to - from) / step.ms > most + 1) continue
    const at: number[] = []
    for (let turn = turnBefore(from, step); turn.getTime() <= to; turn = turnAfter(turn, step))
      if (turn.getTime() >= from) at.push(turn.getTime())
    if (at.length <= most) return { turns: step.turns, at }
  }
  return { turns: 'year', at: [] }
}
