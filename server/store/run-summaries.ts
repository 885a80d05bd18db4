import { foldForm, type RunState, type WakeBody } from '@bench-wake/core/run'
import { and, desc, eq, inArray, notInArray, sql, type SQL } from 'drizzle-orm'
import { createHash } from 'node:crypto'
import { RunState as RunStateAnswer } from '../answers/parts/run'
import type { Database } from '../db/open'
import { eventColumn, runs, runSummaries, units, wakeEvents } from '../db/schema'

/*
 * What each run came to, so that a list folds no wake twice. It can be thrown away: whatever is missing, of another
 * program or of an older last event, is made anew from the wake. The record of one run is always read whole.
 */

/** A run with the last event that lies on disk. */
export interface RunHead {
  id: string
  jobId: string
  unitId: string
  hash: string
}

/** As many are kept in memory, about 20 MB. */
const maxInMemory = 3000

const digestOf = (text: string) => createHash('sha256').update(text).digest('base64')
/** Which program made a summary: the shape of a state, and how it is folded. */
const form = digestOf(`${foldForm} ${shapeOf(RunStateAnswer)}`)
const markOf = (hash: string, text: string) => digestOf(`${form} ${hash} ${text}`)

/** The members of a schema, however deep. */
function shapeOf(schema: unknown): string {
  return JSON.stringify(schema, (_, value: unknown) => (typeof value === 'function' ? undefined : value))
}

const memories = new WeakMap<Database, Map<string, { hash: string; state: RunState }>>()
const memoryOf = (db: Database) => {
  const own = memories.get(db) ?? new Map<string, { hash: string; state: RunState }>()
  memories.set(db, own)
  return own
}

/** What a run's last leg, and whatever is said after it, ends with. */
const endings: WakeBody['type'][] = ['failed', 'cut', 'run.closed', 'aftercare', 'job.closed', 'job.reopened']

/**
 * Runs, newest first, each with its last event; one without any is none.
 * @param where on `runs`.
 * @param open only those whose last event is no ending.
 */
export async function runHeads(db: Database, where: SQL | undefined, open = false): Promise<RunHead[]> {
  const last = sql`${wakeEvents.runId} = ${runs.id} and ${wakeEvents.seq} = (select max(${wakeEvents.seq}) from ${wakeEvents} where ${wakeEvents.runId} = ${runs.id})`
  // A cross join is what SQLite takes in the order in which it is written: from the runs, and not through every event.
  return db
    .select({ id: runs.id, jobId: runs.jobId, unitId: runs.unitId, hash: eventColumn(wakeEvents.hash) })
    .from(runs)
    .crossJoin(wakeEvents)
    .where(and(last, where, open ? notInArray(wakeEvents.type, endings) : undefined))
    .orderBy(desc(runs.addedAt))
}

/** Every run, the one that started last first: a run may be recorded later than it happened. */
export async function headsByStart(db: Database): Promise<RunHead[]> {
  const starts = await db
    .select({ id: runs.id, at: wakeEvents.at })
    .from(runs)
    .crossJoin(wakeEvents)
    .where(and(eq(wakeEvents.runId, runs.id), eq(wakeEvents.seq, 1)))
  const startOf = new Map(starts.map(({ id, at }) => [id, at]))
  const { all } = await headMemoryOf(db)
  return [...all].sort((a, b) => (startOf.get(b.id) ?? 0) - (startOf.get(a.id) ?? 0))
}

/** Heads of all runs as they were when the table of events had this mark, newest first, and by unit. */
interface HeadMemory {
  mark: string
  all: RunHead[]
  byUnit: Map<string, RunHead[]>
}

const headMemories = new WeakMap<Database, HeadMemory>()

/**
 * Says whether an event came since: events are only ever added, and stay where they are. One that somebody altered in its
 * place is seen where that record is opened, and at the next start.
 */
async function markOfEvents(db: Database): Promise<string> {
  const [row] = await db.all<{ newest: number | null; runs: number }>(
    sql`select (select max(rowid) from ${wakeEvents}) as newest, (select count(*) from ${runs}) as runs`,
  )
  return `${row?.newest} ${row?.runs}`
}

async function headMemoryOf(db: Database): Promise<HeadMemory> {
  const mark = await markOfEvents(db)
  const known = headMemories.get(db)
  if (known?.mark === mark) return known
  const memory: HeadMemory = { mark, all: await runHeads(db, undefined), byUnit: new Map() }
  for (const head of memory.all) {
    const own = memory.byUnit.get(head.unitId)
    if (own) own.push(head)
    else memory.byUnit.set(head.unitId, [head])
  }
  headMemories.set(db, memory)
  return memory
}

/** Runs of each of these units, newest first. */
export async function headsOfUnits(
  db: Database,
  unitIds: readonly string[],
): Promise<Map<string, RunHead[]>> {
  const { byUnit } = await headMemoryOf(db)
  return new Map(unitIds.map((id) => [id, [...(byUnit.get(id) ?? [])]]))
}

/** The newest runs of a family, newest first. @param max as many at the most. */
export async function headsOfFamily(db: Database, familyId: string, max: number): Promise<RunHead[]> {
  const { all } = await headMemoryOf(db)
  if (all.length === 0) return []
  const rows = await db.select({ id: units.id }).from(units).where(eq(units.familyId, familyId))
  const ofFamily = new Set(rows.map(({ id }) => id))
  const found: RunHead[] = []
  for (const head of all) {
    if (found.length === max) break
    if (ofFamily.has(head.unitId)) found.push(head)
  }
  return found
}

/** States of runs that are known at their last event, from memory or from disk; the others are not in it. */
export async function summariesOf(db: Database, heads: readonly RunHead[]): Promise<Map<string, RunState>> {
  const memory = memoryOf(db)
  const known = new Map<string, RunState>()
  const asked = new Map<string, RunHead>()
  for (const head of heads) {
    const before = memory.get(head.id)
    if (before?.hash === head.hash) known.set(head.id, before.state)
    else asked.set(head.id, head)
  }
  if (asked.size === 0) return known
  const rows = await db
    .select({
      runId: eventColumn(runSummaries.runId),
      hash: eventColumn(runSummaries.hash),
      mark: eventColumn(runSummaries.mark),
      state: eventColumn(runSummaries.state),
    })
    .from(runSummaries)
    .where(inArray(runSummaries.runId, [...asked.keys()]))
  for (const { runId, hash, mark, state: text } of rows) {
    // Of an older last event, of another program, or written into by somebody: made anew.
    if (asked.get(runId)?.hash !== hash || markOf(hash, text) !== mark) continue
    const state = JSON.parse(text) as RunState
    known.set(runId, state)
    remember(db, runId, hash, state)
  }
  return known
}

function remember(db: Database, id: string, hash: string, state: RunState): void {
  const memory = memoryOf(db)
  memory.delete(id)
  memory.set(id, { hash, state })
  for (const oldest of memory.keys()) {
    if (memory.size <= maxInMemory) break
    memory.delete(oldest)
  }
}

/** Keeps what a run that is over came to; one under way changes with each event. */
export async function keepSummary(db: Database, { id, hash }: RunHead, state: RunState): Promise<void> {
  if (state.outcome === 'running') return
  remember(db, id, hash, state)
  const text = JSON.stringify(state)
  const row = { runId: id, hash, mark: markOf(hash, text), state: text }
  await db
    .insert(runSummaries)
    .values(row)
    .onConflictDoUpdate({ target: runSummaries.runId, set: row })
    // A disk that takes no more takes no cache either; it is made anew the next time.
    .catch(() => {})
}
