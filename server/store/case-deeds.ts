import { Problem, verdictOf, type Finding } from '@bench-wake/core/kernel'
import {
  checkDefinition,
  compareRevisions,
  type CaseAgreement,
  type CaseEvent,
  type CaseRound,
  type RevisionChanges,
} from '@bench-wake/core/rounds'
import { eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { calibrationCases, caseEvents, caseLogs } from '../db/schema'
import { newId } from '../new-id'
import { notFound } from '../problem'
import type { WorkerThread } from '../worker/worker-thread'
import { caseView, type CaseView } from './cases'
import { getDefinition } from './definitions'
import { addJob, type JobRow } from './job-rows'
import type { Shelf } from './shelf'
import { getUnit } from './units'

/** Opens a case. @throws Problem `not-found` for the unit. */
export async function openCase(
  db: Database,
  form: { id?: string; unitId: string; agreement: CaseAgreement; by: string; at?: number },
): Promise<string> {
  await getUnit(db, form.unitId)
  const id = form.id ?? newId('case')
  const at = form.at ?? Date.now()
  await db.batch([
    db.insert(calibrationCases).values({ id, unitId: form.unitId, openedAt: at }),
    db
      .insert(caseEvents)
      .values({ caseId: id, at, event: { kind: 'opened', by: form.by, agreement: form.agreement } }),
  ])
  return id
}

/** Writes an event of an open case down. */
export async function tellCase(
  db: Database,
  caseId: string,
  event: CaseEvent,
  at = Date.now(),
): Promise<void> {
  await db.insert(caseEvents).values({ caseId, at, event })
}

/** @throws Problem `case-closed`, `not-found`. */
export async function openCaseView(db: Database, id: string): Promise<CaseView> {
  const view = await caseView(db, id)
  if (view.state.closed)
    throw new Problem({
      kind: 'case-closed',
      thing: view.state.agreement.title,
      says: 'this case is closed',
      remedy: 'Open it again, or begin a new one.',
    })
  return view
}

/** A new wording of what was agreed on; the logs of the newest round are judged by it anew. */
export async function agreeAnew(
  db: Database,
  worker: WorkerThread,
  id: string,
  form: { agreement: CaseAgreement; by: string; why: string },
): Promise<void> {
  const { state, logs } = await openCaseView(db, id)
  await tellCase(db, id, { kind: 'agreed', ...form })
  for (const log of logs.filter(({ round }) => round === state.rounds.length)) {
    if (!form.agreement.kinds.some(({ id: kind }) => kind === log.logKind)) continue
    const judged = await worker.ask('judgeLog', {
      sha256: log.sha256,
      agreement: form.agreement,
      kindId: log.logKind,
    })
    if (judged) await db.update(caseLogs).set({ judged }).where(eq(caseLogs.id, log.id))
  }
}

/** What is known of a revision before it is taken: whether it belongs to its definition, and what it changes. */
export interface RevisionLook {
  findings: Finding[]
  changes: RevisionChanges | null
}

/**
 * Looks at an image as the next revision of a case: against its definition, against the revision before, and against
 * what was last written. One that is not the unit's own family, or that writes outside the calibration, is stopped.
 */
export async function lookAtRevision(
  db: Database,
  shelf: Shelf,
  { unit, state }: Pick<CaseView, 'unit' | 'state'>,
  { imageId, definitionId }: { imageId: string; definitionId: string | null },
): Promise<RevisionLook> {
  const { image, memory } = await shelf.open(imageId)
  const findings: Finding[] = []
  if (image.identity && image.identity.familyId !== unit.familyId)
    findings.push({
      rule: 'revision-family',
      level: 'stop',
      says: `${image.name} is not for ${unit.name}.`,
      because: `It is an image of ${image.identity.familyId}.`,
      remedy: 'Choose the image that came with the answer.',
    })
  if (definitionId === null) {
    findings.push({
      rule: 'no-definition',
      level: 'hold',
      says: 'Nobody can say what this revision changes: it came without a definition.',
      because: 'Without one, a write outside the calibration is not noticed (PRACTICE B10).',
      remedy: 'Ask the calibrator for the definition file and import it.',
    })
    return { findings, changes: null }
  }
  const definition = await getDefinition(db, definitionId)
  findings.push(...checkDefinition(definition, memory))
  const before = state.rounds.at(-1)
  const written = state.rounds.filter((round) => round.written).at(-1)
  let changes: RevisionChanges | null = null
  for (const other of new Set([written?.imageId, before?.imageId])) {
    if (other === undefined) continue
    changes = compareRevisions(definition, (await shelf.open(other)).memory, memory)
    findings.push(
      ...changes.findings.filter(
        (finding) => !findings.some((each) => each.rule === finding.rule && each.says === finding.says),
      ),
    )
  }
  return { findings, changes }
}

/** Takes a revision in. @throws Problem `revision-stopped` with what the rules say; `case-closed`. */
export async function takeRevision(
  db: Database,
  shelf: Shelf,
  id: string,
  form: {
    imageId: string
    definitionId: string | null
    remarks: string
    by: string
    despite?: string
    at?: number
  },
): Promise<RevisionLook> {
  const view = await openCaseView(db, id)
  const look = await lookAtRevision(db, shelf, view, form)
  const verdict = verdictOf(look.findings)
  const worst = look.findings.find(({ level }) => level === verdict)
  if (verdict === 'stop' || (verdict === 'hold' && !form.despite))
    throw new Problem({
      kind: verdict === 'stop' ? 'revision-stopped' : 'revision-held',
      thing: (await shelf.image(form.imageId)).name,
      says: worst!.says.replace(/\.$/, ''),
      found: worst!.because,
      remedy: worst!.remedy ?? 'Ask the calibrator.',
    })
  const { imageId, definitionId, by } = form
  const remarks = [form.remarks, form.despite && `Taken in although held: ${form.despite}`]
    .filter(Boolean)
    .join('\n')
  await tellCase(db, id, { kind: 'revision', by, imageId, definitionId, remarks }, form.at)
  return look
}

/** What a round's image changes against the one before; null for the first, or without a definition. */
export async function changesOf(
  db: Database,
  shelf: Shelf,
  { state }: Pick<CaseView, 'state'>,
  number: number,
): Promise<RevisionChanges | null> {
  const round = roundOf(state.rounds, number)
  const before = state.rounds[number - 2]
  if (!before || round.definitionId === null) return null
  const [own, other] = await Promise.all([shelf.open(round.imageId), shelf.open(before.imageId)])
  return compareRevisions(await getDefinition(db, round.definitionId), other.memory, own.memory)
}

/** @throws Problem `not-found`. */
export function roundOf(rounds: readonly CaseRound[], number: number): CaseRound {
  const round = rounds[number - 1]
  if (!round) throw notFound('round', String(number))
  return round
}

/** Makes the job that writes the newest round's image, or gives the one there is. */
export async function jobForRound(
  db: Database,
  shelf: Shelf,
  id: string,
  form: { by: string; day: string; at?: number },
): Promise<{ jobId: string }> {
  const { unit, state } = await openCaseView(db, id)
  const round = state.rounds.at(-1)
  if (!round)
    throw new Problem({
      kind: 'no-revision',
      thing: state.agreement.title,
      says: 'no image has come yet',
      remedy: 'Take in the base image first.',
    })
  if (round.jobId !== null) return { jobId: round.jobId }
  const job: JobRow = await addJob(db, shelf, {
    unitId: unit.id,
    imageId: round.imageId,
    kind: 'feature',
    reason: `${state.agreement.title}, round ${round.number}`,
    symptoms: [],
    day: form.day,
  })
  await tellCase(db, id, { kind: 'job', by: form.by, jobId: job.id }, form.at)
  return { jobId: job.id }
}

/** Closes a case or opens it again. @throws Problem `case-open`. */
export async function closeCase(
  db: Database,
  id: string,
  form: { by: string; outcome: 'reached' | 'mechanical' | 'given-up'; says: string; at?: number },
): Promise<void> {
  await openCaseView(db, id)
  const { at, ...event } = form
  await tellCase(db, id, { kind: 'closed', ...event }, at)
}

export async function reopenCase(db: Database, id: string, form: { by: string; why: string }): Promise<void> {
  const { state } = await caseView(db, id)
  if (!state.closed)
    throw new Problem({
      kind: 'case-open',
      thing: state.agreement.title,
      says: 'this case is open already',
      remedy: 'Go on with it.',
    })
  await tellCase(db, id, { kind: 'reopened', ...form })
}
