import type { BenchMeter } from '@bench-wake/core/link'
import { desc } from 'drizzle-orm'
import type { Database } from '../db/open'
import { benchMeters } from '../db/schema'

/** The meter of this bench; null where none has the job. */
export async function getMeter(db: Database): Promise<BenchMeter | null> {
  const [row] = await db.select().from(benchMeters).orderBy(desc(benchMeters.id)).limit(1)
  return row?.document ?? null
}

/** Gives a meter the job, or takes it away from whichever has it. */
export async function setMeter(db: Database, document: BenchMeter | null): Promise<void> {
  await db.insert(benchMeters).values({ document, at: Date.now() })
}
