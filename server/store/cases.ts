import { verdictOf, type Finding } from '@bench-wake/core/kernel'
import {
  CaseEvent,
  foldCase,
  joinBinned,
  judgeConvergence,
  roundError,
  type Aim,
  type Binned,
  type CaseState,
  type RoundError,
} from '@bench-wake/core/rounds'
import { asc, desc, eq, inArray } from 'drizzle-orm'
import * as v from 'valibot'
import type { Database } from '../db/open'
import type { JudgedLog } from '../db/judged-log'
import { calibrationCases, caseEvents, caseLogs, jobs } from '../db/schema'
import { notFound } from '../problem'
import { whereMissing } from './families'
import { listRunsOf } from './runs'
import { getUnit } from './units'

/* Cases as they are kept, and what they fold to. What is done with them: case-deeds.ts. */

export interface CaseLogRow extends JudgedLog {
  id: string
  round: number
  logKind: string
  name: string
  sha256: string
  bytes: number
  at: number
}

/** A case as a screen shows it. */
export interface CaseView {
  id: string
  unit: { id: string; name: string; serial: string; familyId: string }
  state: CaseState
  logs: CaseLogRow[]
  /** Error to the aim, of the rounds whose logs have one. */
  errors: RoundError[]
  convergence: Finding[]
}

/** What a list says of a case. */
export interface ListedCase {
  id: string
  unit: CaseView['unit']
  title: string
  goal: string
  calibrator: string
  openedAt: number
  next: CaseState['next']
  closed: CaseState['closed']
  rounds: {
    number: number
    state: CaseState['rounds'][number]['state']
    waitedMs: number
    rms: number | null
    jobId: string | null
  }[]
  /** Names of the kinds of log, by id. */
  kinds: Record<string, string>
  /** Of the error; empty without an aim. */
  errorUnit: string
  within: number | null
  convergence: Finding[]
}

/** The cases of this bench, those that are open first, newest first. */
export async function listCases(db: Database): Promise<ListedCase[]> {
  const rows = await db.select().from(calibrationCases).orderBy(desc(calibrationCases.openedAt))
  const listed: ListedCase[] = []
  for (const { id } of rows) {
    // A case whose unit is missing takes no other with it.
    const view = await caseView(db, id).catch(whereMissing)
    if (!view) continue
    const { unit, state, errors, convergence } = view
    const { agreement, openedAt, next, closed, rounds } = state
    listed.push({
      id,
      unit,
      title: agreement.title,
      goal: agreement.goal,
      calibrator: agreement.calibrator,
      openedAt,
      next,
      closed,
      kinds: Object.fromEntries(agreement.kinds.map(({ id: kind, name }) => [kind, name])),
      errorUnit: agreement.aim?.unit ?? '',
      within: agreement.aim?.within ?? null,
      rounds: rounds.map(({ number, state: each, waitedMs, jobId }) => ({
        number,
        jobId,
        state: each,
        waitedMs,
        rms: errors.find(({ round }) => round === number)?.rms ?? null,
      })),
      convergence,
    })
  }
  return listed.sort((a, b) => Number(a.closed !== null) - Number(b.closed !== null))
}

/** @throws Problem `not-found`. */
export async function caseView(db: Database, id: string): Promise<CaseView> {
  const [row] = await db.select().from(calibrationCases).where(eq(calibrationCases.id, id))
  if (!row) throw notFound('case', id)
  const [{ name, serial, familyId }, events, kept] = await Promise.all([
    getUnit(db, row.unitId),
    eventsOf(db, id),
    db.select().from(caseLogs).where(eq(caseLogs.caseId, id)).orderBy(asc(caseLogs.at)),
  ])
  const logs = kept.map(({ judged, caseId: _, ...log }): CaseLogRow => ({ ...log, ...judged }))
  const state = foldCase(
    events,
    logs.map(({ id: logId, findings }) => ({ id: logId, verdict: verdictOf(findings) })),
    await provedJobs(db, row.unitId, events),
    Date.now(),
  )
  if (!state) throw notFound('case', id)
  const { aim, drive } = state.agreement
  const errors = aim ? errorsOf(state, logs, aim) : []
  return {
    id,
    unit: { id: row.unitId, name, serial, familyId },
    state,
    logs,
    errors,
    convergence: judgeConvergence(state.rounds.length, errors, aim, drive),
  }
}

export async function eventsOf(db: Database, caseId: string): Promise<{ at: number; event: CaseEvent }[]> {
  const rows = await db
    .select({ at: caseEvents.at, event: caseEvents.event })
    .from(caseEvents)
    .where(eq(caseEvents.caseId, caseId))
    .orderBy(asc(caseEvents.id))
  // One of another program's form stands in nobody's way; it stays in its row.
  return rows.filter(({ event }) => v.is(CaseEvent, event))
}

/** Jobs of these events whose image is proved to be on the unit: by a run of that job with that very image. */
async function provedJobs(
  db: Database,
  unitId: string,
  events: readonly { event: CaseEvent }[],
): Promise<Set<string>> {
  const ids = events.flatMap(({ event }) => (event.kind === 'job' ? [event.jobId] : []))
  if (ids.length === 0) return new Set()
  const wanted = await db
    .select({ id: jobs.id, imageId: jobs.imageId })
    .from(jobs)
    .where(inArray(jobs.id, ids))
  const runs = await listRunsOf(db, unitId)
  return new Set(
    wanted
      .filter(({ id, imageId }) =>
        runs.some(
          ({ jobId, state }) =>
            jobId === id &&
            state.outcome === 'proved' &&
            imageId !== null &&
            state.facts.image?.id === imageId,
        ),
      )
      .map(({ id }) => id),
  )
}

/** The error map of a round: its logs that count, as one; null where none has figures. */
export function roundMap(
  state: CaseState,
  logs: readonly CaseLogRow[],
  round: number,
  aim: Aim,
): Binned | null {
  const own = state.rounds[round - 1]?.logs ?? []
  const counted = new Set(own.filter(({ good, leftOut }) => good && leftOut === null).map(({ id }) => id))
  const cells = aim.x.points.length * aim.y.points.length
  return joinBinned(
    logs.flatMap(({ id, errors }) =>
      counted.has(id) && errors?.count.length === cells
        ? [
            {
              x: aim.x.points,
              y: aim.y.points,
              count: Uint32Array.from(errors.count),
              mean: Float64Array.from(errors.mean, (each) => each ?? NaN),
              spread: Float64Array.from(errors.spread, (each) => each ?? NaN),
            },
          ]
        : [],
    ),
  )
}

function errorsOf(state: CaseState, logs: readonly CaseLogRow[], aim: Aim): RoundError[] {
  return state.rounds.flatMap(({ number }) => {
    const map = roundMap(state, logs, number, aim)
    return (map && roundError(number, map)) ?? []
  })
}
