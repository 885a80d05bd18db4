import {
  CaseAgreement,
  type CaseNext,
  type CaseRound,
  type CaseState,
  type LogSummary,
  type RoundError,
} from '@bench-wake/core/rounds'
import * as v from 'valibot'
import type { JudgedLog } from '../db/judged-log'
import type * as changes from '../rounds/round-changes'
import type * as store from '../store/cases'
import type * as definitions from '../store/definitions'
import { held } from './held'
import type { RecordingState } from '../rounds/recordings'
import { Finding, ProblemFacts } from './parts/kernel'

const figures = v.array(v.nullable(v.number()))

const Next = held<CaseNext>()(
  'CaseNext',
  v.variant('does', [
    v.object({ does: v.literal('receive'), after: v.picklist(['opening', 'answer']) }),
    v.object({ does: v.literal('write'), round: v.number() }),
    v.object({ does: v.literal('log'), round: v.number(), logKind: v.string() }),
    v.object({ does: v.literal('send'), round: v.number() }),
    v.object({ does: v.literal('wait'), round: v.number(), sinceMs: v.number() }),
    v.object({ does: v.literal('nothing') }),
  ]),
)
const state = v.picklist(['to-write', 'to-log', 'to-send', 'sent', 'answered'])

const Round = held<CaseRound>()(
  'CaseRound',
  v.object({
    number: v.number(),
    imageId: v.string(),
    definitionId: v.nullable(v.string()),
    remarks: v.string(),
    receivedAt: v.number(),
    jobId: v.nullable(v.string()),
    written: v.boolean(),
    logs: v.array(
      v.object({
        id: v.string(),
        logKind: v.string(),
        at: v.number(),
        leftOut: v.nullable(v.string()),
        accepted: v.nullable(v.string()),
        held: v.boolean(),
        good: v.boolean(),
      }),
    ),
    machineChanges: v.array(v.object({ at: v.number(), says: v.string() })),
    sent: v.nullable(v.object({ at: v.number(), sha256: v.string(), symptoms: v.string() })),
    answeredAt: v.nullable(v.number()),
    state,
    waitedMs: v.number(),
  }),
)

const closed = v.nullable(
  v.object({
    at: v.number(),
    by: v.string(),
    outcome: v.picklist(['reached', 'mechanical', 'given-up']),
    says: v.string(),
  }),
)

const State = held<CaseState>()(
  'CaseState',
  v.object({ agreement: CaseAgreement, openedAt: v.number(), rounds: v.array(Round), closed, next: Next }),
)

const Summary = held<LogSummary>()(
  'LogSummary',
  v.object({
    rows: v.number(),
    seconds: v.number(),
    hertz: v.number(),
    channels: v.array(
      v.object({
        name: v.string(),
        unit: v.string(),
        min: v.nullable(v.number()),
        max: v.nullable(v.number()),
      }),
    ),
  }),
)

const judged = {
  summary: Summary,
  findings: v.array(Finding),
  errors: v.nullable(v.object({ count: v.array(v.number()), mean: figures, spread: figures })),
}
held<JudgedLog>()('JudgedLog', v.object(judged))

export const CaseLog = held<store.CaseLogRow>()(
  'CaseLog',
  v.object({
    id: v.string(),
    round: v.number(),
    logKind: v.string(),
    name: v.string(),
    sha256: v.string(),
    bytes: v.number(),
    at: v.number(),
    ...judged,
  }),
)

const unit = v.object({ id: v.string(), name: v.string(), serial: v.string(), familyId: v.string() })

const Error = held<RoundError>()(
  'RoundError',
  v.object({
    round: v.number(),
    rms: v.number(),
    worst: v.number(),
    spread: v.number(),
    reached: v.number(),
    cells: v.number(),
  }),
)

/** A case, and whether its unit is a stand-in. */
export type CaseAnswer = store.CaseView & { practice: boolean }

export const CaseView = held<CaseAnswer>()(
  'CaseView',
  v.object({
    id: v.string(),
    unit,
    state: State,
    logs: v.array(CaseLog),
    errors: v.array(Error),
    convergence: v.array(Finding),
    /** The unit is a stand-in: it can be driven and answered from here. */
    practice: v.boolean(),
  }),
)

export const ListedCase = held<store.ListedCase>()(
  'ListedCase',
  v.object({
    id: v.string(),
    unit,
    title: v.string(),
    goal: v.string(),
    calibrator: v.string(),
    openedAt: v.number(),
    next: Next,
    closed,
    rounds: v.array(
      v.object({
        number: v.number(),
        state,
        waitedMs: v.number(),
        rms: v.nullable(v.number()),
        jobId: v.nullable(v.string()),
      }),
    ),
    kinds: v.record(v.string(), v.string()),
    errorUnit: v.string(),
    within: v.nullable(v.number()),
    convergence: v.array(Finding),
  }),
)

const edge = v.object({ name: v.string(), unit: v.string(), points: v.array(v.number()) })

/** A table as it is written down: its name, its unit and its edges. */
const tableHead = {
  id: v.string(),
  name: v.string(),
  unit: v.string(),
  decimals: v.number(),
  x: edge,
  y: edge,
}

const Changed = held<changes.ChangedTable>()(
  'ChangedTable',
  v.object({
    ...tableHead,
    before: figures,
    after: figures,
    cells: v.number(),
    largest: v.nullable(v.object({ down: v.number(), up: v.number() })),
  }),
)

export const RoundChanges = held<changes.RoundChanges>()(
  'RoundChanges',
  v.object({
    bytes: v.number(),
    unnamedBytes: v.number(),
    tables: v.array(Changed),
    findings: v.array(Finding),
  }),
)

export const RoundMap = held<changes.RoundMap>()(
  'RoundMap',
  v.object({ x: edge, y: edge, count: v.array(v.number()), mean: figures, spread: figures }),
)

export const ImageTables = held<changes.ImageTable[]>()(
  'ImageTables',
  v.array(
    v.object({
      ...tableHead,
      cells: figures,
    }),
  ),
)

export const ListedDefinition = held<definitions.ListedDefinition>()(
  'ListedDefinition',
  v.object({ id: v.string(), name: v.string(), tables: v.number(), addedAt: v.number() }),
)

export const Recording = held<RecordingState>()(
  'Recording',
  v.object({
    logKind: v.string(),
    port: v.string(),
    rows: v.number(),
    second: v.number(),
    seconds: v.number(),
    figures: v.record(v.string(), v.nullable(v.number())),
    running: v.boolean(),
    logId: v.nullable(v.string()),
    problem: v.nullable(ProblemFacts),
  }),
)
