import type { Log } from '../log'

/** Lowest and highest figure of a channel, and how many rows have one; NaN, NaN, 0 for none. */
export function rangeOf(values: Float64Array): { min: number; max: number; figures: number } {
  let [min, max, figures] = [Infinity, -Infinity, 0]
  for (const value of values) {
    if (Number.isNaN(value)) continue
    figures++
    if (value < min) min = value
    if (value > max) max = value
  }
  return figures === 0 ? { min: NaN, max: NaN, figures } : { min, max, figures }
}

/** Steps between rows that rise, s; the middle one is the log's pace. 0 where there are none. */
export function medianStep(seconds: Float64Array): number {
  const steps: number[] = []
  // Every row of a short log, an even selection of a long one: the middle of 20 000 steps is the middle.
  const stride = Math.max(1, Math.floor(seconds.length / 20_000))
  for (let row = 1; row < seconds.length; row += stride) {
    const step = seconds[row]! - seconds[row - 1]!
    if (step > 0) steps.push(step)
  }
  steps.sort((a, b) => a - b)
  return steps.length === 0 ? 0 : steps[steps.length >> 1]!
}

/**
 * Time for which a test of a row holds, s, and its longest unbroken stretch. A row lasts until the next one, but no
 * longer than ten usual steps: what happened in a gap nobody knows.
 */
export function timeWhile(
  { seconds }: Pick<Log, 'seconds'>,
  holds: (row: number) => boolean,
): { seconds: number; longest: number; longestFrom: number } {
  const longestStep = medianStep(seconds) * 10
  let [total, run, longest] = [0, 0, 0]
  let [runFrom, longestFrom] = [0, 0]
  for (let row = 0; row < seconds.length; row++) {
    if (!holds(row)) {
      run = 0
      continue
    }
    const step = row + 1 < seconds.length ? seconds[row + 1]! - seconds[row]! : 0
    if (run === 0) runFrom = seconds[row]!
    const lasts = Math.min(Math.max(0, step), longestStep)
    total += lasts
    run += lasts
    if (run > longest) {
      longest = run
      longestFrom = runFrom
    }
    if (step > longestStep) run = 0
  }
  return { seconds: total, longest, longestFrom }
}
