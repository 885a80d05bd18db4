import {
  componentOf,
  drivenLink,
  onHardware,
  type Component,
  type DrivenLink,
  type Family,
  type FamilyLink,
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
import { judgeWayLeft, leftBy, type LeftInUnit, type CameTo } from '@bench-wake/core/job'
import { isProblem, Problem, verdictOf, type Finding, type Verdict } from '@bench-wake/core/kernel'
import {
  joinKits,
  judgeDriven,
  judgeOriginal,
  readOnce,
  kitOf,
  linkOfJob,
  supplyField,
  supplyOf,
  type Adapter,
  type BenchSay,
  type Gate,
  type KitEntry,
  type KnownInside,
  type Stretch,
} from '@bench-wake/core/ready'
import {
  hopMs,
  loadsOf,
  planRun,
  planElsewhere,
  planSwap,
  stretchesOf,
  timeOf,
  timePlan,
  type PlanTime,
  cameToItsEnd,
  judgeTask,
  legPlan,
  planTask,
  writes,
  type Learned,
  type LookTask,
  type RunState,
  type Step,
  type Task,
  type TimedStep,
} from '@bench-wake/core/run'
import { lineOf, type UnitFacts } from '@bench-wake/core/unit'
import { eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { jobBenches, jobs } from '../db/schema'
import { newId } from '../new-id'
import { notFound } from '../problem'
import { listAdapters } from './adapters'
import { getFamily, whereMissing } from './families'
import { getHouse, type KeptPolicy } from './house'
import { digestsOf, insideOf, knownOf } from './inside'
import { cameToOf, headlineOf } from './job-headline'
import { packedFor } from './kit'
import { laptopNow } from './laptop'
import { learnedOf } from './learned'
import type { ShelfImage } from './load-shelf'
import { listRequests } from './requests'
import { listRunsOf, type KeptRun } from './runs'
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
  /** What came for this unit, of what was asked for it since the job was made. */
  came: { imageId: string; imageName: string; of: string } | null
  /** The next write step by step, each with its range. */
  plan: TimedStep[]
  time: PlanTime
  /** Every write that is left, hands included: the one sum of time that a plan, a list and a live screen show. */
  whole: PlanTime
  /** Of each of them, in order, ms. */
  writeMs: number[]
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
  /** Each write that is left, step by step. */
  writes: PlannedWrite[]
  /** The run that a start goes on with, as its next leg; null where it begins a new one. */
  before: KeptRun | null
  /** What is known of the bytes in the component. */
  known: KnownInside & { first: boolean }
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
    unitRuns,
  ] = await Promise.all([
    getUnit(db, job.unitId),
    getHouse(db),
    listRequests(db, job.unitId),
    listRunsOf(db, job.unitId),
  ])
  const runs = unitRuns.filter(({ jobId }) => jobId === id)
  const [[said], adapters, packed, described, laptop] = await Promise.all([
    db.select().from(jobBenches).where(eq(jobBenches.jobId, id)),
    listAdapters(db),
    packedFor(db, job.day),
    getFamily(db, unit.familyId),
    laptopNow(db),
  ])
  const family = onHardware(described, unit.facts.hardwareMajor)
  const entries = await shelf.entriesOf(family.id)
  // One that could not be read any more is no image; another is chosen.
  const image = job.imageId === null ? null : ((await shelf.image(job.imageId).catch(whereMissing)) ?? null)
  const left = leftBy(newestWrite(unitRuns))
  const inside = await insideOf(
    shelf,
    unit,
    unitRuns.map(({ state }) => state),
  )
  if (inside.written.size > 0)
    unit.facts = { ...unit.facts, digests: { ...digestsOf(inside), ...unit.facts.digests } }
  const writing = job.task === 'write'
  const fit = image && writing ? fitOf({ family, unit, entries, house, left }, image, job.componentId) : null
  const hops = fit?.path ?? []
  const last = runs[0]?.state
  const proved = last?.outcome === 'proved'
  // After a proved run only steps that lead somewhere are left; the same version again is not one of them.
  const ahead = proved ? hops.filter(({ from, to }) => from === undefined || from !== to) : hops
  const next = ahead[0] ?? null
  const component = componentOf(family, next?.componentId ?? job.componentId)
  const bench: BenchSay = { ...said?.say, ...(laptop ? { laptop } : {}) }
  const link = drivenLink(family, linkOfJob(family, bench.wiring).id) ?? null
  const byHand = (writing || job.task === 'chip') && link === null && family.swap !== undefined
  const known = knownOf(inside, component.id)
  const look =
    job.task === 'write'
      ? null
      : await lookOf(shelf, { task: job.task, family, component, link, image, bench })
  const open = look ? look.open : next && (link || byHand) ? await shelf.open(next.imageId) : null
  const steps = look
    ? look.steps
    : next
      ? await stepsOf(shelf, { family, component, link, byHand, house, open, known }, next)
      : []
  const learned = await learnedFor(db, family, link)
  const before = legBefore(runs, { task: job.task, imageId: open?.image.id, componentId: component.id })
  const plan = timePlan(before ? legPlan(steps, before.state) : steps, learned)
  const writes: PlannedWrite[] = next
    ? [
        { hop: next, componentName: component.name, steps: plan, time: timeOf(plan, learned) },
        ...(await laterWrites(shelf, { family, link, byHand, house, known }, ahead, learned)),
      ]
    : []
  const whole = timeOf(next ? writes.flatMap(({ steps: each }) => each) : plan, learned)
  const need: Need = look
    ? { answer: 'do', finding: look.finding, advisories: [] }
    : judgeNeed({
        family,
        unit: { ...unit.facts, serial: unit.facts.serial ?? unit.serial },
        house,
        reason: job.kind,
        symptoms: symptomsOf(job),
        newest: versionsOf(newestFor(family, unit.facts, entries, unit.answers)),
        chosen: image !== null,
        ...otherBytesOf(unit.facts, image),
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
    arrived: last?.outcome === 'done' || (proved && next === null),
    requests: requests.filter(({ closedAt }) => closedAt === null),
    came: image === null ? await cameFor(shelf, job, requests) : null,
    plan,
    time: timeOf(plan, learned),
    whole,
    writeMs: writes.map(({ time }) => time.totalMs),
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
    known,
    before,
    writes,
  }
}

/** A second try is a new leg of the same run: of the same task, of the same image, for the same component. */
function legBefore(
  [last]: readonly KeptRun[],
  form: { task: Task; imageId: string | undefined; componentId: string },
): KeptRun | null {
  if (!last || !['cut', 'failed', 'abandoned'].includes(last.state.outcome)) return null
  const { task = 'write', image, component } = last.state.facts
  return task === form.task && image?.id === form.imageId && component.id === form.componentId ? last : null
}

/** Times of the job's own link: where a family has one alone, every run went over it. */
const learnedFor = (db: Database, { id, links }: Family, link: FamilyLink | null) =>
  learnedOf(db, id, links.length > 1 ? link?.id : undefined)

/** The steps of one write, by whoever carries it out. */
async function stepsOf(
  shelf: Shelf,
  form: Pick<OpenJob, 'family' | 'component' | 'link' | 'byHand' | 'house' | 'open' | 'known'>,
  hop: Hop,
): Promise<Step[]> {
  const { family, component, link, byHand, house, open, known } = form
  if (open && link) return planRun(family, component, link, loadsOf(component, open.memory), house, known)
  if (byHand) return planSwap(family, component)
  return planElsewhere(family, component, (await shelf.image(hop.imageId)).segments)
}

/** A task that writes nothing: its steps, and whether it can be done. */
async function lookOf(
  shelf: Shelf,
  form: Pick<OpenJob, 'family' | 'component' | 'link' | 'image' | 'bench'> & { task: LookTask },
): Promise<{ steps: Step[]; finding: Finding; open: OpenImage | null }> {
  const { task, family, component, link, image, bench } = form
  const open = task === 'check' && image && link ? await shelf.open(image.id) : null
  const judged = (trouble?: string) =>
    judgeTask(
      task,
      component,
      link,
      { chosen: image !== null, trouble },
      { socket: family.swap !== undefined, said: bench.chip },
    )
  try {
    const loads = open ? loadsOf(component, open.memory) : []
    const finding = judged()
    const steps = finding.level !== 'stop' ? planTask(task, family, component, link, loads) : []
    return { steps, finding, open }
  } catch (error) {
    if (!isProblem(error)) throw error
    return { steps: [], finding: judged(`${image!.name}: ${error.facts.says}.`), open: null }
  }
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
  const { writes, whole } = await openJob(db, shelf, id)
  return { writes, time: whole }
}

/** The writes behind the next one: what is in a component by then is on the shelf, for this bench wrote it. */
async function laterWrites(
  shelf: Shelf,
  job: Pick<OpenJob, 'family' | 'link' | 'byHand' | 'house' | 'known'>,
  [next, ...later]: readonly Hop[],
  learned: Learned,
): Promise<PlannedWrite[]> {
  const begun = new Set([next?.componentId])
  const writes: PlannedWrite[] = []
  for (const hop of later) {
    const component = componentOf(job.family, hop.componentId)
    const open = job.link || job.byHand ? await shelf.open(hop.imageId) : null
    const known = begun.has(hop.componentId) ? { ...job.known, inside: hop.imageName } : job.known
    begun.add(hop.componentId)
    const steps = timePlan(await stepsOf(shelf, { ...job, component, open, known }, hop), learned)
    writes.push({ hop, componentName: component.name, steps, time: timeOf(steps, learned) })
  }
  return writes
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

/** The newest image that settled a request of this unit while the job was open. */
async function cameFor(
  shelf: Shelf,
  { addedAt }: JobRow,
  requests: readonly SupplierRequest[],
): Promise<JobView['came']> {
  const [last] = requests
    .filter(({ closedAt, imageId }) => imageId !== null && closedAt !== null && closedAt >= addedAt)
    .sort((a, b) => b.closedAt! - a.closedAt!)
  const image = last && (await shelf.image(last.imageId!).catch(whereMissing))
  return image ? { imageId: image.id, imageName: image.name, of: last.of } : null
}

/** Set where the chosen image says the version that the unit has, and holds other bytes than were written into it. */
function otherBytesOf({ versions, digests }: UnitFacts, image: ShelfImage | null) {
  const { componentId: component, version } = image?.identity ?? {}
  if (!image || component === undefined || version === undefined || versions[component] !== version) return {}
  const has = digests?.[component]
  return has !== undefined && has !== image.contentSha256 ? { otherBytes: { component, version } } : {}
}

/** What the newest run of a unit left in it, whatever job that was of. */
export async function leftInUnit(db: Database, unitId: string): Promise<LeftInUnit | null> {
  return leftBy(newestWrite(await listRunsOf(db, unitId)))
}

/** The newest run that was to write; what only looked since then has left nothing. */
const newestWrite = (runs: readonly KeptRun[]): RunState | null =>
  runs.find(({ state }) => writes(state.facts))?.state ?? null

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
  // Where nothing is written the task itself is judged, and no need, fit or original.
  if (open.job.task !== 'write')
    return [
      gate('task', 'Task', [need.finding, ...readOnce(open.job.task)]),
      judgeDriven(family, linkOfJob(family, open.bench.wiring).id),
    ]
  const awaited = fit
    ? []
    : requests.map((request): Finding => ({ rule: 'request-open', ...judgeRequest(request, today) }))
  // A unit whose last run was cut has to be brought up again, whatever was said about need before; and a unit that
  // is current is held once, by fit, not twice.
  const begun = runs.some(({ state }) => !cameToItsEnd(state))
  const saidByFit =
    need.answer === 'nothing' &&
    fit?.findings.some(({ rule, level }) => rule === 'version-direction' && level === 'hold')
  return [
    gate('need', 'Need', [need.finding]),
    { ...gate('fit', 'Fit', fit?.findings ?? awaited), ...(fit ? {} : { unjudged: noImage }) },
    judgeDriven(family, linkOfJob(family, open.bench.wiring).id),
    ...(open.link ? [judgeOriginal(family, open.link, open.house, open.known)] : []),
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
  known: _known,
  before: _before,
  writes: _writes,
  ...view
}: OpenJob): JobView {
  return view
}

export interface JobForm {
  id?: string
  task?: Task
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
    task: form.task ?? 'write',
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

/** @throws Problem `not-found`. */
export async function jobRow(db: Database, id: string): Promise<JobRow> {
  const [job] = await db.select().from(jobs).where(eq(jobs.id, id))
  if (!job) throw notFound('job', id)
  return job
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
