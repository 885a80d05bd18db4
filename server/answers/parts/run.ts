import type * as run from '@bench-wake/core/run'
import { namesFrom, stepKinds, tasks } from '@bench-wake/core/run'
import { Finding, ProblemFacts } from './kernel'
import { Snapshot } from './unit'
import { Verification } from './link'
import { Compared } from './proof'
import * as v from 'valibot'
import { held } from '../held'

export const TimedStep = held<run.TimedStep>()(
  'TimedStep',
  v.object({
    likelyMs: v.number(),
    minMs: v.number(),
    maxMs: v.number(),
    kind: v.picklist(stepKinds),
    piece: v.exactOptional(v.number()),
    says: v.string(),
    predictedMs: v.number(),
    tailMs: v.exactOptional(v.number()),
    personMs: v.number(),
    handsOff: v.boolean(),
  }),
)

export const PlanTime = held<run.PlanTime>()(
  'PlanTime',
  v.object({
    handsOffMs: v.number(),
    aloneMs: v.number(),
    personMs: v.number(),
    totalMs: v.number(),
    minMs: v.number(),
    maxMs: v.number(),
    learnedFrom: v.number(),
  }),
)

export const PastLeg = held<run.PastLeg>()(
  'PastLeg',
  v.object({
    leg: v.number(),
    startedAt: v.number(),
    endedAt: v.number(),
    outcome: v.picklist(['failed', 'cut', 'abandoned']),
    trouble: v.nullable(v.string()),
    acknowledged: v.number(),
    retries: v.number(),
  }),
)

export const UnitCondition = held<run.UnitCondition>()(
  'UnitCondition',
  v.picklist([
    'proved',
    'as-it-was',
    'in-bootloader',
    'half-written',
    'between-components',
    'chip-out',
    'taking-files',
    'written-not-verified',
    'new-firmware-not-proved',
  ]),
)

export const StepState = held<run.StepState>()(
  'StepState',
  v.object({
    state: v.picklist(['open', 'done', 'waiting', 'broken']),
    startedAt: v.exactOptional(v.number()),
    endedAt: v.exactOptional(v.number()),
    kind: v.picklist(stepKinds),
    piece: v.exactOptional(v.number()),
    says: v.string(),
    predictedMs: v.number(),
    tailMs: v.exactOptional(v.number()),
    personMs: v.number(),
    handsOff: v.boolean(),
  }),
)

const component = v.object({ id: v.string(), name: v.string() })
const image = v.object({
  id: v.string(),
  name: v.string(),
  sha256: v.string(),
  version: v.exactOptional(v.string()),
  known: v.exactOptional(v.string()),
  bytes: v.number(),
  variant: v.exactOptional(v.string()),
  options: v.exactOptional(v.string()),
  release: v.exactOptional(v.string()),
})

export const RunState = held<run.RunState>()(
  'RunState',
  v.object({
    facts: v.object({
      component,
      family: v.object({ id: v.string(), revision: v.number(), name: v.string() }),
      shed: v.exactOptional(v.array(v.string())),
      port: v.object({ id: v.string(), name: v.string(), standIn: v.boolean() }),
      job: v.object({ id: v.string(), reason: v.string() }),
      unit: v.object({ id: v.string(), name: v.string(), place: v.string(), serial: v.string() }),
      task: v.exactOptional(v.picklist(tasks)),
      image: v.exactOptional(image),
      also: v.exactOptional(v.array(v.object({ component, image }))),
      chip: v.exactOptional(
        v.object({ label: v.string(), mark: v.string(), version: v.exactOptional(v.string()) }),
      ),
      answers: v.exactOptional(v.record(v.string(), v.string())),
      from: v.exactOptional(v.string()),
      speed: v.number(),
      link: v.exactOptional(v.object({ id: v.string(), name: v.string() })),
      adapter: v.exactOptional(
        v.object({
          id: v.string(),
          name: v.string(),
          serial: v.exactOptional(v.string()),
          standing: v.string(),
        }),
      ),
      floorVolts: v.number(),
      releases: v.array(v.object({ rule: v.string(), name: v.string(), reason: v.string() })),
      names: v.exactOptional(v.picklist(namesFrom)),
      runId: v.string(),
    }),
    leg: v.number(),
    legAt: v.number(),
    pastLegs: v.array(PastLeg),
    left: UnitCondition,
    pieces: v.array(v.picklist(['untouched', 'part', 'whole', 'checked'])),
    goesOnAt: v.nullable(v.number()),
    seq: v.number(),
    at: v.number(),
    startedAt: v.number(),
    steps: v.array(StepState),
    open: v.nullable(v.number()),
    outcome: v.picklist(['failed', 'cut', 'proved', 'done', 'abandoned', 'running', 'damaged']),
    endedAt: v.exactOptional(v.number()),
    progress: v.nullable(
      v.object({
        done: v.number(),
        total: v.number(),
        unit: v.picklist(['bytes', 'sectors']),
        retries: v.number(),
        at: v.number(),
      }),
    ),
    acknowledged: v.number(),
    prompt: v.nullable(
      v.object({
        says: v.string(),
        answers: v.array(v.object({ id: v.string(), says: v.string() })),
        step: v.number(),
        caution: v.exactOptional(v.string()),
        prompt: v.string(),
        takes: v.exactOptional(v.picklist(['text', 'hex'])),
      }),
    ),
    notes: v.array(v.object({ at: v.number(), says: v.string() })),
    retries: v.array(v.object({ at: v.number(), step: v.number(), why: v.string() })),
    questions: v.array(
      v.object({ at: v.number(), answeredAt: v.exactOptional(v.number()), step: v.number() }),
    ),
    supply: v.array(v.object({ at: v.number(), volts: v.number() })),
    before: v.nullable(Snapshot),
    after: v.nullable(Snapshot),
    verified: v.nullable(Verification),
    compared: v.array(Compared),
    findings: v.array(Finding),
    backups: v.array(
      v.object({
        name: v.string(),
        component: v.exactOptional(v.string()),
        bytes: v.number(),
        sha256: v.string(),
        step: v.number(),
        findings: v.array(
          v.object({
            rule: v.string(),
            level: v.picklist(['hold', 'note', 'go', 'stop']),
            says: v.string(),
            because: v.string(),
            remedy: v.exactOptional(v.string()),
            numbers: v.exactOptional(v.record(v.string(), v.number())),
          }),
        ),
        widthBits: v.exactOptional(v.number()),
        imageId: v.exactOptional(v.string()),
        address: v.number(),
        reads: v.number(),
      }),
    ),
    heldAgainst: v.nullable(Verification),
    supplyWarning: v.nullable(
      v.object({ at: v.number(), volts: v.number(), atLastByte: v.nullable(v.number()) }),
    ),
    faults: v.nullable(
      v.object({
        step: v.number(),
        before: v.string(),
        after: v.string(),
        kept: v.exactOptional(v.literal(true)),
      }),
    ),
    aftercare: v.array(
      v.object({
        by: v.string(),
        names: v.exactOptional(v.picklist(namesFrom)),
        item: v.string(),
        note: v.exactOptional(v.string()),
        outcome: v.picklist(['done', 'failed', 'not-needed']),
        does: v.string(),
        at: v.number(),
      }),
    ),
    problem: v.nullable(ProblemFacts),
    cutWhy: v.exactOptional(v.string()),
  }),
)
