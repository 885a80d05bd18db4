import {
  closingLeft,
  askAgainOn,
  closingList,
  endingText,
  foundOut,
  notWell,
  symptomsText,
  symptomText,
  withRelease,
  type JobDeed,
  type KeptRelease,
  type SymptomWord,
} from '@bench-wake/core/job'
import { Problem } from '@bench-wake/core/kernel'
import { cameToItsEnd } from '@bench-wake/core/run'
import { proofHolds } from '@bench-wake/core/proof'
import { eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { jobs } from '../db/schema'
import { notFound } from '../problem'
import { jobRow, refuseClosed } from './job-rows'
import { openJob } from './jobs'
import { appendAfterwards, listRuns } from './runs'
import type { Shelf } from './shelf'

/* What is done with a job itself: closed, opened again, moved, a hold released for it. */

type NamesFrom = JobDeed['names']
const named = (names: NamesFrom) => (names ? { names } : {})

/** Closes a job. One that was not proved needs a note that says why. */
export async function closeJob(
  db: Database,
  shelf: Shelf,
  id: string,
  form: {
    name: string
    names?: NamesFrom
    note: string
    at?: number
    tookDown?: readonly string[]
    /** What became of each reported symptom. */
    symptoms?: readonly SymptomWord[]
    /** Day on which that is asked again. */
    askAgain?: string
  },
): Promise<void> {
  const { job, runs, need, family, bench, arrived, cameTo, left: ahead } = await openJob(db, shelf, id)
  refuseClosed(job)
  const proved = runs[0] !== undefined && cameToItsEnd(runs[0].state)
  if (runs.some(({ state }) => state.outcome === 'running')) {
    throw new Problem({
      kind: 'job-closed',
      thing: id,
      says: 'a run of this job is still under way',
      remedy: 'Wait for its end.',
    })
  }
  // "Nothing to do" is a good end; its reason is the note.
  const nothing = runs.length === 0 && need.answer === 'nothing'
  if (!arrived && !nothing && form.note.trim() === '') {
    const [next] = ahead
    throw new Problem({
      kind: 'input',
      place: { at: 'note' },
      says:
        proved && next
          ? `${next.imageName} is not written yet, so it needs a word on why it is closed`
          : 'this job was not proved, so it needs a word on why it is closed',
      remedy: 'Write what became of the unit.',
    })
  }
  const state = runs[0]?.state
  const back = [...(bench.back ?? []), ...(form.tookDown ?? [])]
  const open = nothing ? [] : closingLeft(closingList(family, { said: bench, back, run: state ?? null }))
  const left = open.filter(({ task }) => !task)
  if (left.length > 0) {
    throw new Problem({
      kind: 'not-taken-down',
      thing: id,
      says: 'something that was taken out or switched off is not back',
      found: left.map(({ does }) => does).join(' '),
      remedy: 'Put each back in its order and tick it. A fuse left out is found by the customer.',
    })
  }
  const due = open.filter(({ task }) => task)
  if (due.length > 0) {
    throw new Problem({
      kind: 'aftercare-left',
      thing: id,
      says: 'something that is due after verification is not done',
      found: due.map(({ does }) => does).join(' '),
      remedy: 'Say of each whether it is well. What is not well needs a word on it.',
    })
  }
  const still = (form.symptoms ?? []).filter(({ now }) => now === 'there')
  if (still.length > 0 && form.note.trim() === '')
    throw new Problem({
      kind: 'input',
      place: { at: 'note' },
      says: 'what was reported is still there, so it needs a word on what becomes of it',
      found: symptomsText(still),
      remedy: 'Write what is done about it next.',
    })
  const bad = proved && state ? notWell(state) : []
  const held = proved && state ? proofHolds(state.findings) : []
  if (held.length > 0 && form.note.trim() === '') {
    throw new Problem({
      kind: 'proof-held',
      thing: id,
      place: { at: 'note' },
      says: held[0]!.says.replace(/\.$/, ''),
      found: held[0]!.because,
      remedy: held[0]!.remedy ?? 'Say with the closing word why it may be so.',
    })
  }
  // What was said of a test that is not well is the last word where no other is given.
  const told = (state && foundOut(state)) ?? bad.map((each) => `${each.does} ${each.note}`).join(' ')
  const note = form.note.trim() || (nothing ? `${need.finding.says} ${need.finding.because}` : told)
  const at = form.at ?? Date.now()
  const did = runs.length === 0 && !nothing ? 'withdrawn' : 'closed'
  // The record of the last run holds the last word too, before the job says that it is closed.
  if (runs[0])
    await appendAfterwards(db, runs[0].id, {
      type: 'job.closed',
      by: form.name,
      ...named(form.names),
      note,
      cameTo: endingText[cameTo],
      ...(form.symptoms?.length ? { symptoms: [...form.symptoms] } : {}),
      back: closingList(family, { said: bench, back, run: state ?? null })
        .filter(({ task, done }) => !task && done)
        .map(({ does }) => does),
    })
  await db
    .update(jobs)
    .set({
      closedAt: at,
      closedBy: form.name,
      closingNote: note,
      history: [
        ...job.history,
        {
          did,
          by: form.name,
          ...named(form.names),
          at,
          says: [note, symptomsText(form.symptoms ?? [])].filter(Boolean).join(' '),
        },
        ...(form.askAgain
          ? [{ did: 'ask-again' as const, by: form.name, ...named(form.names), at, says: form.askAgain }]
          : []),
      ],
    })
    .where(eq(jobs.id, id))
}

/** Keeps what whoever uses the unit answered: whether it is gone. @throws Problem `job-open`, `nothing-asked`. */
export async function answerFollowUp(
  db: Database,
  id: string,
  { name, names, now, note }: { name: string; names?: NamesFrom; now: 'gone' | 'there'; note: string },
): Promise<void> {
  const job = await jobRow(db, id)
  if (askAgainOn(job.history) === null)
    throw new Problem({
      kind: 'nothing-asked',
      thing: id,
      says: 'nothing of this job is to be asked again',
      remedy: 'Open the job again where something has come back.',
    })
  const says = [`It is ${symptomText[now]}.`, note.trim()].filter(Boolean).join(' ')
  await db
    .update(jobs)
    .set({ history: [...job.history, { did: 'asked', by: name, ...named(names), at: Date.now(), says }] })
    .where(eq(jobs.id, id))
}

/** Opens a closed job again; why it was closed stays in its history. @throws Problem `job-open`. */
export async function reopenJob(
  db: Database,
  id: string,
  { name, names, reason }: { name: string; names?: NamesFrom; reason: string },
): Promise<void> {
  const job = await jobRow(db, id)
  if (job.closedAt === null) {
    throw new Problem({
      kind: 'job-open',
      thing: id,
      says: 'this job is not closed',
      remedy: 'Go on with it.',
    })
  }
  const [last] = await listRuns(db, id)
  if (last)
    await appendAfterwards(db, last.id, { type: 'job.reopened', by: name, ...named(names), why: reason })
  await db
    .update(jobs)
    .set({
      closedAt: null,
      closedBy: null,
      closingNote: null,
      history: [...job.history, { did: 'reopened', by: name, ...named(names), at: Date.now(), says: reason }],
    })
    .where(eq(jobs.id, id))
}

/** Moves a job to another day. */
export async function moveJob(
  db: Database,
  id: string,
  day: string,
  by: string,
  names?: NamesFrom,
): Promise<void> {
  const job = await jobRow(db, id)
  refuseClosed(job)
  if (job.day === day) return
  await db
    .update(jobs)
    .set({ day, history: [...job.history, { did: 'moved', by, ...named(names), at: Date.now(), says: day }] })
    .where(eq(jobs.id, id))
}

/** Keeps a release with the job, over reloads and legs; an earlier one of the same rule goes. */
export async function releaseHold(db: Database, id: string, release: KeptRelease): Promise<void> {
  const job = await jobRow(db, id)
  refuseClosed(job)
  await db
    .update(jobs)
    .set({ releases: withRelease(job.releases, release) })
    .where(eq(jobs.id, id))
}

/** Takes a release back: the hold holds again. */
export async function takeBackRelease(db: Database, id: string, rule: string): Promise<void> {
  const job = await jobRow(db, id)
  refuseClosed(job)
  if (!job.releases.some((each) => each.rule === rule)) throw notFound('release', rule)
  await db
    .update(jobs)
    .set({ releases: job.releases.filter((each) => each.rule !== rule) })
    .where(eq(jobs.id, id))
}
