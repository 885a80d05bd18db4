import { tellReadOuts } from '@bench-wake/core/job'
import { heaviestFirst, type Verdict } from '@bench-wake/core/kernel'
import type { Database } from '../db/open'
import { whereMissing } from './families'
import { askFits, fitOf } from './fit-of'
import { listBackups, type KeptBackup, type ListedRun } from './runs'
import type { Shelf } from './shelf'
import type { KnownUnit } from './units'

/** What was read out of a unit and kept, once by its digest. */
export interface ReadOut extends KeptBackup {
  /** True for what the unit came with; else it was read after a write of this bench. */
  original: boolean
  /** Whether it may go back onto the unit as it is now, and what speaks against it. */
  restore: { verdict: Verdict; says: string | null }
}

/** Newest first. */
export async function readOutsOf(
  { db, shelf }: { db: Database; shelf: Shelf },
  unit: KnownUnit,
  runs: readonly ListedRun[],
): Promise<ReadOut[]> {
  const told = tellReadOuts(await listBackups(db, unit.id), runs.map(({ state }) => state).toReversed())
  if (told.length === 0) return []
  const asked = await askFits(db, shelf, unit)
  return Promise.all(
    told.map(async (each): Promise<ReadOut> => {
      const image = await shelf.image(each.imageId).catch(whereMissing)
      if (!image)
        return { ...each, restore: { verdict: 'unknown', says: 'It is not on the shelf any more.' } }
      const { verdict, findings } = fitOf(asked, image)
      const [first] = heaviestFirst(findings)
      return { ...each, restore: { verdict, says: verdict === 'go' ? null : (first?.says ?? null) } }
    }),
  )
}
