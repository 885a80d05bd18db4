import { drivenLink, type Family } from '@bench-wake/core/family'
import type { Medium } from '@bench-wake/core/image'
import { cardUnit, standInOf, type CardUnit, type StandIn, type StandInFaults } from '@bench-wake/standins'
import { eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { standIns } from '../db/schema'
import { getFamily, whereMissing } from './families'

/** The stand-ins on this bench, with the memory they had when they were last used. */
export async function loadStandIns(
  db: Database,
  faults: ReadonlyMap<string, StandInFaults> = new Map(),
): Promise<{ units: Map<string, StandIn>; cards: Map<string, CardUnit> }> {
  const rows = await db.select().from(standIns).orderBy(standIns.name)
  const units = new Map<string, StandIn>()
  const cards = new Map<string, CardUnit>()
  for (const {
    id,
    familyId,
    name,
    hardware,
    serial,
    flash,
    usedAh,
    inBootloader,
    linkId,
    lines,
    battery,
  } of rows) {
    // Without its profile nobody knows what it would say; the profile may come back.
    const family = await getFamily(db, familyId).catch(whereMissing)
    if (!family) continue
    const state = { flash: new Uint8Array(flash), usedAh, inBootloader, lines }
    const form = { id, name, family, hardware, serial, state, ...(battery && { battery }) }
    const medium = mediumOf(family)
    if (drivenLink(family))
      units.set(
        id,
        standInOf({ ...form, ...(faults.has(id) && { faults: faults.get(id)! }) }, linkId ?? undefined),
      )
    else if (medium) cards.set(id, cardUnit({ ...form, medium }))
  }
  return { units, cards }
}

/** The card or stick that a family's units take in by themselves; null where none is described so far. */
export const mediumOf = ({ links }: Family): Medium | null =>
  links.find(({ medium }) => medium?.update)?.medium ?? null

/** Keeps a stand-in's memory, so that a unit left half written is half written tomorrow. */
export async function keepStandIn(db: Database, unit: Pick<StandIn, 'id' | 'state'>): Promise<void> {
  const { flash, usedAh, inBootloader, lines = {} } = unit.state()
  await db
    .update(standIns)
    .set({ flash: Buffer.from(flash), usedAh, inBootloader, lines })
    .where(eq(standIns.id, unit.id))
}
