/** One measured figure. `holds` says whether it is as wanted; a bench prints that and fails nobody. */
export interface Figure {
  name: string
  value: number
  unit: string
  /** What it is measured against, in the same unit, where there is something. */
  reference?: number
  /** Value against reference, the way `wanted` reads. */
  ratio?: number
  wanted?: string
  holds?: boolean
}

/** A benchmark: its name is what `--only` looks at. */
export interface Bench {
  name: string
  measure(): Promise<Figure[]>
}

/** Median of some runs, after one that is not counted. `before` runs ahead of each, uncounted. */
export async function medianMs(
  runs: number,
  act: () => unknown,
  before: () => void = () => {},
): Promise<number> {
  const times: number[] = []
  for (let run = 0; run <= runs; run++) {
    before()
    const from = performance.now()
    await act()
    if (run > 0) times.push(performance.now() - from)
  }
  return times.sort((a, b) => a - b)[Math.floor(times.length / 2)]!
}
