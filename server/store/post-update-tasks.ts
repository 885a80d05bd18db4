import { Problem } from '@bench-wake/core/kernel'
import { postUpdateTasksOf, type postUpdateOutcomes } from '@bench-wake/core/run'
import { eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { jobBenches, jobs } from '../db/schema'
import { notFound } from '../problem'
import { getFamily } from './families'
import { appendAfterwards, getRun } from './runs'

export interface PostUpdateForm {
  item: string
  outcome: (typeof postUpdateOutcomes)[number]
  by: string
  names?: 'typed' | 'signed-in'
  note?: string
}

/**
 * Keeps what became of one thing after the proof, in the wake of the run.
 * @throws Problem `not-found` for a thing the family does not ask; `run-over` before the proof; `job-closed` after the close.
 */
export async function sayPostUpdateTask(db: Database, runId: string, form: PostUpdateForm): Promise<void> {
  const { state, jobId } = await getRun(db, runId)
  const [job] = await db.select().from(jobs).where(eq(jobs.id, jobId))
  if (job && job.closedAt !== null) {
    throw new Problem({
      kind: 'job-closed',
      thing: jobId,
      says: 'this job is closed',
      remedy: 'Make a new job for the unit.',
    })
  }
  if (state.outcome !== 'proved') {
    throw new Problem({
      kind: 'run-over',
      thing: runId,
      says: 'this run is not proved',
      remedy: 'Bring the run to its proof first; post-update tasks come then.',
    })
  }
  const family = await getFamily(db, state.facts.family.id)
  const [bench] = await db.select().from(jobBenches).where(eq(jobBenches.jobId, jobId))
  const item = postUpdateTasksOf(family, state, bench?.say).find(({ id }) => id === form.item)
  if (!item) throw notFound('item of aftercare', form.item)
  const note = form.note?.trim()
  await appendAfterwards(db, runId, {
    type: 'aftercare',
    item: item.id,
    does: item.does,
    outcome: form.outcome,
    by: form.by,
    ...(form.names ? { names: form.names } : {}),
    ...(note ? { note } : {}),
  })
}
