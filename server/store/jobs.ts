import { componentOf, type Family } from '@bench-wake/core/family'
import { judgeFit, type Fit } from '@bench-wake/core/fit'
import { Problem, verdictAfter, type Finding, type Verdict } from '@bench-wake/core/kernel'
import { loadsOf, planRun, planTime, type Step } from '@bench-wake/core/run'
import { eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { jobs } from '../db/schema'
import { newId } from '../new-id'
import { notFound } from '../problem'
import { getFamily } from './families'
import { openImage, type OpenImage, type ShelfImage } from './images'
import { listRuns, type KeptRun } from './runs'
import { getUnit, type KnownUnit } from './units'

export type JobRow = typeof jobs.$inferSelect

/** A job with all it rests on, judged now. */
export interface JobView {
  job: JobRow
  unit: KnownUnit
  image: ShelfImage | null
  /** Null while no image is chosen. */
  fit: Fit | null
  plan: Step[]
  time: { aloneMs: number; personMs: number; totalMs: number }
  runs: KeptRun[]
  /** The one thing that a list shows: its verdict and why. */
  headline: { verdict: Verdict; says: string; remedy?: string }
}

export interface OpenJob extends JobView {
  family: Family
  open: OpenImage | null
}

export async function listJobs(db: Database): Promise<JobView[]> {
  const rows = await db.select().from(jobs).orderBy(jobs.day, jobs.addedAt)
  return Promise.all(rows.map(async ({ id }) => viewOf(await openJob(db, id))))
}

export async function openJob(db: Database, id: string): Promise<OpenJob> {
  const [job] = await db.select().from(jobs).where(eq(jobs.id, id))
  if (!job) throw notFound('job', id)
  const { snapshots: _, ...unit } = await getUnit(db, job.unitId)
  const family = await getFamily(db, unit.familyId)
  const component = componentOf(family, job.componentId)
  const open = job.imageId === null ? null : await openImage(db, job.imageId)
  const fit = open
    ? judgeFit({
        family,
        component,
        unit: unit.facts,
        image: { name: open.image.name, memory: open.memory, identity: open.image.identity },
      })
    : null
  const plan =
    open && fit && fit.verdict !== 'stop'
      ? planRun(family, component, family.links[0]!, loadsOf(component, open.memory))
      : []
  const runs = await listRuns(db, id)
  return {
    job,
    unit,
    image: open?.image ?? null,
    fit,
    plan,
    time: planTime(plan),
    runs,
    headline: headlineOf(job, fit, runs),
    family,
    open,
  }
}

/** What goes over the wire: without the bytes. */
export function viewOf({ family: _family, open: _open, ...view }: OpenJob): JobView {
  return view
}

export interface JobForm {
  id?: string
  unitId: string
  imageId: string | null
  componentId?: string
  reason: string
  day: string
}

export async function addJob(db: Database, form: JobForm): Promise<JobRow> {
  const unit = await getUnit(db, form.unitId)
  const family = await getFamily(db, unit.familyId)
  if (form.imageId !== null) await openImage(db, form.imageId)
  const row: JobRow = {
    id: form.id ?? newId('job'),
    unitId: form.unitId,
    imageId: form.imageId,
    componentId: componentOf(family, form.componentId).id,
    reason: form.reason,
    day: form.day,
    addedAt: Date.now(),
    closedAt: null,
    closedBy: null,
    closingNote: null,
  }
  await db.insert(jobs).values(row)
  return row
}

export async function chooseImage(db: Database, id: string, imageId: string | null): Promise<void> {
  const { job } = await openJob(db, id)
  refuseClosed(job)
  if (imageId !== null) await openImage(db, imageId)
  await db.update(jobs).set({ imageId }).where(eq(jobs.id, id))
}

/** Closes a job. One that was not proved needs a note that says why. */
export async function closeJob(
  db: Database,
  id: string,
  form: { name: string; note: string; at?: number },
): Promise<void> {
  const { job, runs } = await openJob(db, id)
  refuseClosed(job)
  const proved = runs[0]?.state.outcome === 'proved'
  if (runs.some(({ state }) => state.outcome === 'running')) {
    throw new Problem({
      kind: 'job-closed',
      thing: id,
      says: 'a run of this job is still under way',
      remedy: 'Wait for its end.',
    })
  }
  if (!proved && form.note.trim() === '') {
    throw new Problem({
      kind: 'input',
      place: { at: 'note' },
      says: 'this job was not proved, so it needs a word on why it is closed',
      remedy: 'Write what became of the unit.',
    })
  }
  await db
    .update(jobs)
    .set({ closedAt: form.at ?? Date.now(), closedBy: form.name, closingNote: form.note })
    .where(eq(jobs.id, id))
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

function headlineOf(job: JobRow, fit: Fit | null, runs: readonly KeptRun[]): JobView['headline'] {
  const last = runs[0]?.state.outcome
  if (job.closedAt !== null) return { verdict: 'go', says: 'Closed.' }
  if (last === 'running') return { verdict: 'note', says: 'Running now.' }
  if (last === 'proved') return { verdict: 'go', says: 'Proved. Close the job.' }
  if (last === 'cut' || last === 'failed' || last === 'abandoned') {
    return { verdict: 'hold', says: 'The last run did not reach its end. Go on with it.' }
  }
  if (!fit) return { verdict: 'unknown', says: 'No image is chosen.' }
  const worst = heaviest(fit.findings)
  const verdict = verdictAfter(fit.findings, [])
  if (verdict === 'go' || !worst) return { verdict, says: 'The image fits. Ready for the bench.' }
  return { verdict, says: worst.says, ...(worst.remedy ? { remedy: worst.remedy } : {}) }
}

function heaviest(findings: readonly Finding[]): Finding | undefined {
  const order = ['stop', 'hold', 'note']
  return order.map((level) => findings.find((finding) => finding.level === level)).find(Boolean)
}
