import { firstReadOut, originalsOf } from '@bench-wake/core/job'
import type { KnownInside } from '@bench-wake/core/ready'
import { piecesOf, type RunState } from '@bench-wake/core/run'
import { whereMissing } from './families'
import type { ShelfImage } from './load-shelf'
import type { Shelf } from './shelf'
import type { KnownUnit } from './units'

/** What this bench knows of the bytes in a unit, by component. */
export interface Inside {
  /** Images that this bench wrote and proved, of each component that still says the version it was. */
  written: Map<string, ShelfImage>
  /** Runs of the unit, of whatever jobs, oldest first. */
  runs: readonly RunState[]
}

/** @param states runs of the unit, newest first. */
export async function insideOf(shelf: Shelf, unit: KnownUnit, states: readonly RunState[]): Promise<Inside> {
  const newest = new Map<string, RunState>()
  for (const state of states) {
    if (state.facts.task !== undefined) continue
    for (const { component } of piecesOf(state.facts))
      if (!newest.has(component.id)) newest.set(component.id, state)
  }
  const written = new Map<string, ShelfImage>()
  for (const [component, { outcome, facts }] of newest) {
    const { version, id } = piecesOf(facts).find((piece) => piece.component.id === component)?.image ?? {}
    if (outcome !== 'proved' || !id || version === undefined || unit.facts.versions[component] !== version)
      continue
    const image = await shelf.image(id).catch(whereMissing)
    if (image) written.set(component, image)
  }
  return { written, runs: states.toReversed() }
}

export const digestsOf = ({ written }: Inside): Record<string, string> =>
  Object.fromEntries([...written].map(([component, { contentSha256 }]) => [component, contentSha256]))

/** What is known of one component: what is in it, and whether what it came with is kept. */
export function knownOf({ written, runs }: Inside, componentId: string): KnownInside & { first: boolean } {
  const originals = originalsOf(runs)
  const original = runs
    .filter(({ facts }) => originals.has(facts.runId))
    .flatMap(({ facts, backups }) =>
      backups.filter(({ component = facts.component.id }) => component === componentId),
    )[0]
  return {
    inside: written.get(componentId)?.name ?? null,
    original: original?.name ?? null,
    first: firstReadOut(runs, componentId),
  }
}
