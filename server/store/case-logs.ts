import { Problem, verdictOf } from '@bench-wake/core/kernel'
import { eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { caseEvents, caseLogs } from '../db/schema'
import { newId } from '../new-id'
import { notFound } from '../problem'
import type { WorkerThread } from '../worker/worker-thread'
import { readBlob } from './blobs'
import { openCaseView, tellCase } from './case-deeds'
import type { CaseLogRow } from './cases'

/** Logs that one case keeps; twenty or thirty are usual (PRACTICE K1). */
const maxLogs = 400

/** Takes a log in and judges it. A bad one is kept too, with what is wrong with it. @throws Problem `log-unread`. */
export async function takeLog(
  db: Database,
  worker: WorkerThread,
  id: string,
  form: { path: string; name: string; logKind: string; by: string; at?: number },
): Promise<CaseLogRow> {
  const { state, logs } = await openCaseView(db, id)
  const round = state.rounds.at(-1)
  if (!round || !round.written)
    throw new Problem({
      kind: 'not-written',
      thing: form.name,
      says: 'the image of this round is not proved to be on the unit yet',
      remedy: 'Write and prove it first: a log of another image would be taken for this one’s.',
    })
  if (logs.length >= maxLogs)
    throw new Problem({
      kind: 'too-many',
      thing: form.name,
      says: `this case keeps ${maxLogs} logs already`,
      remedy: 'Close it, and begin a new one.',
    })
  const { sha256, bytes, judged } = await worker.ask('takeLog', {
    path: form.path,
    agreement: state.agreement,
    kindId: form.logKind,
  })
  const twin = logs.find((log) => log.sha256 === sha256)
  if (twin)
    throw new Problem({
      kind: 'twin',
      thing: form.name,
      says: `this log is in round ${twin.round} already, as ${twin.name}`,
      remedy: 'Choose the log that was made just now.',
    })
  const at = form.at ?? Date.now()
  const row = {
    id: newId('log'),
    round: round.number,
    logKind: form.logKind,
    name: form.name,
    sha256,
    bytes,
    at,
  }
  await db.batch([
    db.insert(caseLogs).values({ ...row, caseId: id, judged }),
    db
      .insert(caseEvents)
      .values({ caseId: id, at, event: { kind: 'log', by: form.by, logId: row.id, logKind: form.logKind } }),
  ])
  return { ...row, ...judged }
}

/** @throws Problem `not-found`. */
export async function logFile(
  db: Database,
  caseId: string,
  logId: string,
): Promise<CaseLogRow & { file: Buffer }> {
  const [row] = await db.select().from(caseLogs).where(eq(caseLogs.id, logId))
  if (row?.caseId !== caseId) throw notFound('log', logId)
  const file = await readBlob(db, row.sha256)
  if (!file) throw notFound('log', row.name)
  const { judged, caseId: _, ...log } = row
  return { ...log, ...judged, file }
}

/** Counts a held log by a named person's word. @throws Problem `log-stopped` where a stop stands, `not-found`. */
export async function acceptLog(
  db: Database,
  id: string,
  logId: string,
  form: { why: string; by: string },
): Promise<void> {
  const { logs } = await openCaseView(db, id)
  const log = logs.find((each) => each.id === logId)
  if (!log) throw notFound('log', logId)
  const verdict = verdictOf(log.findings)
  if (verdict !== 'hold')
    throw new Problem({
      kind: 'log-stopped',
      thing: log.name,
      says: verdict === 'stop' ? 'a stop cannot be released' : 'nothing holds this log',
      remedy: verdict === 'stop' ? (log.findings[0]?.remedy ?? 'Log again.') : 'It counts as it is.',
    })
  await tellCase(db, id, { kind: 'log-accepted', logId, ...form })
}
