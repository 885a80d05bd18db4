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
import { Problem, verdictOf, type Finding, type Verdict } from '@bench-wake/core/kernel'
import {
  joinKits,
  judgeDriven,
  judgeOriginal,
  kitOf,
  linkOfJob,
  supplyField,
  supplyOf,
  type Adapter,
  type BenchSay,
  type Gate,
  type KitEntry,
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
  type RunState,
  type Step,
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
import { cameToOf, headlineOf } from './job-headline'
import { packedFor } from './kit'
import { laptopNow } from './laptop'
import { learnedOf } from './learned'
import type { ShelfImage } from './load-shelf'
import { listRequests } from './requests'
import { listRuns, listRunsOf, newestRunOf, type KeptRun } from './runs'
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
  const left = await leftInUnit(db, job.unitId)
  const written = await writtenInto(db, shelf, unit)
  if (Object.keys(written).length > 0)
    unit.facts = { ...unit.facts, digests: { ...written, ...unit.facts.digests } }
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
  const learned = await learnedFor(db, family, link)
  const plan = timePlan(steps, learned)
  const need = judgeNeed({
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

/** Times of the job's own link: where a family has one alone, every run went over it. */
const learnedFor = (db: Database, { id, links }: Family, link: FamilyLink | null) =>
  learnedOf(db, id, links.length > 1 ? link?.id : undefined)

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
  const learned = await learnedFor(db, job.family, job.link)
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

/** Digests of what this bench wrote and proved, of each component that still says the version it was. */
async function writtenInto(db: Database, shelf: Shelf, unit: KnownUnit): Promise<Record<string, string>> {
  const newest = new Map<string, RunState>()
  for (const { state } of await listRunsOf(db, unit.id))
    if (!newest.has(state.facts.component.id)) newest.set(state.facts.component.id, state)
  const digests: Record<string, string> = {}
  for (const [component, { outcome, facts }] of newest) {
    const { version, id } = facts.image
    if (outcome !== 'proved' || version === undefined || unit.facts.versions[component] !== version) continue
    const image = await shelf.image(id).catch(whereMissing)
    if (image) digests[component] = image.contentSha256
  }
  return digests
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
    judgeDriven(family, linkOfJob(family, open.bench.wiring).id),
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
