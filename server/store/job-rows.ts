import { componentOf } from '@bench-wake/core/family'
import type { ReasonKind, Symptom } from '@bench-wake/core/fit'
import { Problem } from '@bench-wake/core/kernel'
import type { BenchInputs } from '@bench-wake/core/ready'
import type { Task } from '@bench-wake/core/run'
import { eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { jobBenches, jobs } from '../db/schema'
import { newId } from '../new-id'
import { notFound } from '../problem'
import { getFamily } from './families'
import type { Shelf } from './shelf'
import { getUnit } from './units'

/* Jobs as they are kept; what they rest on is judged in jobs.ts. */

export type JobRow = typeof jobs.$inferSelect

export interface JobForm {
  id?: string
  task?: Task
  unitId: string
  imageId: string | null
  componentId?: string
  kind: ReasonKind
  reason: string
  symptoms: Symptom[]
  day: string
}

export async function addJob(db: Database, shelf: Shelf, form: JobForm): Promise<JobRow> {
  const unit = await getUnit(db, form.unitId)
  const family = await getFamily(db, unit.familyId)
  const image = form.imageId === null ? null : await shelf.image(form.imageId)
  const own = image?.identity?.familyId === family.id ? image.identity.componentId : undefined
  const row: JobRow = {
    id: form.id ?? newId('job'),
    unitId: form.unitId,
    imageId: form.imageId,
    componentId: componentOf(family, form.componentId ?? own).id,
    task: form.task ?? 'write',
    kind: form.kind,
    reason: form.reason,
    symptoms: form.symptoms,
    day: form.day,
    addedAt: Date.now(),
    closedAt: null,
    closedBy: null,
    closingNote: null,
    releases: [],
    history: [],
  }
  await db.insert(jobs).values(row)
  return row
}

/** Keeps what a person says of the bench; what is not said stays as it was. */
export async function sayBench(db: Database, id: string, say: BenchInputs): Promise<void> {
  const [known] = await db.select().from(jobBenches).where(eq(jobBenches.jobId, id))
  const joined = { ...known?.say, ...say }
  await db
    .insert(jobBenches)
    .values({ jobId: id, say: joined })
    .onConflictDoUpdate({ target: jobBenches.jobId, set: { say: joined } })
}

/** @throws Problem `not-found`. */
export async function jobRow(db: Database, id: string): Promise<JobRow> {
  const [job] = await db.select().from(jobs).where(eq(jobs.id, id))
  if (!job) throw notFound('job', id)
  return job
}

export function refuseClosed(job: JobRow): void {
  if (job.closedAt === null) return
  throw new Problem({
    kind: 'job-closed',
    thing: job.id,
    says: 'this job is closed',
    remedy: 'Make a new job for the unit.',
  })
}
