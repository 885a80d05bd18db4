import { learnTimes, type Learned } from '@bench-wake/core/run'
import type { Database } from '../db/open'
import { headsOfFamily } from './run-summaries'
import { knownRunsAt } from './runs'

/** Times change with firmware and adapters: only the newest runs of a family tell. */
const newestRuns = 12

const kept = new WeakMap<Database, Map<string, { mark: string; learned: Learned }>>()

/**
 * What the newest runs of a family tell of its times; folded anew only when one of them has grown.
 * @param linkId where the family has several links: the one whose times are asked for.
 */
export async function learnedOf(db: Database, familyId: string, linkId?: string): Promise<Learned> {
  const newest = await headsOfFamily(db, familyId, newestRuns)
  if (newest.length === 0) return learnTimes([])
  const mark = newest.map(({ hash }) => hash).join()
  const families = kept.get(db) ?? new Map<string, { mark: string; learned: Learned }>()
  kept.set(db, families)
  const place = `${familyId} ${linkId ?? ''}`
  const known = families.get(place)
  if (known?.mark === mark) return known.learned
  const { runs, complete } = await knownRunsAt(db, newest)
  const learned = learnTimes(
    runs.map(({ state }) => state),
    linkId,
  )
  if (complete) families.set(place, { mark, learned })
  return learned
}
