import type { Family } from '@bench-wake/core/family'
import { hopMs, writes, type RunState } from '@bench-wake/core/run'
import { judgeWayLeft, leftBy, type LeftInUnit } from '@bench-wake/core/job'
import type { Fit } from '@bench-wake/core/fit'
import type { Database } from '../db/open'
import { caseImages, offeredTo } from './case-images'
import { getFamily } from './families'
import { getWorkshopRules, type KeptPolicy } from './workshop-rules'
import { digestsOf, insideOf, type Inside } from './inside'
import type { ShelfImage } from './load-shelf'
import { listRunsOf, type ListedRun } from './runs'
import type { Shelf } from './shelf'
import type { KnownUnit } from './units'

/** All that the fit of an image on one unit rests on, beside the image. */
export interface FitAsked {
  family: Family
  /** With the digests of what this bench wrote into it: the same version with other bytes is another image. */
  unit: KnownUnit
  entries: Awaited<ReturnType<Shelf['entriesOf']>>
  workshopRules: KeptPolicy
  /** What the unit's last run left in it. */
  left: readonly LeftInUnit[]
}

/** What is known for judging images on a unit, as its page, its runs and the shelf stand now. */
export async function askFits(db: Database, shelf: Shelf, unit: KnownUnit): Promise<FitAsked> {
  const [family, workshopRules, runs, all] = await Promise.all([
    getFamily(db, unit.familyId),
    getWorkshopRules(db),
    listRunsOf(db, unit.id),
    shelf.entriesOf(unit.familyId),
  ])
  const entries = offeredTo(await caseImages(db), all, unit.id)
  const inside = await insideOf(
    shelf,
    unit,
    runs.map(({ state }) => state),
  )
  return { family, unit: withDigests(unit, inside), entries, workshopRules, left: leftBy(newestWrite(runs)) }
}

/** The unit with the digests of what was written into it here; those that it says itself go before. */
export const withDigests = (unit: KnownUnit, inside: Inside): KnownUnit =>
  inside.written.size === 0
    ? unit
    : { ...unit, facts: { ...unit.facts, digests: { ...digestsOf(inside), ...unit.facts.digests } } }

/** The newest run that was to write; what only looked since then has left nothing. */
export const newestWrite = (runs: readonly ListedRun[]): RunState | null =>
  runs.find(({ state }) => writes(state.facts))?.state ?? null

/** Fit of an image on the shelf, for a unit, with the way there. */
export function fitOf(
  { family, unit, entries, workshopRules, left }: FitAsked,
  wanted: ShelfImage,
  componentId?: string,
): Fit {
  return judgeWayLeft(
    {
      family,
      unit: unit.facts,
      answers: unit.answers,
      shelf: entries,
      wanted,
      workshopRules,
      hopMs: (component, { segments }) => hopMs(family, component, segments),
    },
    componentId,
    left,
  )
}
