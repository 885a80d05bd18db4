import { carriedBench, type BenchInputs } from '@bench-wake/core/ready'
import { and, desc, eq, ne } from 'drizzle-orm'
import type { Database } from '../db/open'
import { jobBenches, jobs, units } from '../db/schema'
import { jobRow } from './job-rows'

/** What an earlier job's bench was, that this one may take over in one word. */
export interface Carried {
  from: { jobId: string; unitName: string; day: string; sameUnit: boolean }
  bench: BenchInputs
}

/** Of the newest job of the same unit that said something of it, else of another unit of its family. */
export async function carriedTo(db: Database, jobId: string): Promise<Carried | null> {
  const job = await jobRow(db, jobId)
  const [unit] = await db.select().from(units).where(eq(units.id, job.unitId))
  if (!unit) return null
  const rows = await db
    .select({
      id: jobs.id,
      unitId: jobs.unitId,
      unitName: units.name,
      day: jobs.day,
      say: jobBenches.say,
    })
    .from(jobs)
    .innerJoin(jobBenches, eq(jobBenches.jobId, jobs.id))
    .innerJoin(units, eq(units.id, jobs.unitId))
    .where(and(eq(units.familyId, unit.familyId), ne(jobs.id, jobId)))
    .orderBy(desc(jobs.addedAt))
  for (const sameUnit of [true, false])
    for (const row of rows) {
      if ((row.unitId === job.unitId) !== sameUnit) continue
      const bench = carriedBench(row.say, sameUnit)
      if (bench) return { from: { jobId: row.id, unitName: row.unitName, day: row.day, sameUnit }, bench }
    }
  return null
}
