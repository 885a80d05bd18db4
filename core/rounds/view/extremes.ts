/*
 * A screen has a thousand columns and a log a million rows. Drawing every thousandth row hides the one that matters:
 * the knock, the dip. So each column of the screen shows the lowest and highest figure of all its rows, kept in
 * blocks beforehand so that panning reads a few hundred figures a column and not all of them.
 */

/** Rows of the smallest block, and blocks of the next larger one. */
const blockRows = 16
const blocksInNext = 8

interface Blocks {
  rows: number
  min: Float64Array
  max: Float64Array
}

/** Lowest and highest figures of a channel, in blocks. */
export class Extremes {
  readonly #levels: Blocks[] = []
  #min = Infinity
  #max = -Infinity

  constructor(readonly values: Float64Array) {
    let below: Blocks | undefined
    for (let rows = blockRows; rows <= values.length; rows *= blocksInNext) {
      const count = Math.ceil(values.length / rows)
      const level: Blocks = { rows, min: new Float64Array(count), max: new Float64Array(count) }
      for (let block = 0; block < count; block++) {
        const [mins, maxs, each] = below ? [below.min, below.max, blocksInNext] : [values, values, rows]
        this.#min = Infinity
        this.#max = -Infinity
        this.#scan(mins, maxs, block * each, Math.min(mins.length, (block + 1) * each))
        level.min[block] = this.#min
        level.max[block] = this.#max
      }
      this.#levels.push((below = level))
    }
  }

  /** Lowest and highest figure of the rows from `from` up to and without `to`; Infinity, -Infinity where none has one. */
  within(from: number, to: number): [min: number, max: number] {
    this.#min = Infinity
    this.#max = -Infinity
    this.#look(Math.max(0, from), Math.min(this.values.length, to), this.#levels.length - 1)
    return [this.#min, this.#max]
  }

  /** The largest whole blocks, and what is left of them on either side by smaller ones. */
  #look(from: number, to: number, level: number): void {
    if (level < 0) return this.#scan(this.values, this.values, from, to)
    const { rows, min, max } = this.#levels[level]!
    const first = Math.ceil(from / rows)
    const last = Math.floor(to / rows)
    if (last <= first) return this.#look(from, to, level - 1)
    this.#scan(min, max, first, last)
    if (from < first * rows) this.#look(from, first * rows, level - 1)
    if (last * rows < to) this.#look(last * rows, to, level - 1)
  }

  #scan(mins: Float64Array, maxs: Float64Array, from: number, to: number): void {
    let min = this.#min
    let max = this.#max
    for (let at = from; at < to; at++) {
      const low = mins[at]!
      const high = maxs[at]!
      // NaN is neither below nor above anything: rows without a figure stay out.
      if (low < min) min = low
      if (high > max) max = high
    }
    this.#min = min
    this.#max = max
  }
}

/**
 * Where the rows of each column begin, for a stretch of time on so many columns of a screen.
 * @param seconds of the rows, rising.
 * @returns a row for each column, and behind them the first row that is in none.
 */
export function columnEdges(
  seconds: Float64Array,
  fromSeconds: number,
  toSeconds: number,
  columns: number,
): Uint32Array {
  const edges = new Uint32Array(columns + 1)
  const step = (toSeconds - fromSeconds) / columns
  for (let column = 0; column < columns; column++) edges[column] = rowAt(seconds, fromSeconds + column * step)
  edges[columns] = Math.max(edges[columns - 1]!, rowAfter(seconds, toSeconds))
  return edges
}

/**
 * What a channel looks like on the columns of a screen.
 * @param edges where the rows of each column begin.
 * @returns two figures a column, lowest and highest; NaN, NaN where no row falls into it.
 */
export function columnsOf(channel: Extremes, edges: Uint32Array): Float64Array {
  const columns = edges.length - 1
  const drawn = new Float64Array(columns * 2).fill(NaN)
  for (let column = 0; column < columns; column++) {
    if (edges[column + 1]! <= edges[column]!) continue
    const [min, max] = channel.within(edges[column]!, edges[column + 1]!)
    if (min > max) continue
    drawn[column * 2] = min
    drawn[column * 2 + 1] = max
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
