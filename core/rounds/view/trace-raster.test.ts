import { describe, expect, it } from 'vitest'
import { drawTrace, isDense, type TraceLane } from '.'

const ink = 0xff00ff00
/** A picture as text: `#` where it is inked. */
function picture(width: number, height: number, lane: TraceLane, extremes: (number | null)[], thickness = 1) {
  const pixels = new Uint32Array(width * height)
  const figures = Float64Array.from(extremes, (each) => each ?? NaN)
  drawTrace({ pixels, width }, lane, figures, ink, thickness)
  return Array.from({ length: height }, (_, row) =>
    [...pixels.subarray(row * width, (row + 1) * width)].map((pixel) => (pixel === ink ? '#' : '.')).join(''),
  )
}
const lane: TraceLane = { top: 0, end: 5, min: 0, max: 4 }

// Worked by hand: five rows for the figures 4 to 0, from above.
describe('a channel as pixels', () => {
  it('is one stretch from the highest to the lowest figure of each column', () => {
    expect(picture(3, 5, lane, [0, 4, 1, 3, 2, 2])).toEqual(['#..', '##.', '###', '##.', '#..'])
  })
  it('has no holes: a column reaches on to the one before it, upwards and downwards', () => {
    expect(picture(2, 5, lane, [0, 0, 4, 4])).toEqual(['.#', '.#', '.#', '.#', '##'])
    expect(picture(2, 5, lane, [4, 4, 0, 0])).toEqual(['##', '.#', '.#', '.#', '.#'])
  })
  it('goes over a column without a figure, and leaves it empty', () => {
    expect(picture(3, 5, lane, [4, 4, null, null, 2, 2])).toEqual(['#.#', '..#', '..#', '...', '...'])
    expect(picture(2, 5, lane, [null, null, null, null])).toEqual(['..', '..', '..', '..', '..'])
  })
  it('is as thick as asked for, and stays within its lane, whatever the figures', () => {
    expect(picture(1, 5, lane, [2, 2], 2)).toEqual(['.', '.', '#', '#', '.'])
    expect(picture(1, 5, lane, [4, 4], 2)).toEqual(['#', '#', '.', '.', '.'])
    expect(picture(1, 7, { ...lane, top: 1, end: 6 }, [-9, 99])).toEqual(['.', '#', '#', '#', '#', '#', '.'])
    expect(picture(1, 7, { ...lane, top: 1, end: 6 }, [-9, -9], 2)).toEqual([
      '.',
      '.',
      '.',
      '.',
      '#',
      '#',
      '.',
    ])
  })
  it('fills as many pixels as a column has', () => {
    expect(picture(4, 5, lane, [4, 4, 0, 0])).toEqual(['####', '..##', '..##', '..##', '..##'])
  })
  it('of one figure alone stands at the lower edge', () => {
    expect(picture(1, 5, { ...lane, max: 0 }, [0, 0])).toEqual(['.', '.', '.', '.', '#'])
  })
})

describe('dense enough for it', () => {
  it.each([
    [[1, 1, 1, 1, 1, 1, 1, 1, NaN, NaN], true],
    [[1, 1, 1, 1, 1, 1, NaN, NaN, NaN, NaN], false],
    [[1, 1, 1, 1, 1, 1, 1, 1, NaN, NaN, NaN, NaN], true],
    [[], false],
  ])('%j: %s', (extremes, dense) => expect(isDense(Float64Array.from(extremes))).toBe(dense))
})
