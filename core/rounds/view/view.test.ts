import { execFileSync } from 'node:child_process'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  alignBy,
  binFigures,
  columnEdges,
  columnsOf,
  Extremes,
  interpolate,
  joinBinned,
  nearest,
  panned,
  roundBreakpoints,
  rowAt,
  within,
  zoomed,
} from '.'

describe('lowest and highest of many rows', () => {
  const brute = (values: Float64Array, from: number, to: number) => {
    const figures = [...values.slice(from, to)].filter((each) => !Number.isNaN(each))
    return [Math.min(...figures), Math.max(...figures)]
  }
  it('are those of looking at every row', () => {
    const figure = fc.oneof(fc.double({ noNaN: true, min: -1e6, max: 1e6 }), fc.constant(NaN))
    fc.assert(
      fc.property(
        fc.array(figure, { minLength: 1, maxLength: 3000 }),
        fc.nat(3000),
        fc.nat(3000),
        (figures, a, b) => {
          const values = Float64Array.from(figures)
          const [from, to] = [Math.min(a, b, values.length), Math.min(Math.max(a, b), values.length)]
          expect(new Extremes(values).within(from, to)).toEqual(brute(values, from, to))
        },
      ),
      { numRuns: 150 },
    )
  })
  it('hold over several sizes of block', () => {
    const values = Float64Array.from({ length: 70_000 }, (_, row) => Math.sin(row * row))
    const extremes = new Extremes(values)
    for (const [from, to] of [
      [0, 70_000],
      [1, 69_999],
      [63, 65],
      [64, 128],
      [1000, 40_001],
      [1023, 66_561],
    ] as const)
      expect(extremes.within(from, to)).toEqual(brute(values, from, to))
  })
  it('keep one high row of a hundred thousand in its column', () => {
    const values = new Float64Array(100_000)
    values[54_321] = 9
    const seconds = Float64Array.from({ length: 100_000 }, (_, row) => row / 100)
    const drawn = columnsOf(new Extremes(values), columnEdges(seconds, 0, 1000, 500))
    const high = [...drawn.keys()].filter((index) => drawn[index] === 9)
    expect(high).toEqual([2 * Math.floor(543.21 / 2) + 1])
  })
  it('every row is in exactly one column, and an empty column shows nothing', () => {
    const seconds = Float64Array.of(0, 1, 2, 7, 9, 10)
    const drawn = columnsOf(new Extremes(Float64Array.of(1, 2, 3, 4, 5, 6)), columnEdges(seconds, 0, 10, 5))
    expect([...drawn]).toEqual([1, 2, 3, 3, NaN, NaN, 4, 4, 5, 6])
    expect([0, 1, 1.5, 10, 11].map((time) => rowAt(seconds, time))).toEqual([0, 1, 2, 5, 6])
  })
})

describe('a map of cells', () => {
  it('counts, means and spreads as a table worked by hand', () => {
    // Cell (x 100, y 10): 2, 4, 9 → mean 5, deviations −3 −1 4, squares 26, / 2 = 13.
    const map = binFigures(
      Float64Array.of(2, 4, 9, 1, NaN, 7),
      { x: Float64Array.of(90, 110, 149, 151, 100, 500), y: Float64Array.of(10, 12, 8, 20, 10, 10) },
      [100, 200],
      [10, 20],
    )
    expect([...map.count]).toEqual([3, 0, 0, 1])
    expect(map.mean[0]).toBe(5)
    expect(map.spread[0]).toBeCloseTo(Math.sqrt(13), 12)
    expect([map.mean[1], map.mean[3], map.spread[3]]).toEqual([NaN, 1, NaN])
  })
  it('has the mean and deviation of another library, far from nothing too', () => {
    const figures = Array.from({ length: 500 }, (_, row) => 1e6 + Math.sin(row) * 0.01)
    const along = new Float64Array(500)
    const map = binFigures(Float64Array.from(figures), { x: along, y: along }, [0], [0])
    // Python's statistics module computes in exact fractions.
    const said = execFileSync(
      'python3',
      [
        '-c',
        'import json,statistics,sys;v=json.load(sys.stdin);print(json.dumps([statistics.mean(v),statistics.stdev(v)]))',
      ],
      { input: JSON.stringify(figures) },
    )
    const [mean, deviation] = JSON.parse(String(said)) as [number, number]
    expect(map.mean[0]).toBeCloseTo(mean, 8)
    expect(map.spread[0]).toBeCloseTo(deviation, 8)
  })
  it('joined from parts is the map of the whole', () => {
    const figures = Float64Array.from({ length: 300 }, (_, row) => Math.sin(row) * 50)
    const along = figures.map((_, row) => row % 7)
    const part = (from: number, to: number) =>
      binFigures(
        figures.subarray(from, to),
        { x: along.subarray(from, to), y: along.subarray(from, to) },
        [0, 2, 4, 6],
        [0, 3, 6],
      )
    const whole = part(0, 300)
    const joined = joinBinned([part(0, 1), part(1, 40), part(40, 40), part(40, 300)])!
    expect([...joined.count]).toEqual([...whole.count])
    whole.count.forEach((count, cell) => {
      if (count === 0) return expect(joined.mean[cell]).toBeNaN()
      expect(joined.mean[cell]).toBeCloseTo(whole.mean[cell]!, 9)
      if (count > 1) expect(joined.spread[cell]).toBeCloseTo(whole.spread[cell]!, 9)
    })
    expect(joinBinned([])).toBeNull()
    expect(() => joinBinned([whole, binFigures(figures, { x: along, y: along }, [0], [0])])).toThrow(
      RangeError,
    )
  })
  it('takes the nearest breakpoint, and none beyond half a step outside', () => {
    const points = [0, 10, 30]
    expect([-5, -5.01, 0, 4.9, 5, 5.1, 20, 20.1, 40, 40.1, NaN].map((each) => nearest(points, each))).toEqual(
      [0, -1, 0, 0, 0, 1, 1, 2, 2, -1, -1],
    )
  })
  it.each([
    [0, 3000, 7, [0, 500, 1000, 1500, 2000, 2500, 3000]],
    [780, 3010, 10, [750, 1000, 1250, 1500, 1750, 2000, 2250, 2500, 2750, 3000]],
    [0, 1, 6, [0, 0.2, 0.4, 0.6, 0.8, 1]],
    [5, 5, 8, [5]],
    [NaN, NaN, 8, [0]],
  ])('round breakpoints from %d to %d', (min, max, most, points) => {
    expect(roundBreakpoints(min, max, most)).toEqual(points)
  })
  it('every figure between has a cell', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -1e4, max: 1e4, noNaN: true }),
        fc.double({ min: 0.01, max: 1e4, noNaN: true }),
        fc.integer({ min: 2, max: 20 }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (min, width, most, share) => {
          const points = roundBreakpoints(min, min + width, most)
          expect(nearest(points, min + width * share)).toBeGreaterThanOrEqual(0)
          expect(points.length).toBeLessThanOrEqual(most + 1)
        },
      ),
    )
  })
})

describe('between breakpoints', () => {
  const table = { x: [0, 10], y: [0, 100], cells: Float64Array.of(0, 10, 20, 50) }
  it.each([
    [0, 0, 0],
    [10, 100, 50],
    [5, 0, 5],
    // (0·½ + 10·½)·¾ + (20·½ + 50·½)·¼ by hand.
    [5, 25, 12.5],
    [-5, -5, 0],
    [99, 999, 50],
    [10, 50, 30],
  ])('at %d, %d reads %d', (x, y, figure) => expect(interpolate(table, x, y)).toBe(figure))
  it('one row, one figure', () => {
    expect(interpolate({ x: [0, 2, 4], y: [0], cells: Float64Array.of(1, 3, 9) }, 3, 77)).toBe(6)
    expect(interpolate({ x: [0], y: [0], cells: Float64Array.of(8) }, 3, 77)).toBe(8)
  })
})

describe('two rounds side by side', () => {
  const log = (pedal: number[]) => ({
    seconds: Float64Array.from(pedal, (_, row) => row),
    channels: [{ name: 'Pedal', unit: '%', values: Float64Array.from(pedal) }],
    bytes: 1,
    preamble: [],
    findings: [],
  })
  it('are moved to where both first held a condition longest', () => {
    const first = log([0, 0, 95, 0, 95, 95, 95, 0])
    const second = log([95, 95, 95, 0, 0])
    expect(alignBy(first, second, { channel: 'pedal', min: 90 })).toBe(4)
    expect(alignBy(first, log([1, 2, 3]), { channel: 'Pedal', min: 90 })).toBeNull()
    expect(alignBy(first, second, { channel: 'Speed', min: 90 })).toBeNull()
  })
})

describe('the stretch that is looked at', () => {
  it('never leaves the log, and is never shorter than two rows', () => {
    expect(within({ from: -5, to: 5 }, 60)).toEqual({ from: 0, to: 10 })
    expect(within({ from: 55, to: 65 }, 60)).toEqual({ from: 50, to: 60 })
    expect(within({ from: 10, to: 10 }, 60)).toEqual({ from: 10, to: 10.02 })
    expect(within({ from: 0, to: 500 }, 60)).toEqual({ from: 0, to: 60 })
    expect(within({ from: 0, to: 1 }, 0)).toEqual({ from: 0, to: 0.02 })
  })
  it('comes closer around a time that stays where it is', () => {
    // 20 s of 0 to 40 lie in the middle; a quarter of the way stays a quarter of the way.
    expect(zoomed({ from: 0, to: 40 }, 0.5, 60)).toEqual({ from: 10, to: 30 })
    expect(zoomed({ from: 0, to: 40 }, 0.5, 60, 10)).toEqual({ from: 5, to: 25 })
    expect(zoomed({ from: 10, to: 30 }, 4, 60)).toEqual({ from: 0, to: 60 })
  })
  it('moves by shares of its width, and stops at both ends', () => {
    expect(panned({ from: 10, to: 20 }, 0.5, 60)).toEqual({ from: 15, to: 25 })
    expect(panned({ from: 10, to: 20 }, -2, 60)).toEqual({ from: 0, to: 10 })
    expect(panned({ from: 10, to: 20 }, 9, 60)).toEqual({ from: 50, to: 60 })
  })
})
