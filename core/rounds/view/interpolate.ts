import type { TableValues } from '../definition'

/**
 * What a controller takes out of a table between its breakpoints: straight lines along both edges (bilinear), and the
 * edge itself beyond it.
 */
export function interpolate({ x, y, cells }: TableValues, atX: number, atY: number): number {
  const [column, alongX] = between(x, atX)
  const [row, alongY] = between(y, atY)
  const cell = (line: number, position: number) =>
    cells[Math.min(line, y.length - 1) * x.length + Math.min(position, x.length - 1)]!
  const low = cell(row, column) * (1 - alongX) + cell(row, column + 1) * alongX
  const high = cell(row + 1, column) * (1 - alongX) + cell(row + 1, column + 1) * alongX
  return low * (1 - alongY) + high * alongY
}

/** The breakpoint at or below a figure, and the share of the way to the next one. */
function between(points: readonly number[], figure: number): [index: number, share: number] {
  const last = points.length - 1
  if (figure <= points[0]!) return [0, 0]
  if (figure >= points[last]!) return [last, 0]
  let [low, high] = [0, last]
  while (high - low > 1) {
    const middle = (low + high) >> 1
    if (points[middle]! <= figure) low = middle
    else high = middle
  }
  return [low, (figure - points[low]!) / (points[high]! - points[low]!)]
}
