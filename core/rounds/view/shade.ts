/** How strongly a cell of a map is coloured, -1 to 1: by its share of the largest distance from the middle. */
export function shadeOf(figure: number | null, { middle, reach }: { middle: number; reach: number }): number {
  if (figure === null || Number.isNaN(figure) || reach <= 0) return 0
  return Math.max(-1, Math.min(1, (figure - middle) / reach))
}

/** Middle and reach for a map that is coloured by its own range; around zero where it has both signs or is an error. */
export function shadeRange(
  figures: readonly (number | null)[],
  aroundZero: boolean,
): { middle: number; reach: number } {
  let [min, max] = [Infinity, -Infinity]
  for (const figure of figures) {
    if (figure === null || Number.isNaN(figure)) continue
    min = Math.min(min, figure)
    max = Math.max(max, figure)
  }
  if (min > max) return { middle: 0, reach: 0 }
  if (aroundZero) return { middle: 0, reach: Math.max(Math.abs(min), Math.abs(max)) }
  return { middle: (min + max) / 2, reach: (max - min) / 2 }
}
