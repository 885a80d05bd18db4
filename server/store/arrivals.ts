import { compareVersions, isPractice } from '@bench-wake/core/unit'
import { componentOf } from '@bench-wake/core/family'
import { heaviestFirst, type Verdict } from '@bench-wake/core/kernel'
import type { Database } from '../db/open'
import { getFamily } from './families'
import { askFits, fitOf } from './fit-of'
import type { ShelfImage } from './load-shelf'
import { closeRequest, listRequests } from './requests'
import type { Shelf } from './shelf'
import { listUnits, type KnownUnit } from './units'

/** What an image is for one of the units known here. */
export interface UnitFit {
  unitId: string
  name: string
  place: string
  verdict: Verdict
  /** The heaviest finding. */
  says: string
}

/** Every unit of the image's family, what fits first. */
export async function fitsOfImage(db: Database, shelf: Shelf, image: ShelfImage): Promise<UnitFit[]> {
  const units = (await listUnits(db)).filter(
    ({ id, familyId }) => familyId === image.identity?.familyId && !isPractice(id),
  )
  const order: Verdict[] = ['go', 'note', 'hold', 'unknown', 'stop']
  const fits = await Promise.all(units.map((unit) => fitOfUnit(db, shelf, unit, image)))
  return fits.sort((a, b) => order.indexOf(a.verdict) - order.indexOf(b.verdict))
}

async function fitOfUnit(db: Database, shelf: Shelf, unit: KnownUnit, image: ShelfImage): Promise<UnitFit> {
  const { verdict, findings } = fitOf(await askFits(db, shelf, unit), image)
  const says = heaviestFirst(findings)[0]?.says ?? ''
  return { unitId: unit.id, name: unit.name, place: unit.place, verdict, says }
}

/** A request that an image has settled by coming. */
export interface SettledRequest {
  id: string
  unitId: string
  unitName: string
  asked: string
  imageId: string
}

/**
 * PRACTICE B8, L1: what was asked of a supplier for a unit is settled when an image comes that may go onto it and is newer
 * than what it has. Whoever sees that it is something else opens the request again.
 */
export async function settleRequests(
  db: Database,
  shelf: Shelf,
  images: readonly ShelfImage[],
): Promise<SettledRequest[]> {
  const open = (await listRequests(db)).filter(({ closedAt }) => closedAt === null)
  if (open.length === 0) return []
  const units = new Map((await listUnits(db)).map((unit) => [unit.id, unit]))
  const settled: SettledRequest[] = []
  for (const { id, unitId, asked } of open) {
    const unit = units.get(unitId)
    const own = images.filter(({ identity }) => unit && identity?.familyId === unit.familyId)
    for (const image of own) {
      if (!unit || !(await isNewer(db, unit, image))) continue
      const { verdict } = await fitOfUnit(db, shelf, unit, image)
      if (verdict === 'stop' || verdict === 'unknown') continue
      await closeRequest(db, id, image.id)
      settled.push({ id, unitId, unitName: unit.name, asked, imageId: image.id })
      break
    }
  }
  return settled
}

/** Whether an image is newer than what the unit has; an image without a version, or a unit that was never read, tells nothing. */
async function isNewer(db: Database, unit: KnownUnit, { identity }: ShelfImage): Promise<boolean> {
  const family = await getFamily(db, unit.familyId)
  const { componentId, version } = identity ?? {}
  if (componentId === undefined || version === undefined) return false
  const has = unit.facts.versions[componentId]
  return (
    has !== undefined &&
    compareVersions(componentOf(family, componentId).version.scheme, version, has) === 'newer'
  )
}
