/** What fell into the cells of a map: rows over y, columns over x, row after row. */
export interface Binned {
  x: readonly number[]
  y: readonly number[]
  count: Uint32Array
  /** NaN where nothing fell. */
  mean: Float64Array
  /** Standard deviation within the cell, of the sample (n − 1); NaN below two figures. */
  spread: Float64Array
}

/**
 * Sorts figures into a map by the nearest breakpoints. A row beyond half a step outside the edges belongs to no cell:
 * what a table does not cover must not colour its edge.
 * @param x breakpoints, rising. @param y breakpoints, rising.
 */
export function binFigures(
  values: Float64Array,
  along: { x: Float64Array; y: Float64Array },
  x: readonly number[],
  y: readonly number[],
): Binned {
  const cells = x.length * y.length
  const count = new Uint32Array(cells)
  const mean = new Float64Array(cells)
  // Sums of squared distances, kept from row to row: small differences of large sums lose their digits (Welford 1962).
  const squares = new Float64Array(cells)
  for (let row = 0; row < values.length; row++) {
    const value = values[row]!
    const column = nearest(x, along.x[row]!)
    const line = nearest(y, along.y[row]!)
    if (Number.isNaN(value) || column < 0 || line < 0) continue
    const cell = line * x.length + column
    const from = value - mean[cell]!
    mean[cell]! += from / ++count[cell]!
    squares[cell]! += from * (value - mean[cell]!)
  }
  return {
    x,
    y,
    count,
    mean: mean.map((each, cell) => (count[cell] === 0 ? NaN : each)),
    spread: squares.map((each, cell) => (count[cell]! < 2 ? NaN : Math.sqrt(each / (count[cell]! - 1)))),
  }
}

/** The breakpoint nearest to a figure; -1 for none, more than half a step outside included. */
export function nearest(points: readonly number[], figure: number): number {
  if (Number.isNaN(figure)) return -1
  if (points.length === 1) return 0
  let [low, high] = [0, points.length - 1]
  if (figure < points[0]! - (points[1]! - points[0]!) / 2) return -1
  if (figure > points[high]! + (points[high]! - points[high - 1]!) / 2) return -1
  while (high - low > 1) {
    const middle = (low + high) >> 1
    if (points[middle]! <= figure) low = middle
    else high = middle
  }
  return figure - points[low]! <= points[high]! - figure ? low : high
}

/** Breakpoints that suit a channel where no table gives any: round steps, at most `maxPoints` of them. */
export function roundBreakpoints(min: number, max: number, maxPoints: number): number[] {
  if (!(max > min)) return [Number.isFinite(min) ? min : 0]
  const rough = (max - min) / Math.max(1, maxPoints - 1)
  const power = 10 ** Math.floor(Math.log10(rough))
  const step = [1, 2, 2.5, 5, 10].map((each) => each * power).find((each) => each >= rough * (1 - 1e-9))!
  const first = Math.floor(min / step + 0.5)
  const last = Math.max(first, Math.ceil(max / step - 0.5))
  return Array.from({ length: last - first + 1 }, (_, index) =>
    Number(((first + index) * step).toPrecision(12)),
  )
}

/**
 * Maps of one shape as one: counts add up, means and spreads by their shares (Chan, Golub, LeVeque 1979). Null for none.
 * @throws RangeError where the maps have other edges.
 */
export function joinBinned(maps: readonly Binned[]): Binned | null {
  const [first] = maps
  if (!first) return null
  const cells = first.x.length * first.y.length
  const count = new Uint32Array(cells)
  const mean = new Float64Array(cells)
  const squares = new Float64Array(cells)
  for (const map of maps) {
    if (map.count.length !== cells) throw new RangeError('maps of other edges cannot be joined')
    for (let cell = 0; cell < cells; cell++) {
      const more = map.count[cell]!
      if (more === 0) continue
      const had = count[cell]!
      const all = had + more
      const apart = map.mean[cell]! - mean[cell]!
      const within = more < 2 ? 0 : map.spread[cell]! ** 2 * (more - 1)
      squares[cell]! += within + (apart * apart * had * more) / all
      mean[cell]! += (apart * more) / all
      count[cell] = all
    }
  }
  return {
    x: first.x,
    y: first.y,
    count,
    mean: mean.map((each, cell) => (count[cell] === 0 ? NaN : each)),
    spread: squares.map((each, cell) => (count[cell]! < 2 ? NaN : Math.sqrt(each / (count[cell]! - 1)))),
  }
}
