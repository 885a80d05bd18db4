import {
  chainBreak,
  foldWake,
  sealEvent,
  type WakeBody,
  WakeEvent,
  type RunState,
} from '@bench-wake/core/run'
import { and, desc, eq, inArray, sql, type SQL } from 'drizzle-orm'
import { createHash } from 'node:crypto'
import * as v from 'valibot'
import type { Database } from '../db/open'
import { eventColumn, eventText, readable, runs, wakeEvents } from '../db/schema'
import { nextTurn } from '../host-time'
import { notFound } from '../problem'
import { ChainBook } from './chain-book'
import { debtsOf, withDebts } from './debts'
import { bodyOf } from './event-body'
import { keepSummary, runHeads, summariesOf, type RunHead } from './run-summaries'
import { tellWake, wakeMemoOf, type KeptWake, type WakeRow } from './wake-memo'

/** A run with its first event: both or neither. */
export async function openRun(
  db: Database,
  run: { id: string; jobId: string; unitId: string; program: string | null },
  event: WakeEvent,
): Promise<void> {
  await db.batch([
    db.insert(runs).values({ ...run, addedAt: Date.now() }),
    db.insert(wakeEvents).values(rowOf(run.id, event)),
  ])
}

export async function appendEvent(db: Database, runId: string, event: WakeEvent): Promise<void> {
  await db.insert(wakeEvents).values(rowOf(runId, event))
}

const rowOf = (runId: string, { seq, at, body, prev, hash }: WakeEvent) => ({
  runId,
  seq,
  at,
  type: body.type,
  body,
  prev,
  hash,
})

/** The columns of an event as stored: a damaged one stops no other. */
const eventColumns = {
  runId: eventColumn(wakeEvents.runId),
  seq: wakeEvents.seq,
  at: wakeEvents.at,
  type: eventColumn(wakeEvents.type),
  prev: eventColumn(wakeEvents.prev),
  hash: eventColumn(wakeEvents.hash),
  text: eventText,
}

/** A stored event that can be read; null for any other. */
function eventOf({ seq, at, prev, hash, text }: Omit<WakeRow, 'runId'>): WakeEvent | null {
  if (text === null) return null
  try {
    const read = v.safeParse(WakeEvent, { seq, at, body: JSON.parse(text) as unknown, prev, hash })
    return read.success ? read.output : null
  } catch {
    return null
  }
}

/** Node's own SHA-256, several times as fast as core's. */
const digestOfText = (text: string) => createHash('sha256').update(text).digest('hex')

const wakeOf = (runId: string, rows: readonly WakeRow[]): KeptWake => ({
  wake: rows.flatMap((row) => eventOf(row) ?? []),
  brokenAt: chainBreak(runId, rows, digestOfText),
})

/**
 * The stored events of some runs, by run. They are found by the index and read from the table: a damaged row must not be
 * covered up by what the index still says of it.
 */
async function rowsOf(db: Database, where: SQL): Promise<Map<string, WakeRow[]>> {
  const rows = await db
    .select(eventColumns)
    .from(wakeEvents)
    .where(sql`${wakeEvents}.rowid in (select rowid from ${wakeEvents} where ${where})`)
    .orderBy(wakeEvents.runId, wakeEvents.seq)
  const byRun = new Map<string, WakeRow[]>()
  for (const row of rows) {
    const own = byRun.get(row.runId)
    if (own) own.push(row)
    else byRun.set(row.runId, [row])
  }
  return byRun
}

async function wakesOf(db: Database, where: SQL): Promise<Map<string, KeptWake>> {
  const memo = wakeMemoOf(db)
  return new Map(
    [...(await rowsOf(db, where))].map(([runId, rows]) => [
      runId,
      memo.read(runId, rows, (own) => wakeOf(runId, own)),
    ]),
  )
}

/** Where the stored record of each of these runs breaks; null for one that holds. */
export async function chainBreaks(
  db: Database,
  runIds: readonly string[],
): Promise<[runId: string, brokenAt: number | null][]> {
  const rows = await rowsOf(db, inArray(wakeEvents.runId, [...runIds]))
  return runIds.map((id) => [id, chainBreak(id, rows.get(id) ?? [], digestOfText)])
}

const books = new WeakMap<Database, ChainBook>()

/** Which records of an open database hold. */
export function chainBookOf(db: Database): ChainBook {
  const own = books.get(db) ?? new ChainBook((runIds) => chainBreaks(db, runIds))
  books.set(db, own)
  return own
}

/** A run's events after `after`, with those that could not be written yet. Unreadable events are left out. */
export async function readWake(db: Database, runId: string, after = 0): Promise<WakeEvent[]> {
  return (await keptWake(db, runId)).wake.filter(({ seq }) => seq > after)
}

async function keptWake(db: Database, runId: string): Promise<KeptWake> {
  const { wake, brokenAt } = (await wakesOf(db, eq(wakeEvents.runId, runId))).get(runId) ?? {
    wake: [],
    brokenAt: null,
  }
  return { wake: withDebts(wake, debtsOf(db).of(runId)), brokenAt }
}

/** The last event of a run that is on disk. */
export async function lastEvent(db: Database, runId: string): Promise<WakeEvent | undefined> {
  const [row] = await db
    .select(eventColumns)
    .from(wakeEvents)
    .where(eq(wakeEvents.runId, runId))
    .orderBy(desc(wakeEvents.seq))
    .limit(1)
  return (row && eventOf(row)) ?? undefined
}

/** Writes what is owed to a run. @throws whatever keeps it from the disk still. */
export async function payDebts(db: Database, runId: string): Promise<void> {
  const debts = debtsOf(db)
  for (let next = debts.of(runId)[0]; next; next = debts.of(runId)[0]) {
    await appendEvent(db, runId, sealEvent(next.body, next.at, await lastEvent(db, runId)))
    debts.paid(runId)
  }
}

/** Words after the end of a run are written one after the other, whoever says them. */
let lastWord: Promise<unknown> = Promise.resolve()

/** Adds an event to a run that is over: aftercare. @throws Problem `not-found`. */
export function appendAfterwards(db: Database, runId: string, body: WakeBody): Promise<void> {
  const written = lastWord
    .catch(() => {})
    .then(async () => {
      await payDebts(db, runId)
      const last = await lastEvent(db, runId)
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
    .select({ runId: eventColumn(wakeEvents.runId), at: wakeEvents.at, text: eventText })
    .from(wakeEvents)
    .innerJoin(runs, eq(runs.id, wakeEvents.runId))
    .where(and(eq(wakeEvents.type, 'backup'), eq(runs.unitId, unitId), readable))
    .orderBy(desc(wakeEvents.at))
  return rows.flatMap(({ runId, at, text }) => {
    const body = bodyOf(text)
    return body?.type === 'backup' && body.imageId
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
      : []
  })
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
  const kept = run ? keptRun(run, await keptWake(db, id)) : null
  if (!kept) throw notFound('run', id)
  return kept
}

function keptRun({ id, jobId }: { id: string; jobId: string }, { wake, brokenAt }: KeptWake): KeptRun | null {
  const state = tellWake(wake)
  return state && { id, jobId, state: asRecorded(id, state, brokenAt), brokenAt }
}

/** A run whose record is damaged proves nothing, whatever its remaining events say; not even which run they are of. */
const asRecorded = (runId: string, state: RunState, brokenAt: number | null): RunState =>
  brokenAt === null ? state : { ...state, facts: { ...state.facts, runId }, outcome: 'damaged' }

/** A run in a list, with what it came to; `damaged` where its stored record does not hold. */
export type ListedRun = Omit<KeptRun, 'brokenAt'>

/** Every run, newest first, with its state; `jobId` narrows it. */
export async function listRuns(db: Database, jobId?: string): Promise<ListedRun[]> {
  return runsAt(db, await runHeads(db, jobId === undefined ? undefined : eq(runs.jobId, jobId)))
}

/** Every run of a unit, of whatever job, newest first. @param heads where they were read already. */
export async function listRunsOf(
  db: Database,
  unitId: string,
  heads?: readonly RunHead[],
): Promise<ListedRun[]> {
  return runsAt(db, heads ?? (await runHeads(db, eq(runs.unitId, unitId))))
}

/** Wakes that are read at once, so that a long list takes no more memory than a short one. */
const foldedAtOnce = 4
/** More runs than this are folded in the thread beside the server. */
const foldedHere = 4

/** Runs in the order of their heads, each by its summary; one without is folded, and its summary kept. */
export async function runsAt(db: Database, heads: readonly RunHead[]): Promise<ListedRun[]> {
  const debts = debtsOf(db)
  const book = chainBookOf(db)
  const owing = (id: string) => debts.of(id).length > 0
  const states = new Map<string, RunState>()
  const look = async () => {
    const known = await summariesOf(
      db,
      heads.filter(({ id }) => !states.has(id) && !owing(id)),
    )
    for (const [id, state] of known) states.set(id, state)
    return heads.filter(({ id }) => !states.has(id))
  }
  let unknown = await look()
  if (book.inThread && unknown.length > foldedHere) {
    await book.inThread.fold(unknown.map(({ id }) => id))
    unknown = await look()
  }
  for (let at = 0; at < unknown.length; at += foldedAtOnce) {
    if (at > 0) await nextTurn()
    const some = unknown.slice(at, at + foldedAtOnce)
    const ids = some.map(({ id }) => id)
    const wakes = await wakesOf(db, inArray(wakeEvents.runId, ids))
    for (const head of some) {
      const { wake, brokenAt } = wakes.get(head.id) ?? { wake: [], brokenAt: null }
      const owed = debts.of(head.id)
      const state = foldWake(withDebts(wake, owed))
      if (!state) continue
      states.set(head.id, state)
      // What is owed is not on disk yet, and a damaged record may be repaired.
      if (owed.length === 0 && brokenAt === null) await keepSummary(db, head, state)
    }
  }
  const breaks = await book.breaksOf(
    heads.filter(({ id }) => states.has(id) && states.get(id)!.outcome !== 'running'),
  )
  return heads.flatMap(({ id, jobId }) => {
    const state = states.get(id)
    return state ? [{ id, jobId, state: asRecorded(id, state, breaks.get(id) ?? null) }] : []
  })
}

/**
 * The runs that are known without folding many: a list shows these at once, and the rest is folded beside it.
 * @returns whether that is all of them.
 */
export async function knownRunsAt(
  db: Database,
  heads: readonly RunHead[],
): Promise<{ runs: ListedRun[]; complete: boolean }> {
  const book = chainBookOf(db)
  const known = book.inThread ? await summariesOf(db, heads) : new Map<string, RunState>()
  const missing = heads.filter((head) => !known.has(head.id) && !book.wasFolded(head))
  if (!book.inThread || missing.length <= foldedHere) return { runs: await runsAt(db, heads), complete: true }
  book.foldInThread(missing, true)
  return {
    runs: await runsAt(
      db,
      heads.filter(({ id }) => known.has(id)),
    ),
    complete: false,
  }
}

/** Folds in the thread whatever no list has folded yet: after an update that is every run. */
export async function foldPast(db: Database): Promise<void> {
  const heads = await runHeads(db, undefined)
  const known = await summariesOf(db, heads)
  chainBookOf(db).foldInThread(
    heads.filter(({ id }) => !known.has(id)),
    false,
  )
}

/**
 * Marks the runs that a program before this one left open as cut. The last event it wrote says how far it came.
 * @param program only runs of this one, where others work on the same database meanwhile.
 * @returns the runs that were marked.
 */
export async function markCutRuns(db: Database, program?: string): Promise<string[]> {
  const cut: string[] = []
  for (const { id } of await runHeads(
    db,
    program === undefined ? undefined : eq(runs.program, program),
    true,
  )) {
    const { wake } = await keptWake(db, id)
    if (tellWake(wake)?.outcome !== 'running') continue
    const last = await lastEvent(db, id)
    const body: WakeBody = { type: 'cut', why: 'The program ended in the middle of it.' }
    // Behind an event that cannot be read nothing is written; the run shows where its record broke.
    if (!last) continue
    await appendEvent(db, id, sealEvent(body, Math.max(last.at, Date.now()), last))
    cut.push(id)
  }
  return cut
}
