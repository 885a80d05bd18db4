import { Finding, Verdict } from './parts/kernel'
import { BusScan } from './parts/link'
import { Gate, KitEntry, Stretch } from './parts/ready'
import { PlanTime, TimedStep } from './parts/run'
import { Fit, Hop, Need, ReasonKind, SupplierRequest, Symptom } from './parts/fit'
import type * as planTypes from '../store/job-plan'
import type * as listTypes from '../store/job-lists'
import type * as jobsTypes from '../store/jobs'
import { KeptPolicy } from './workshop-rules'
import { ShelfImage } from './images'
import { KnownUnit } from './units'
import { ListedRun } from './runs'
import { BenchInputs } from '@bench-wake/core/ready'
import { endings, jobDeeds } from '@bench-wake/core/job'
import { namesFrom, tasks } from '@bench-wake/core/run'
import type * as jobFileTypes from '../store/job-files'
import type * as slotTypes from '../ports/card-slots'
import { cardHands } from '@bench-wake/standins'
import type * as carriedTypes from '../store/carried'
import * as v from 'valibot'
import { held } from './held'

export const Job = v.object({
  task: v.picklist(tasks),
  kind: ReasonKind,
  id: v.string(),
  reason: v.string(),
  imageId: v.nullable(v.string()),
  unitId: v.string(),
  addedAt: v.number(),
  componentId: v.string(),
  symptoms: v.array(Symptom),
  day: v.string(),
  closedAt: v.nullable(v.number()),
  closedBy: v.nullable(v.string()),
  closingNote: v.nullable(v.string()),
  releases: v.array(
    v.object({ rule: v.string(), name: v.string(), reason: v.string(), says: v.string(), at: v.number() }),
  ),
  history: v.array(
    v.object({
      did: v.picklist(jobDeeds),
      by: v.string(),
      names: v.exactOptional(v.picklist(namesFrom)),
      at: v.number(),
      says: v.string(),
    }),
  ),
})

export const ClosedJob = held<listTypes.ClosedJob>()(
  'ClosedJob',
  v.object({
    id: v.string(),
    unitId: v.string(),
    unit: v.string(),
    place: v.string(),
    reason: v.string(),
    day: v.string(),
    closedAt: v.number(),
  }),
)

export const StandInCard = held<slotTypes.StandInCard>()(
  'StandInCard',
  v.object({
    unitId: v.string(),
    name: v.string(),
    card: v.nullable(
      v.object({
        bytes: v.number(),
        hand: v.picklist(cardHands),
        files: v.array(v.object({ name: v.string(), bytes: v.number(), sha256: v.string() })),
      }),
    ),
    shows: v.array(v.string()),
  }),
)

export const JobView = held<jobsTypes.JobView>()(
  'JobView',
  v.object({
    job: Job,
    unit: KnownUnit,
    need: Need,
    workshopRules: KeptPolicy,
    image: v.nullable(ShelfImage),
    fit: v.nullable(Fit),
    next: v.nullable(Hop),
    left: v.array(Hop),
    arrived: v.boolean(),
    requests: v.array(SupplierRequest),
    came: v.nullable(v.object({ imageId: v.string(), imageName: v.string(), of: v.string() })),
    plan: v.array(TimedStep),
    time: PlanTime,
    whole: PlanTime,
    stays: v.array(v.object({ hops: v.array(Hop), totalMs: v.number() })),
    driven: v.boolean(),
    byHand: v.boolean(),
    kit: v.array(KitEntry),
    runs: v.array(ListedRun),
    supplySaid: v.nullable(v.object({ volts: v.number(), at: v.number() })),
    card: v.nullable(
      v.object({
        medium: v.string(),
        maxBytes: v.number(),
        othersAllowed: v.boolean(),
        files: v.array(v.object({ name: v.string(), bytes: v.number(), sha256: v.string() })),
        trouble: v.nullable(Finding),
      }),
    ),
    fusesNow: v.array(v.object({ id: v.string(), value: v.number() })),
    bench: BenchInputs,
    stretches: v.array(Stretch),
    cameTo: v.picklist(endings),
    headline: v.object({ verdict: Verdict, says: v.string(), remedy: v.exactOptional(v.string()) }),
    filling: v.exactOptional(v.literal(true)),
  }),
)

export const PlannedWrite = held<planTypes.PlannedWrite>()(
  'PlannedWrite',
  v.object({
    hops: v.array(Hop),
    componentNames: v.array(v.string()),
    steps: v.array(TimedStep),
    time: PlanTime,
  }),
)

export const WholePlan = v.object({ writes: v.array(PlannedWrite), time: PlanTime })

export const Readiness = v.object({ verdict: Verdict, gates: v.array(Gate) })

/** What a port said when something was sent to it, where it said anything. */
export const HeardText = v.object({ heard: v.exactOptional(v.string()) })

/** Whether a unit in its bootloader answered. */
export const Heard = v.object({ ...HeardText.entries, answered: v.boolean() })

export const Scanned = v.object({
  scan: BusScan,
  scanned: v.object({ at: v.number(), found: v.array(v.number()), silent: v.number() }),
})

export const Carried = held<carriedTypes.Carried>()(
  'Carried',
  v.object({
    from: v.object({ jobId: v.string(), unitName: v.string(), day: v.string(), sameUnit: v.boolean() }),
    bench: BenchInputs,
  }),
)

export const JobFile = held<jobFileTypes.JobFile>()(
  'JobFile',
  v.object({
    id: v.number(),
    name: v.string(),
    type: v.string(),
    bytes: v.number(),
    sha256: v.string(),
    at: v.number(),
  }),
)
