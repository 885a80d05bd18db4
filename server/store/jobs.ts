import type { Medium } from '@bench-wake/core/image'
import { cardOf, type JobCard } from './card'
import type { WantedFuse } from '@bench-wake/core/link'
import {
  componentOf,
  drivenLink,
  onHardware,
  type Component,
  type DrivenLink,
  type Family,
} from '@bench-wake/core/family'
import {
  judgeNeed,
  newestFor,
  versionsOf,
  type Fit,
  type Hop,
  type Need,
  type SupplierRequest,
  type Symptom,
} from '@bench-wake/core/fit'
import { leftBy, type CameTo } from '@bench-wake/core/job'
import { isProblem, type Finding, type Verdict } from '@bench-wake/core/kernel'
import {
  fusesNow,
  joinKits,
  kitOf,
  linkOfJob,
  supplyField,
  supplyOf,
  type Adapter,
  type BenchInputs,
  type KitEntry,
  type KnownInside,
  type KeptTrial,
  type Stretch,
} from '@bench-wake/core/ready'
import {
  stretchesOf,
  timeOf,
  timePlan,
  type PlanTime,
  legPlan,
  staysOf,
  type LookTask,
  type TimedStep,
} from '@bench-wake/core/run'
import { knownPage, isPractice, lineOf, type UnitFacts } from '@bench-wake/core/unit'
import { eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { jobBenches, jobs } from '../db/schema'
import { notFound } from '../problem'
import { listAdapters } from './adapters'
import { alteredFinding } from './altered'
import { caseImages, offeredTo } from './case-images'
import { getFamily, whereMissing } from './families'
import { getWorkshopRules, type KeptPolicy } from './workshop-rules'
import { fitOf, newestWrite, withDigests } from './fit-of'
import { insideOf, knownOf } from './inside'
import {
  laterWrites,
  learnedFor,
  legBefore,
  lookOf,
  openPieces,
  plannedWrite,
  stepsOf,
  type OpenPiece,
  type PlannedWrite,
} from './job-plan'
import { jobRow, refuseClosed, type JobRow } from './job-rows'
import { cameToOf, headlineOf } from './job-headline'
import { packedFor } from './kit'
import { laptopNow } from './laptop'
import type { ShelfImage } from './load-shelf'
import { listRequests } from './requests'
import { headsOfUnits } from './run-summaries'
import { listRunsOf, type ListedRun } from './runs'
import { onceEach } from './once'
import type { OpenImage, Shelf } from './shelf'
import { triedOf } from './script-tried'
import { fullUnit, readUnits, type KnownUnit } from './units'

/** A job with all it rests on, judged now. */
export interface JobView {
  job: JobRow
  unit: KnownUnit
  /** Whether anything is to be done at all; it comes first. */
  need: Need
  workshopRules: KeptPolicy
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
  /** Each of them in order: what goes into the unit in one stay in its bootloader, and how long that takes, ms. */
  stays: { hops: Hop[]; totalMs: number }[]
  /** True where this program carries the plan out itself. */
  driven: boolean
  /** True where the image goes in by hand, and the run leads through it. */
  byHand: boolean
  /** What the job takes along, and what of it is packed. */
  kit: KitEntry[]
  runs: ListedRun[]
  /** Volts that the unit last said of its own supply. */
  supplySaid: { volts: number; at: number } | null
  /** What goes onto the job’s card or stick; null where it has none. */
  card: JobCard | null
  /** Fuse bytes as the unit last said them; empty where the link has none. */
  fusesNow: WantedFuse[]
  /** What was said of the bench. */
  bench: BenchInputs
  /** What the next write draws, step after step; empty where nothing is to be written. */
  stretches: Stretch[]
  /** The one thing that a list shows: its verdict and why. */
  /** What it came to, or would if it were closed now. */
  cameTo: CameTo
  headline: { verdict: Verdict; says: string; remedy?: string }
  /** In a list alone: records of earlier runs are still being read, and nothing is judged by them yet. */
  filling?: true
}

export interface OpenJob extends JobView {
  family: Family
  component: Component
  /** The image of the next hop, with its bytes. */
  open: OpenImage | null
  /** What the next stay in the bootloader writes, component by component; the first is that of the next hop. */
  pieces: OpenPiece[]
  adapters: Adapter[]
  /** The link of the job, where this program drives it. */
  link: DrivenLink | null
  /** Each write that is left, step by step. */
  writes: PlannedWrite[]
  /** The run that a start goes on with, as its next leg; null where it begins a new one. */
  before: ListedRun | null
  /** Where the steps of a scripted link were carried out before; null where that does not matter. */
  tried: KeptTrial[] | null
  /** The card or stick of the job, where the unit takes its files from one by itself. */
  medium: Medium | null
  /** What is known of the bytes in the component. */
  known: KnownInside & { first: boolean }
}

/** @param once what other jobs of the same answer have read already. */
export async function openJob(db: Database, shelf: Shelf, id: string, once = onceEach()): Promise<OpenJob> {
  const job = await once(`job ${id}`, () => jobRow(db, id))
  const { unitId } = job
  const familyOf = (family: string) => once(`family ${family}`, () => getFamily(db, family))
  const heads = await once(`heads ${unitId}`, () => headsOfUnits(db, [unitId]))
  const [unitRows, workshopRules, requests, unitRuns] = await Promise.all([
    once(`unit ${unitId}`, async () => (await readUnits(db, [unitId], heads)).get(unitId)),
    once('workshopRules', () => getWorkshopRules(db)),
    once(`requests ${unitId}`, () => listRequests(db, unitId)),
    once(`runs ${unitId}`, () => listRunsOf(db, unitId, heads.get(unitId))),
  ])
  if (!unitRows) throw notFound('unit', unitId)
  const runs = unitRuns.filter(({ jobId }) => jobId === id)
  const [said, adapters, packed, described, laptop] = await Promise.all([
    once(`bench ${id}`, async () => (await db.select().from(jobBenches).where(eq(jobBenches.jobId, id)))[0]),
    once('adapters', () => listAdapters(db)),
    once(`packed ${job.day}`, () => packedFor(db, job.day)),
    familyOf(unitRows.row.familyId),
    once('laptop', () => laptopNow(db)),
  ])
  const {
    snapshots,
    answered: _answered,
    refused: _refused,
    clockJumps: _jumps,
    ...page
  } = fullUnit(unitRows, described)
  const family = onHardware(described, page.facts.hardwareMajor)
  const entries = offeredTo(
    await once('cases', () => caseImages(db)),
    await shelf.entriesOf(family.id),
    unitId,
  )
  // One that could not be read any more is no image; another is chosen.
  const image = job.imageId === null ? null : ((await shelf.image(job.imageId).catch(whereMissing)) ?? null)
  const left = leftBy(newestWrite(unitRuns))
  const inside = await insideOf(
    shelf,
    page,
    unitRuns.map(({ state }) => state),
  )
  const unit = withDigests(page, inside)
  const writing = job.task === 'write'
  const fit =
    image && writing ? fitOf({ family, unit, entries, workshopRules, left }, image, job.componentId) : null
  const hops = fit?.path ?? []
  const last = runs[0]?.state
  const proved = last?.outcome === 'proved'
  // After a proved run only steps that lead somewhere are left; the same version again is not one of them.
  const ahead = proved ? hops.filter(({ from, to }) => from === undefined || from !== to) : hops
  const next = ahead[0] ?? null
  const component = componentOf(family, next?.componentId ?? job.componentId)
  const bench: BenchInputs = { ...said?.say, ...(laptop ? { laptop } : {}) }
  const link = drivenLink(family, linkOfJob(family, bench.wiring).id) ?? null
  const tried =
    writing && link?.drive.speaks === 'script' && !isPractice(unitId)
      ? await once(`tried ${family.id}`, () => triedOf(db, family))
      : null
  const chosen = linkOfJob(family, bench.wiring)
  const medium = writing && chosen.kind === 'media' && chosen.medium?.update ? chosen.medium : null
  const byHand =
    medium !== null ||
    ((writing || job.task === 'chip') && link === null && family.chipReplacement !== undefined)
  const knownOfHop = ({ componentId }: Hop) => knownOf(inside, componentId)
  const known = knownOf(inside, component.id)
  const stays = staysOf(family, link, ahead)
  const [stay = []] = stays
  // An image whose stored bytes are damaged stops its own job and no list.
  const damage: Finding[] = []
  const intact = <T>(fallback: T, read: () => Promise<T>) =>
    read().catch((error: unknown) => {
      if (!isProblem(error) || error.facts.kind !== 'blob-altered') throw error
      damage.push(alteredFinding(error.facts.thing ?? ''))
      return fallback
    })
  const look =
    job.task === 'write'
      ? null
      : await intact(null, () =>
          lookOf(shelf, { task: job.task as LookTask, family, component, link, image, bench }),
        )
  const carried = link !== null || byHand
  const pieces =
    look || !writing ? [] : await intact([], () => openPieces(shelf, { family, carried }, stay, knownOfHop))
  const open = look ? look.open : (pieces[0]?.open ?? null)
  const steps = look
    ? look.steps
    : next && pieces.length > 0
      ? await stepsOf(shelf, { family, link, byHand, workshopRules, bench, medium }, pieces)
      : []
  const learned = await once(`learned ${family.id} ${link?.id}`, () => learnedFor(db, family, link))
  const before = legBefore(runs, {
    task: job.task,
    pieces: look
      ? [{ componentId: component.id, imageId: open?.image.id }]
      : pieces.map((piece) => ({ componentId: piece.component.id, imageId: piece.open?.image.id })),
  })
  const plan = timePlan(before ? legPlan(steps, before.state) : steps, learned)
  const writes: PlannedWrite[] = next
    ? [
        plannedWrite(pieces, plan, learned),
        ...(await intact([], () =>
          laterWrites(
            shelf,
            { family, link, byHand, workshopRules, bench, medium },
            stays,
            knownOfHop,
            learned,
          ),
        )),
      ]
    : []
  const whole = timeOf(next ? writes.flatMap(({ steps: each }) => each) : plan, learned)
  const need: Need = !writing
    ? { answer: 'do', finding: look?.finding ?? damage[0]!, advisories: [] }
    : judgeNeed({
        family,
        unit: { ...unit.facts, serial: unit.facts.serial ?? unit.serial },
        workshopRules,
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
    workshopRules,
    image,
    fit: fit && damage.length > 0 ? stopped(fit, damage) : fit,
    next,
    arrived: last?.outcome === 'done' || (proved && next === null),
    requests: requests.filter(({ closedAt }) => closedAt === null),
    came: image === null ? await cameFor(shelf, job, requests) : null,
    plan,
    time: timeOf(plan, learned),
    whole,
    stays: writes.map(({ hops: each, time }) => ({ hops: each, totalMs: time.totalMs })),
    driven: link !== null,
    byHand,
    medium,
    card: cardOf(medium, pieces),
    kit,
    runs,
    left: ahead,
    bench,
    fusesNow: link ? fusesNow(link, knownPage(snapshots.toReversed())) : [],
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
    tried,
    before,
    pieces,
    writes,
  }
}

const stopped = (fit: Fit, damage: readonly Finding[]): Fit => ({
  ...fit,
  verdict: 'stop',
  findings: [...damage, ...fit.findings],
})

/** Everything a job has still to do, before the first byte: each write with its steps, in order. */
export async function wholePlan(
  db: Database,
  shelf: Shelf,
  id: string,
): Promise<{ writes: PlannedWrite[]; time: PlanTime }> {
  const { writes, whole } = await openJob(db, shelf, id)
  return { writes, time: whole }
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

/** A job's own words count as a symptom where none was listed. */
const symptomsOf = ({ symptoms, reason }: JobRow): Symptom[] =>
  symptoms.length > 0 ? symptoms : [{ says: reason, often: '', since: '' }]

/** What goes over the wire: without the bytes. */
export function viewOf({
  family: _family,
  component: _component,
  open: _open,
  adapters: _adapters,
  link: _link,
  known: _known,
  tried: _tried,
  medium: _medium,
  before: _before,
  pieces: _pieces,
  writes: _writes,
  ...view
}: OpenJob): JobView {
  return view
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
