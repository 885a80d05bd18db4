import {
  componentOf,
  drivenLink,
  type Component,
  type DrivenLink,
  type Family,
} from '@bench-wake/core/family'
import {
  judgeNeed,
  judgeRequest,
  newestFor,
  versionsOf,
  type Fit,
  type Hop,
  type Need,
  type ReasonKind,
  type SupplierRequest,
  type Symptom,
} from '@bench-wake/core/fit'
import {
  cameTo,
  endingText,
  judgeWayLeft,
  leftBy,
  notWell,
  withRelease,
  type LeftInUnit,
  type CameTo,
  type KeptRelease,
} from '@bench-wake/core/job'
import { Problem, verdictAfter, verdictOf, type Finding, type Verdict } from '@bench-wake/core/kernel'
import {
  joinKits,
  judgeDriven,
  judgeKit,
  judgeOriginal,
  kitOf,
  linkOfJob,
  supplyField,
  supplyOf,
  takeDownOf,
  type Adapter,
  type BenchSay,
  type Gate,
  type KitEntry,
  type Stretch,
} from '@bench-wake/core/ready'
import {
  hopMs,
  loadsOf,
  careLeft,
  careOf,
  planRun,
  planElsewhere,
  planSwap,
  stretchesOf,
  timeOf,
  timePlan,
  type PlanTime,
  type Step,
  type TimedStep,
} from '@bench-wake/core/run'
import { proofHolds } from '@bench-wake/core/proof'
import { lineOf } from '@bench-wake/core/unit'
import { eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { jobBenches, jobs } from '../db/schema'
import { newId } from '../new-id'
import { notFound } from '../problem'
import { listAdapters } from './adapters'
import { getFamily, whereMissing } from './families'
import { getHouse, type KeptPolicy } from './house'
import { packedFor } from './kit'
import { laptopNow } from './laptop'
import { learnedOf } from './learned'
import type { ShelfImage } from './load-shelf'
import { listRequests } from './requests'
import { listRuns, newestRunOf, type KeptRun } from './runs'
import type { OpenImage, Shelf } from './shelf'
import { getUnit, type KnownUnit } from './units'

export type JobRow = typeof jobs.$inferSelect

/** A job with all it rests on, judged now. */
export interface JobView {
  job: JobRow
  unit: KnownUnit
  /** Whether anything is to be done at all; it comes first. */
  need: Need
  house: KeptPolicy
  /** The image that is wanted in the end. */
  image: ShelfImage | null
  /** Null while no image is chosen. */
  fit: Fit | null
  /** The write that comes next on the way. */
  next: Hop | null
  /** Writes that are still to be done, in their order: every hop of every component. */
  left: Hop[]
  /** True when the last run was proved and no hop is left. */
  arrived: boolean
  /** Open requests to suppliers for this unit. */
  requests: SupplierRequest[]
  /** The next write step by step, each with its range. */
  plan: TimedStep[]
  time: PlanTime
  /** True where this program carries the plan out itself. */
  driven: boolean
  /** True where the image goes in by hand, and the run leads through it. */
  byHand: boolean
  /** What the job takes along, and what of it is packed. */
  kit: KitEntry[]
  runs: KeptRun[]
  /** Volts that the unit last said of its own supply. */
  supplySaid: { volts: number; at: number } | null
  /** What was said of the bench. */
  bench: BenchSay
  /** What the next write draws, step after step; empty where nothing is to be written. */
  stretches: Stretch[]
  /** The one thing that a list shows: its verdict and why. */
  /** What it came to, or would if it were closed now. */
  cameTo: CameTo
  headline: { verdict: Verdict; says: string; remedy?: string }
}

export interface OpenJob extends JobView {
  family: Family
  component: Component
  /** The image of the next hop, with its bytes. */
  open: OpenImage | null
  adapters: Adapter[]
  /** The link of the job, where this program drives it. */
  link: DrivenLink | null
}

export async function listJobs(db: Database, shelf: Shelf): Promise<JobView[]> {
  const rows = await db.select().from(jobs).orderBy(jobs.day, jobs.addedAt)
  const views: JobView[] = []
  for (const { id } of rows) {
    // A job whose unit or profile is missing takes no other with it; the data's own screen names what was set aside.
    const open = await openJob(db, shelf, id).catch(whereMissing)
    if (open) views.push(viewOf(open))
  }
  return views
}

export async function openJob(db: Database, shelf: Shelf, id: string): Promise<OpenJob> {
  const job = await jobRow(db, id)
  const [
    { snapshots, answered: _answered, refused: _refused, clockJumps: _jumps, ...unit },
    house,
    requests,
    runs,
  ] = await Promise.all([
    getUnit(db, job.unitId),
    getHouse(db),
    listRequests(db, job.unitId),
    listRuns(db, id),
  ])
  const [[said], adapters, packed, learned, family, laptop] = await Promise.all([
    db.select().from(jobBenches).where(eq(jobBenches.jobId, id)),
    listAdapters(db),
    packedFor(db, job.day),
    learnedOf(db, unit.familyId),
    getFamily(db, unit.familyId),
    laptopNow(db),
  ])
  const entries = await shelf.entriesOf(family.id)
  // One that could not be read any more is no image; another is chosen.
  const image = job.imageId === null ? null : ((await shelf.image(job.imageId).catch(whereMissing)) ?? null)
  const left = await leftInUnit(db, job.unitId)
  const fit = image ? fitOf({ family, unit, entries, house, left }, image, job.componentId) : null
  const hops = fit?.path ?? []
  const proved = runs[0]?.state.outcome === 'proved'
  // After a proved run only steps that lead somewhere are left; the same version again is not one of them.
  const ahead = proved ? hops.filter(({ from, to }) => from === undefined || from !== to) : hops
  const next = ahead[0] ?? null
  const component = componentOf(family, next?.componentId ?? job.componentId)
  const bench: BenchSay = { ...said?.say, ...(laptop ? { laptop } : {}) }
  const link = drivenLink(family, linkOfJob(family, bench.wiring).id) ?? null
  const byHand = link === null && family.swap !== undefined
  const open = next && (link || byHand) ? await shelf.open(next.imageId) : null
  const steps = next ? await stepsOf(shelf, { family, component, link, byHand, house, open }, next) : []
  const plan = timePlan(steps, learned)
  const need = judgeNeed({
    family,
    unit: { ...unit.facts, serial: unit.facts.serial ?? unit.serial },
    house,
    reason: job.kind,
    symptoms: symptomsOf(job),
    newest: versionsOf(newestFor(family, unit.facts, entries, unit.answers)),
  })
  const kit = joinKits(
    [
      kitOf(family, {
        unitName: unit.name,
        adapter: adapters.find((each) => each.id === bench.wiring?.adapterId) ?? null,
        imageName: image?.name ?? null,
        chargerAmps: bench.charger?.amps ?? null,
      }),
    ],
    packed,
  )
  const view = {
    job,
    unit,
    need,
    house,
    image,
    fit,
    next,
    arrived: proved && next === null,
    requests: requests.filter(({ closedAt }) => closedAt === null),
    plan,
    time: timeOf(plan, learned),
    driven: link !== null,
    byHand,
    kit,
    runs,
    left: ahead,
    bench,
    supplySaid: supplyOf(snapshots.find((page) => lineOf(page, supplyField) !== undefined)),
    stretches: stretchesOf(family.power, plan),
  }
  return {
    ...view,
    cameTo: cameToOf(view),
    headline: headlineOf(view),
    family,
    component,
    open,
    link,
    adapters,
  }
}

/** The steps of one write, by whoever carries it out. */
async function stepsOf(
  shelf: Shelf,
  form: Pick<OpenJob, 'family' | 'component' | 'link' | 'byHand' | 'house' | 'open'>,
  hop: Hop,
): Promise<Step[]> {
  const { family, component, link, byHand, house, open } = form
  if (open && link) return planRun(family, component, link, loadsOf(component, open.memory), house)
  if (byHand) return planSwap(family, component)
  return planElsewhere(family, component, (await shelf.image(hop.imageId)).segments)
}

/** One write of the whole plan. */
export interface PlannedWrite {
  hop: Hop
  componentName: string
  steps: TimedStep[]
  time: PlanTime
}

/** Everything a job has still to do, before the first byte: each write with its steps, in order. */
export async function wholePlan(
  db: Database,
  shelf: Shelf,
  id: string,
): Promise<{ writes: PlannedWrite[]; time: PlanTime }> {
  const job = await openJob(db, shelf, id)
  const learned = await learnedOf(db, job.family.id)
  const writes: PlannedWrite[] = []
  for (const hop of job.left) {
    const component = componentOf(job.family, hop.componentId)
    const open = job.link || job.byHand ? await shelf.open(hop.imageId) : null
    const steps = timePlan(await stepsOf(shelf, { ...job, component, open }, hop), learned)
    writes.push({ hop, componentName: component.name, steps, time: timeOf(steps, learned) })
  }
  return {
    writes,
    time: timeOf(
      writes.flatMap(({ steps }) => steps),
      learned,
    ),
  }
}

/** Fit of an image on the shelf, for a unit, with the way there. */
export function fitOf(
  asked: {
    family: Family
    unit: KnownUnit
    entries: Awaited<ReturnType<Shelf['entriesOf']>>
    house: KeptPolicy
    /** What the unit's last run left in it. */
    left: LeftInUnit | null
  },
  wanted: ShelfImage,
  componentId?: string,
): Fit {
  const { family, unit, entries, house, left } = asked
  return judgeWayLeft(
    {
      family,
      unit: unit.facts,
      answers: unit.answers,
      shelf: entries,
      wanted,
      house,
      hopMs: (component, { segments }) => hopMs(family, component, segments),
    },
    componentId,
    left,
  )
}

/** What the newest run of a unit left in it, whatever job that was of. */
export async function leftInUnit(db: Database, unitId: string): Promise<LeftInUnit | null> {
  return leftBy((await newestRunOf(db, unitId))?.state ?? null)
}

/** A job's own words count as a symptom where none was listed. */
const symptomsOf = ({ symptoms, reason }: JobRow): Symptom[] =>
  symptoms.length > 0 ? symptoms : [{ says: reason, often: '', since: '' }]

/** The gates that rest on unit, image and shelf; the bench's own come behind them. */
export function fitGates(open: OpenJob, today: string): Gate[] {
  const { need, fit, family, runs, requests } = open
  const gate = (id: string, name: string, findings: Finding[]): Gate => ({
    id,
    name,
    verdict: verdictOf(findings),
    findings,
    numbers: {},
  })
  const awaited = fit
    ? []
    : requests.map((request): Finding => ({ rule: 'request-open', ...judgeRequest(request, today) }))
  // A unit whose last run was cut has to be brought up again, whatever was said about need before; and a unit that
  // is current is held once, by fit, not twice.
  const begun = runs.some(({ state }) => state.outcome !== 'proved')
  const saidByFit =
    need.answer === 'nothing' &&
    fit?.findings.some(({ rule, level }) => rule === 'version-direction' && level === 'hold')
  return [
    gate('need', 'Need', [need.finding]),
    { ...gate('fit', 'Fit', fit?.findings ?? awaited), ...(fit ? {} : { unjudged: noImage }) },
    judgeDriven(family),
    ...(open.link ? [judgeOriginal(family, open.link, open.house)] : []),
  ].filter(({ id }) => id !== 'need' || !(begun || saidByFit))
}

const noImage = { says: 'No image is chosen.', remedy: 'Choose an image for the job first.' }

/** What goes over the wire: without the bytes. */
export function viewOf({
  family: _family,
  component: _component,
  open: _open,
  adapters: _adapters,
  link: _link,
  ...view
}: OpenJob): JobView {
  return view
}

export interface JobForm {
  id?: string
  unitId: string
  imageId: string | null
  componentId?: string
  kind: ReasonKind
  reason: string
  symptoms: Symptom[]
  day: string
}

export async function addJob(db: Database, shelf: Shelf, form: JobForm): Promise<JobRow> {
  const unit = await getUnit(db, form.unitId)
  const family = await getFamily(db, unit.familyId)
  const image = form.imageId === null ? null : await shelf.image(form.imageId)
  const own = image?.identity?.familyId === family.id ? image.identity.componentId : undefined
  const row: JobRow = {
    id: form.id ?? newId('job'),
    unitId: form.unitId,
    imageId: form.imageId,
    componentId: componentOf(family, form.componentId ?? own).id,
    kind: form.kind,
    reason: form.reason,
    symptoms: form.symptoms,
    day: form.day,
    addedAt: Date.now(),
    closedAt: null,
    closedBy: null,
    closingNote: null,
    releases: [],
    history: [],
  }
  await db.insert(jobs).values(row)
  return row
}

/** Chooses the wanted image; the job is then about that image's component. */
export async function chooseImage(
  db: Database,
  shelf: Shelf,
  id: string,
  imageId: string | null,
): Promise<void> {
  const { job, family } = await openJob(db, shelf, id)
  refuseClosed(job)
  const image = imageId === null ? null : await shelf.image(imageId)
  const own = image?.identity?.familyId === family.id ? image.identity.componentId : job.componentId
  await db.update(jobs).set({ imageId, componentId: own }).where(eq(jobs.id, id))
}

/** Keeps what a person says of the bench; what is not said stays as it was. */
export async function sayBench(db: Database, id: string, say: BenchSay): Promise<void> {
  const [known] = await db.select().from(jobBenches).where(eq(jobBenches.jobId, id))
  const joined = { ...known?.say, ...say }
  await db
    .insert(jobBenches)
    .values({ jobId: id, say: joined })
    .onConflictDoUpdate({ target: jobBenches.jobId, set: { say: joined } })
}

/** Closes a job. One that was not proved needs a note that says why. */
export async function closeJob(
  db: Database,
  shelf: Shelf,
  id: string,
  form: { name: string; note: string; at?: number; tookDown?: readonly string[] },
): Promise<void> {
  const { job, runs, need, family, bench, arrived, left: ahead } = await openJob(db, shelf, id)
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
  const left = nothing ? [] : leftOut(takeDownOf(family, bench, runs.length > 0), form.tookDown ?? [])
  if (left.length > 0) {
    throw new Problem({
      kind: 'not-taken-down',
      thing: id,
      says: 'something that was taken out or switched off is not back',
      found: left.map(({ does }) => does).join(' '),
      remedy: 'Put each back in its order and tick it. A fuse left out is found by the customer.',
    })
  }
  const state = runs[0]?.state
  const due = proved && state ? careLeft(careOf(family, state)) : []
  if (due.length > 0) {
    throw new Problem({
      kind: 'aftercare-left',
      thing: id,
      says: 'something that is due behind the proof is not done',
      found: due.map(({ does }) => does).join(' '),
      remedy: 'Say of each whether it is well. What is not well needs a word on it.',
    })
  }
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
  const told = bad.map((each) => `${each.does} ${each.note}`).join(' ')
  const note = form.note.trim() || (nothing ? `${need.finding.says} ${need.finding.because}` : told)
  const at = form.at ?? Date.now()
  const did = runs.length === 0 && !nothing ? 'withdrawn' : 'closed'
  await db
    .update(jobs)
    .set({
      closedAt: at,
      closedBy: form.name,
      closingNote: note,
      history: [...job.history, { did, by: form.name, at, says: note }],
    })
    .where(eq(jobs.id, id))
}

/** Opens a closed job again; why it was closed stays in its history. @throws Problem `job-open`. */
export async function reopenJob(
  db: Database,
  id: string,
  { name, reason }: { name: string; reason: string },
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
  await db
    .update(jobs)
    .set({
      closedAt: null,
      closedBy: null,
      closingNote: null,
      history: [...job.history, { did: 'reopened', by: name, at: Date.now(), says: reason }],
    })
    .where(eq(jobs.id, id))
}

/** Moves a job to another day. */
export async function moveJob(db: Database, id: string, day: string, by: string): Promise<void> {
  const job = await jobRow(db, id)
  refuseClosed(job)
  if (job.day === day) return
  await db
    .update(jobs)
    .set({ day, history: [...job.history, { did: 'moved', by, at: Date.now(), says: day }] })
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

async function jobRow(db: Database, id: string): Promise<JobRow> {
  const [job] = await db.select().from(jobs).where(eq(jobs.id, id))
  if (!job) throw notFound('job', id)
  return job
}

/** PRACTICE J3, D4: what has to be put back before a job is closed, and is not ticked: loads that were shed, power in its order. */
const leftOut = (due: ReturnType<typeof takeDownOf>, tookDown: readonly string[]) =>
  due.filter(({ id }) => !tookDown.includes(id))

export function refuseClosed(job: JobRow): void {
  if (job.closedAt === null) return
  throw new Problem({
    kind: 'job-closed',
    thing: job.id,
    says: 'this job is closed',
    remedy: 'Make a new job for the unit.',
  })
}

/** What a job came to, as far as it is. */
const cameToOf = ({ runs, need }: Pick<JobView, 'runs' | 'need'>): CameTo =>
  cameTo(runs[0]?.state ?? null, need.answer !== 'nothing')

function headlineOf(view: Omit<JobView, 'headline' | 'cameTo'>): JobView['headline'] {
  const { job, fit, need, runs, requests, arrived } = view
  const last = runs[0]?.state.outcome
  if (job.closedAt !== null) {
    const to = cameToOf(view)
    return {
      verdict: to === 'fit-for-use' || to === 'nothing-to-do' ? 'go' : 'note',
      says: `Closed. ${endingText[to]}.`,
    }
  }
  if (last === 'running') return { verdict: 'note', says: 'Running now.' }
  if (arrived) return { verdict: 'go', says: 'Proved. Close the job.' }
  if (last === 'proved') return { verdict: 'note', says: `Proved. ${view.next!.imageName} comes next.` }
  if (last === 'cut' || last === 'failed' || last === 'abandoned') {
    return { verdict: 'hold', says: 'The last run did not reach its end. Go on with it.' }
  }
  // Whether anything is to be done comes before which image fits.
  const [request] = requests
  // What was asked for and has not come yet is waited for, whatever the shelf holds meanwhile.
  if (need.answer === 'nothing' && (fit || !request)) return said(need.finding)
  if (!fit && request) {
    return said({ rule: 'request-open', ...judgeRequest(request, new Date().toISOString().slice(0, 10)) })
  }
  if (!fit) return { verdict: 'unknown', says: 'No image is chosen.' }
  const findings = [...fit.findings, ...(need.answer === 'do' ? [] : [need.finding]), ...kitEve(view)]
  const worst = heaviest(findings)
  const verdict = verdictAfter(findings, [])
  if (verdict === 'go' || !worst) return { verdict, says: 'The image fits. Ready for the bench.' }
  // A note holds nothing: it stands beside the answer, not in its place.
  if (verdict === 'note') return { verdict, says: 'The image fits. Ready for the bench.', remedy: worst.says }
  return said(worst)
}

/** PRACTICE C1: what is not packed holds the job on the day before, and not on the quay. */
function kitEve({ job, kit }: Pick<JobView, 'job' | 'kit'>): Finding[] {
  const today = new Date().toISOString().slice(0, 10)
  const tomorrow = new Date(Date.now() + 86_400_000).toISOString().slice(0, 10)
  return job.day === tomorrow
    ? judgeKit(kit, job.day, today).findings.filter(({ level }) => level === 'hold')
    : []
}

const said = ({ level, says, remedy }: Finding): JobView['headline'] => ({
  verdict: level,
  says,
  ...(remedy ? { remedy } : {}),
})

function heaviest(findings: readonly Finding[]): Finding | undefined {
  const order = ['stop', 'hold', 'note']
  return order.map((level) => findings.find((finding) => finding.level === level)).find(Boolean)
}
