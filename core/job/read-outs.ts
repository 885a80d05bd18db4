import { conditionOf, writes, type RunState } from '../run'

/**
 * Runs whose read-outs hold what the unit came with (PRACTICE G1): of each component the first that kept one, and only
 * where no run before it had written that component here. Whatever is read later is as found.
 * @param runs of one unit, of whatever jobs, oldest first.
 */
export function originalsOf(runs: readonly RunState[]): Set<string> {
  const originals = new Set<string>()
  const settled = new Set<string>()
  for (const run of runs) {
    const { id } = run.facts.component
    if (settled.has(id)) continue
    if (run.backups.some(({ imageId }) => imageId !== undefined)) {
      originals.add(run.facts.runId)
      settled.add(id)
    } else if (hasChanged(run)) settled.add(id)
  }
  return originals
}

/** True while nothing of a component was kept or written here: what is read out of it now is what the unit came with. */
export function firstReadOut(runs: readonly RunState[], componentId: string): boolean {
  return !runs.some(
    (run) =>
      run.facts.component.id === componentId &&
      (run.backups.some(({ imageId }) => imageId !== undefined) || hasChanged(run)),
  )
}

/** True where a run, or a leg of it, came to its erase or write. */
const hasChanged = (run: RunState): boolean =>
  writes(run.facts) && !['as-it-was', 'in-bootloader'].includes(conditionOf(run))

/** One reading of a unit's memory that was kept. */
interface Kept {
  runId: string
  address: number
  sha256: string
}

/**
 * Each reading once by its digest, in the order given, with what it is. The same bytes read again are the same thing.
 * @param kept newest first.
 * @param runs as for `originalsOf`.
 */
export function tellReadOuts<K extends Kept>(
  kept: readonly K[],
  runs: readonly RunState[],
): (K & { original: boolean })[] {
  const originals = originalsOf(runs)
  const same = (a: Kept, b: Kept) => a.sha256 === b.sha256 && a.address === b.address
  const first = kept.filter((each, index) => !kept.slice(index + 1).some((older) => same(each, older)))
  return first.map((each) => ({ ...each, original: originals.has(each.runId) }))
}
