import { conditionOf, piecesOf, writes, type RunState, type UnitCondition } from '../run'

/**
 * Runs whose read-outs hold what the unit came with (PRACTICE G1): of each component the first that kept one, and only
 * where no run before it had written that component here. Whatever is read later is as found.
 * @param runs of one unit, of whatever jobs, oldest first.
 */
export function originalsOf(runs: readonly RunState[]): Set<string> {
  const originals = new Set<string>()
  const settled = new Set<string>()
  for (const run of runs)
    for (const [index, { component }] of piecesOf(run.facts).entries()) {
      if (settled.has(component.id)) continue
      if (keptOf(run, component.id)) {
        originals.add(run.facts.runId)
        settled.add(component.id)
      } else if (hasChanged(run, index)) settled.add(component.id)
    }
  return originals
}

/** True while nothing of a component was kept or written here: what is read out of it now is what the unit came with. */
export function firstReadOut(runs: readonly RunState[], componentId: string): boolean {
  return !runs.some((run) =>
    piecesOf(run.facts).some(
      ({ component: { id } }, index) => id === componentId && (keptOf(run, id) || hasChanged(run, index)),
    ),
  )
}

/** Whether a run kept a reading of a component; where it is about one alone, its readings name none. */
const keptOf = (run: RunState, componentId: string): boolean =>
  run.backups.some(
    ({ imageId, component = componentId }) => imageId !== undefined && component === componentId,
  )

/** True where a run, or a leg of it, came to the erase or write of a component. */
const hasChanged = (run: RunState, piece: number): boolean =>
  writes(run.facts) &&
  !['as-it-was', 'in-bootloader'].includes(conditionOf(run)) &&
  (run.pieces.length === 1 || run.pieces[piece] !== 'untouched' || startedNew.has(conditionOf(run)))
/** Conditions after which every component of the run was written. */
const startedNew: ReadonlySet<UnitCondition> = new Set(['new-firmware-not-proved', 'proved'])

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
