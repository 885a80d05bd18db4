/*
 * A screen has a thousand columns and a log a million rows. Drawing every thousandth row hides the one that matters:
 * the knock, the dip. So each column of the screen shows the lowest and highest figure of all its rows, kept in
 * blocks beforehand so that panning reads a few hundred figures a column and not all of them.
 */

/** Rows of the smallest block, and blocks of the next larger one. */
const blockRows = 64
const blocksInNext = 16

interface Blocks {
  rows: number
  min: Float64Array
  max: Float64Array
}

/** Lowest and highest figures of a channel, in blocks. */
export class Extremes {
  readonly #levels: Blocks[] = []

  constructor(readonly values: Float64Array) {
    let below: Blocks | undefined
    for (let rows = blockRows; rows <= values.length; rows *= blocksInNext) {
      const count = Math.ceil(values.length / rows)
      const level: Blocks = { rows, min: new Float64Array(count), max: new Float64Array(count) }
      for (let block = 0; block < count; block++) {
        const range = below
          ? over(
              below.min,
              below.max,
              block * blocksInNext,
              Math.min(below.min.length, (block + 1) * blocksInNext),
            )
          : over(values, values, block * rows, Math.min(values.length, (block + 1) * rows))
        level.min[block] = range[0]
        level.max[block] = range[1]
      }
      this.#levels.push((below = level))
    }
  }

  /** Lowest and highest figure of the rows from `from` up to and without `to`; Infinity, -Infinity where none has one. */
  within(from: number, to: number): [min: number, max: number] {
    return this.#within(Math.max(0, from), Math.min(this.values.length, to), this.#levels.length - 1)
  }

  #within(from: number, to: number, level: number): [number, number] {
    if (level < 0) return over(this.values, this.values, from, to)
    const { rows, min, max } = this.#levels[level]!
    const first = Math.ceil(from / rows)
    const last = Math.floor(to / rows)
    if (last <= first) return this.#within(from, to, level - 1)
    const middle = over(min, max, first, last)
    const left = from < first * rows ? this.#within(from, first * rows, level - 1) : middle
    const right = last * rows < to ? this.#within(last * rows, to, level - 1) : middle
    return [Math.min(left[0], middle[0], right[0]), Math.max(left[1], middle[1], right[1])]
  }
}

function over(mins: Float64Array, maxs: Float64Array, from: number, to: number): [number, number] {
  let [min, max] = [Infinity, -Infinity]
  for (let at = from; at < to; at++) {
    const low = mins[at]!
    const high = maxs[at]!
    // NaN is neither below nor above anything: rows without a figure stay out.
    if (low < min) min = low
    if (high > max) max = high
  }
  return [min, max]
}

/**
 * What a stretch of time looks like on so many columns of a screen.
 * @param seconds of the rows, rising.
 * @returns two figures a column, lowest and highest; NaN, NaN where no row falls into it.
 */
export function columnsOf(
  channel: Extremes,
  seconds: Float64Array,
  fromSeconds: number,
  toSeconds: number,
  columns: number,
): Float64Array {
  const drawn = new Float64Array(columns * 2).fill(NaN)
  const step = (toSeconds - fromSeconds) / columns
  let row = rowAt(seconds, fromSeconds)
  for (let column = 0; column < columns; column++) {
    const end =
      column === columns - 1
        ? rowAfter(seconds, toSeconds)
        : rowAt(seconds, fromSeconds + (column + 1) * step)
    if (end > row) {
      const [min, max] = channel.within(row, end)
      if (min <= max) {
        drawn[column * 2] = min
        drawn[column * 2 + 1] = max
      }
    }
    row = Math.max(row, end)
  }
  return drawn
}

/** First row at or after a time. */
export function rowAt(seconds: Float64Array, time: number): number {
  let [low, high] = [0, seconds.length]
  while (low < high) {
    const middle = (low + high) >> 1
    if (seconds[middle]! < time) low = middle + 1
    else high = middle
  }
  return low
}

/** First row after a time. */
function rowAfter(seconds: Float64Array, time: number): number {
  let row = rowAt(seconds, time)
  while (row < seconds.length && seconds[row]! <= time) row++
  return row
}
