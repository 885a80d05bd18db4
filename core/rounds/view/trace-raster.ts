/*
 * A channel over time as pixels: for every column one upright stretch from its highest to its lowest figure. A line of a
 * thousand such stretches that a canvas strokes takes many times as long as the pixels themselves.
 */

/** A picture of pixels, each one number of 32 bits, row by row. */
export interface Raster {
  pixels: Uint32Array
  width: number
}

/** Where a channel is drawn, in pixels, and which figures its edges are. */
export interface TraceLane {
  top: number
  /** The first row that is not its own any more. */
  end: number
  /** Figures at its lower and upper edge. */
  min: number
  max: number
}

/** True where figures stand so close that each column has its own; fewer are joined by slanted lines. */
export function isDense(extremes: Float64Array): boolean {
  let own = 0
  for (let at = 0; at < extremes.length; at += 2) if (!Number.isNaN(extremes[at])) own++
  return own * 2 > 0.6 * extremes.length
}

/**
 * Draws a channel: each column from its highest to its lowest figure, and on to the column before it, so that the line has no
 * holes.
 * @param extremes lowest and highest figure of each column in turn; NaN for one without any.
 * @param thickness rows that a level line has at least.
 */
export function drawTrace(
  { pixels, width }: Raster,
  { top, end, min, max }: TraceLane,
  extremes: Float64Array,
  ink: number,
  thickness: number,
): void {
  const columns = extremes.length / 2
  const span = max > min ? max - min : 1
  const rows = end - top - thickness
  const rowOf = (figure: number) =>
    Math.min(end - thickness, Math.max(top, Math.round(top + rows - ((figure - min) / span) * rows)))
  let before: { high: number; low: number } | null = null
  for (let column = 0; column < columns; column++) {
    const lowest = extremes[column * 2]!
    if (Number.isNaN(lowest)) continue
    const own = { high: rowOf(extremes[column * 2 + 1]!), low: rowOf(lowest) }
    let { high, low } = own
    if (before && before.low < high) high = before.low
    if (before && before.high > low) low = before.high
    before = own
    const left = Math.floor((column * width) / columns)
    const right = Math.max(left + 1, Math.floor(((column + 1) * width) / columns))
    // A call for each pixel takes ten times as long as the pixel.
    const last = (low + thickness - 1) * width
    for (let across = left; across < right; across++)
      for (let at = high * width; at <= last; at += width) pixels[at + across] = ink
  }
}
