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

/** Words behind the end of a run are written one after the other, whoever says them. */
let lastWord: Promise<unknown> = Promise.resolve()

/** Adds an event to a run that is over: aftercare. @throws Problem `not-found`. */
export function appendAfterwards(db: Database, runId: string, body: WakeBody): Promise<void> {
  const written = lastWord
    .catch(() => {})
    .then(async () => {
      const last = (await readWake(db, runId)).at(-1)
      if (!last) throw notFound('run', runId)
      await appendEvent(db, runId, sealEvent(body, Math.max(last.at, Date.now()), last))
    })
  lastWord = written
  return written
}

/** A backup that was read out of a unit and kept. */
export interface KeptBackup {
  runId: string
  at: number
  name: string
  address: number
  bytes: number
  sha256: string
  reads: number
  imageId: string
}

/** Backups of a unit, newest first. */
export async function listBackups(db: Database, unitId: string): Promise<KeptBackup[]> {
  const rows = await db
    .select({ runId: wakeEvents.runId, at: wakeEvents.at, body: wakeEvents.body })
    .from(wakeEvents)
    .innerJoin(runs, eq(runs.id, wakeEvents.runId))
    .where(and(eq(wakeEvents.type, 'backup'), eq(runs.unitId, unitId)))
    .orderBy(desc(wakeEvents.at))
  return rows.flatMap(({ runId, at, body }) =>
    body.type === 'backup' && body.imageId
      ? [
          {
            runId,
            at,
            name: body.name,
            address: body.address,
            bytes: body.bytes,
            sha256: body.sha256,
            reads: body.reads,
            imageId: body.imageId,
          },
        ]
      : [],
  )
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
