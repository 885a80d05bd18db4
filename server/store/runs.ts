import { brokenAt, foldWake, sealEvent, WakeEvent, type RunState, type WakeBody } from '@bench-wake/core/run'
import { and, desc, eq, gt, inArray } from 'drizzle-orm'
import * as v from 'valibot'
import type { Database } from '../db/open'
import { runs, wakeEvents } from '../db/schema'
import { notFound } from '../problem'

export async function addRun(
  db: Database,
  run: { id: string; jobId: string; unitId: string },
): Promise<void> {
  await db.insert(runs).values({ ...run, addedAt: Date.now() })
}

export async function appendEvent(db: Database, runId: string, event: WakeEvent): Promise<void> {
  const { seq, at, body, prev, hash } = event
  await db.insert(wakeEvents).values({ runId, seq, at, type: body.type, body, prev, hash })
}

/** A run's events from behind `after` on. Validated on their way out. */
export async function readWake(db: Database, runId: string, after = 0): Promise<WakeEvent[]> {
  const rows = await db
    .select()
    .from(wakeEvents)
    .where(and(eq(wakeEvents.runId, runId), gt(wakeEvents.seq, after)))
    .orderBy(wakeEvents.seq)
  return rows.map(({ seq, at, body, prev, hash }) => v.parse(WakeEvent, { seq, at, body, prev, hash }))
}

export interface KeptRun {
  id: string
  jobId: string
  state: RunState
  /** First event that is missing or altered; null when the chain holds. */
  brokenAt: number | null
}

export async function getRun(db: Database, id: string): Promise<KeptRun> {
  const [run] = await db.select().from(runs).where(eq(runs.id, id))
  const wake = run ? await readWake(db, id) : []
  const state = foldWake(wake)
  if (!run || !state) throw notFound('run', id)
  return { id, jobId: run.jobId, state, brokenAt: brokenAt(wake) }
}

/** Every run, newest first, with its state; `jobId` narrows it. */
export async function listRuns(db: Database, jobId?: string): Promise<KeptRun[]> {
  const rows = await db
    .select()
    .from(runs)
    .where(jobId === undefined ? undefined : eq(runs.jobId, jobId))
    .orderBy(desc(runs.addedAt))
  if (rows.length === 0) return []
  const events = await db
    .select()
    .from(wakeEvents)
    .where(
      inArray(
        wakeEvents.runId,
        rows.map(({ id }) => id),
      ),
    )
    .orderBy(wakeEvents.runId, wakeEvents.seq)
  const wakes = new Map<string, WakeEvent[]>()
  for (const { runId, seq, at, body, prev, hash } of events) {
    const wake = wakes.get(runId) ?? []
    wake.push({ seq, at, body, prev, hash })
    wakes.set(runId, wake)
  }
  return rows.flatMap(({ id, jobId: job }) => {
    const wake = wakes.get(id) ?? []
    const state = foldWake(wake)
    return state ? [{ id, jobId: job, state, brokenAt: brokenAt(wake) }] : []
  })
}

/**
 * Marks the runs that a program before this one left open as cut. The last event it wrote says how far it came.
 * @returns the runs that were marked.
 */
export async function markCutRuns(db: Database): Promise<string[]> {
  const cut: string[] = []
  for (const { id, state } of await listRuns(db)) {
    if (state.outcome !== 'running') continue
    const wake = await readWake(db, id)
    const last = wake[wake.length - 1]!
    const body: WakeBody = { type: 'cut', why: 'The program ended in the middle of it.' }
    await appendEvent(db, id, sealEvent(body, Math.max(last.at, Date.now()), last))
    cut.push(id)
  }
  return cut
}
