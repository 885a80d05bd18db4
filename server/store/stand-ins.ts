import { standInOf, type FogSignalForm, type StandIn } from '@bench-wake/standins'
import { eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { standIns } from '../db/schema'
import { getFamily, whereMissing } from './families'

type Faults = NonNullable<FogSignalForm['faults']>

/** The stand-ins on this bench, with the memory they had when they were last used. */
export async function loadStandIns(
  db: Database,
  faults: ReadonlyMap<string, Faults> = new Map(),
): Promise<Map<string, StandIn>> {
  const rows = await db.select().from(standIns).orderBy(standIns.name)
  const bench = new Map<string, StandIn>()
  for (const { id, familyId, name, hardware, serial, flash, usedAh, inBootloader, linkId, lines } of rows) {
    // Without its profile nobody knows what it would say; the profile may come back.
    const family = await getFamily(db, familyId).catch(whereMissing)
    if (!family) continue
    const state = { flash: new Uint8Array(flash), usedAh, inBootloader, lines }
    bench.set(
      id,
      standInOf({ id, name, family, hardware, serial, state }, linkId ?? undefined, faults.get(id)),
    )
  }
  return bench
}

/** Keeps a stand-in's memory, so that a unit left half written is half written tomorrow. */
export async function keepStandIn(db: Database, unit: StandIn): Promise<void> {
  const { flash, usedAh, inBootloader, lines = {} } = unit.state()
  await db
    .update(standIns)
    .set({ flash: Buffer.from(flash), usedAh, inBootloader, lines })
    .where(eq(standIns.id, unit.id))
}
