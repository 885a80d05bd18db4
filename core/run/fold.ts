import type { Finding, ProblemFacts } from '../kernel'
import { weakestCheck, type Verification } from '../link'
import type { Compared } from '../proof'
import type { Snapshot } from '../unit'
import { conditionOf, endOfLeg, piecesOf, troubleAt, type UnitCondition, midway } from './condition'
import type { Step, StepKind } from './step'
import { fewestUnderLoad, voltsAtLastByte } from './supply-trend'
import { checkOf, type BodyOf, type WakeEvent } from './wake'

/** What of one component's image is in the unit, as far as this run had to do with it. */
export type PieceState = 'untouched' | 'part' | 'whole' | 'checked'

/** A leg of a run that is over: how it ended and how far it had come. */
export interface PastLeg {
  leg: number
  startedAt: number
  endedAt: number
  outcome: 'failed' | 'cut' | 'abandoned'
  trouble: string | null
  acknowledged: number
  retries: number
}

/** A step with what became of it. */
export interface StepState extends Step {
  state: 'waiting' | 'open' | 'done' | 'broken'
  startedAt?: number
  endedAt?: number
}

/** A run as it stands: folded from its wake and from nothing else. */
export interface RunState {
  facts: Omit<BodyOf<'run.opened'>, 'type' | 'plan' | 'bench' | 'gates'>
  /** Number of the leg under way or last; 1 is the first. */
  leg: number
  /** When that leg began. */
  legAt: number
  pastLegs: PastLeg[]
  /** What the unit most likely is by what earlier legs did to it. */
  left: UnitCondition
  /** Of each component that the run is about, in its order. */
  pieces: PieceState[]
  /** Byte of the image this leg goes on from. */
  goesOnAt: number | null
  /** Sequence number and time of the last event folded in. */
  seq: number
  at: number
  startedAt: number
  steps: StepState[]
  /** Index of the open step; null before the first and after the last. */
  open: number | null
  /** `damaged`: its stored record was altered or cannot be read, so it proves nothing; never folded, only found by the chain. */
  outcome: 'running' | 'proved' | 'done' | 'failed' | 'cut' | 'abandoned' | 'damaged'
  endedAt?: number
  /** Progress of the open erase or write; stays when it was cut there. */
  progress: { done: number; total: number; unit: 'bytes' | 'sectors'; retries: number; at: number } | null
  /** Bytes of the image the unit has acknowledged. */
  acknowledged: number
  prompt: Omit<BodyOf<'prompt.asked'>, 'type'> | null
  notes: { at: number; says: string }[]
  retries: { at: number; step: number; why: string }[]
  questions: { at: number; answeredAt?: number; step: number }[]
  supply: { at: number; volts: number }[]
  before: Snapshot | null
  after: Snapshot | null
  /** The check after the write; of several pieces the one that proves least. */
  verified: Verification | null
  compared: Compared[]
  findings: Finding[]
  backups: Omit<BodyOf<'backup'>, 'type'>[]
  /** The image against what was in the unit before. */
  heldAgainst: Verification | null
  /** While the supply falls towards its floor in erase or write. */
  supplyWarning: { at: number; volts: number; atLastByte: number | null } | null
  faults: Omit<BodyOf<'faults'>, 'type'> | null
  /** What was done after the proof, by item; the newest word on each counts. */
  aftercare: (Omit<BodyOf<'aftercare'>, 'type'> & { at: number })[]
  problem: ProblemFacts | null
  cutWhy?: string
}

/**
 * Which way a wake is folded: what was folded another way before is folded anew. Raise it with every change of what an
 * event comes to.
 */
export const foldForm = 1

/** The run after a whole wake; null for an empty one. */
export function foldWake(wake: readonly WakeEvent[]): RunState | null {
  let state: RunState | null = null
  for (const event of wake) state = foldEvent(state, event)
  return state
}

/**
 * The run after one more event. Pure: the state before is not changed. An event that was folded before (a stream
 * that resumed) changes nothing.
 */
export function foldEvent(before: RunState | null, event: WakeEvent): RunState | null {
  const { body, at, seq } = event
  if (before && seq <= before.seq) return before
  if (body.type === 'run.opened') {
    // What the bench was stays in the wake, for whoever opens the record; no fold rests on it.
    const { type: _type, plan, bench: _bench, gates: _gates, ...facts } = body
    return {
      facts,
      leg: 1,
      legAt: at,
      pastLegs: [],
      left: 'as-it-was',
      pieces: piecesOf(facts).map(() => 'untouched'),
      goesOnAt: null,
      seq,
      at,
      startedAt: at,
      steps: plan.map((step) => ({ ...step, state: 'waiting' })),
      open: null,
      outcome: 'running',
      progress: null,
      acknowledged: 0,
      prompt: null,
      notes: [],
      retries: [],
      questions: [],
      supply: [],
      before: null,
      after: null,
      verified: null,
      compared: [],
      findings: [],
      backups: [],
      heldAgainst: null,
      supplyWarning: null,
      faults: null,
      aftercare: [],
      problem: null,
    }
  }
  if (!before) return null
  const state: RunState = { ...before, seq, at }
  switch (body.type) {
    case 'leg.opened': {
      const left = conditionOf(before)
      const { type: _type, leg, goesOnAt, plan, bench: _bench, gates: _gates, ...facts } = body
      const { cutWhy: _cutWhy, endedAt = at, ...rest } = before
      const { adapter: _adapter, shed: _shed, link: _link, ...runFacts } = before.facts
      return {
        ...rest,
        seq,
        at,
        facts: { ...runFacts, ...facts },
        leg,
        legAt: at,
        pastLegs: [
          ...before.pastLegs,
          {
            leg: before.leg,
            startedAt: before.legAt,
            endedAt,
            outcome: endOfLeg(before.outcome),
            trouble: troubleAt(before),
            acknowledged: before.acknowledged,
            retries: before.retries.length,
          },
        ],
        left,
        // What was started, or never erased, is judged by the steps of the new leg alone.
        pieces: midway.has(left) ? before.pieces : before.pieces.map(() => 'untouched'),
        goesOnAt: goesOnAt ?? null,
        steps: plan.map((step) => ({ ...step, state: 'waiting' })),
        open: null,
        outcome: 'running',
        progress: null,
        prompt: null,
        // These name steps of the plan before; how many they were stands with their leg.
        retries: [],
        questions: [],
        notes: [],
        supplyWarning: null,
        // The page before the first write stays what the proof is held against.
        after: null,
        verified: null,
        compared: [],
        findings: [],
        problem: null,
      }
    }
    case 'step.started':
      state.open = body.step
      state.progress = null
      // A check that is begun again is judged again.
      if (before.steps[body.step]?.kind === 'verify') state.verified = null
      if (before.steps[body.step]?.kind === 'compare') state.heldAgainst = null
      state.steps = withStep(state.steps, body.step, { state: 'open', startedAt: at })
      state.pieces = withPiece(before, body.step, pieceBegun)
      return state
    case 'progress':
      state.progress = { done: body.done, total: body.total, unit: body.unit, retries: body.retries, at }
      if (before.open !== null && ['backup', 'dry-run'].includes(before.steps[before.open]!.kind))
        return state
      // What was erased is not in the unit any more.
      state.acknowledged = body.unit === 'bytes' ? body.done : 0
      if (body.unit === 'bytes' && body.done === body.total)
        state.pieces = withPiece(before, body.step, { write: 'whole' })
      if (body.retries > (before.progress?.retries ?? 0)) {
        state.retries = [...state.retries, { at, step: body.step, why: 'a block was sent again' }]
      }
      return state
    case 'prompt.asked': {
      const { type: _type, ...prompt } = body
      state.prompt = prompt
      state.questions = [...state.questions, { at, step: body.step }]
      return state
    }
    case 'prompt.answered':
      state.prompt = null
      state.questions = state.questions.map((question, index) =>
        index === state.questions.length - 1 ? { ...question, answeredAt: at } : question,
      )
      return state
    case 'supply':
      if (body.volts !== null) state.supply = [...state.supply, { at, volts: body.volts }]
      return state
    case 'retry':
      state.retries = [...state.retries, { at, step: body.step, why: body.why }]
      return state
    case 'note':
      state.notes = [...state.notes, { at, says: body.says }]
      return state
    case 'snapshot':
      if (body.refused !== undefined) return state
      // A later leg finds the unit in its bootloader, which says less: what was read first is what it was.
      if (body.when === 'after' || state.before === null) state[body.when] = body.snapshot
      return state
    case 'findings':
      state.findings = body.findings
      return state
    case 'verified':
      state.verified = weakestCheck([...(before.verified ? [before.verified] : []), checkOf(body)])
      return state
    case 'compared':
      state.compared = body.rows
      state.findings = body.findings
      return state
    case 'backup': {
      const { type: _type, ...backup } = body
      state.backups = [...state.backups, backup]
      return state
    }
    case 'held-against':
      state.heldAgainst = weakestCheck([...(before.heldAgainst ? [before.heldAgainst] : []), checkOf(body)])
      return state
    case 'supply-warning':
      state.supplyWarning =
        body.volts === null ? null : { at, volts: body.volts, atLastByte: body.atLastByte }
      return state
    case 'faults': {
      const { type: _type, ...faults } = body
      state.faults = faults
      return state
    }
    case 'aftercare': {
      const { type: _type, ...care } = body
      state.aftercare = [...state.aftercare.filter(({ item }) => item !== care.item), { ...care, at }]
      return state
    }
    case 'step.done':
      state.steps = withStep(state.steps, body.step, { state: 'done', endedAt: at })
      state.pieces = withPiece(before, body.step, pieceDone)
      state.open = null
      return state
    case 'failed':
      return ended(state, 'failed', at, { problem: body.problem })
    case 'abandon.asked':
    case 'job.closed':
    case 'job.reopened':
      return state
    case 'cut':
      return ended(state, 'cut', before.at, { cutWhy: body.why })
    case 'run.closed':
      return ended(state, body.outcome, at, {})
  }
}

/** Milliseconds until the last step is done, at `now`; null when the run is over. Waiting for a person counts as planned. */
export function timeLeft(state: RunState, now: number): number | null {
  if (state.outcome !== 'running') return null
  return state.steps.reduce((sum, step, index) => {
    if (step.state === 'done') return sum
    const planned = step.predictedMs + step.personMs
    return sum + (index === state.open ? openStepLeft(state, step, now) : planned)
  }, 0)
}

/** Milliseconds until the open step is done, at `now`. */
export function openStepLeft(state: RunState, step: StepState, now: number): number {
  const startedAt = step.startedAt ?? now
  const { progress } = state
  const planned = Math.max(0, step.predictedMs + step.personMs - (now - startedAt))
  if (!progress || progress.done === 0) return planned
  // What was measured counts for as much as has been done of it; before that the prediction does.
  const elapsed = progress.at - startedAt
  const share = progress.done / progress.total
  const { tailMs: tail = 0 } = step
  const measured = elapsed / share - elapsed + tail
  const predicted = (step.predictedMs - tail) * (1 - share) + tail
  const weight = Math.min(1, share * 10)
  return Math.max(0, measured * weight + predicted * (1 - weight) - (now - progress.at))
}

/** Bytes a second since the write began, from acknowledged bytes; null before the first. */
export function bytesPerSecond(state: RunState): number | null {
  const { progress, open } = state
  const startedAt = open === null ? undefined : state.steps[open]?.startedAt
  if (!progress || progress.unit !== 'bytes' || startedAt === undefined || progress.at <= startedAt)
    return null
  return (progress.done * 1000) / (progress.at - startedAt)
}

/** The supply as it is watched in a run, V. */
export interface SupplyNow {
  now: number
  lowest: number
  /** Straight on from the readings of the write; null before there are as many as a warning takes. */
  atLastByte: number | null
  floor: number
}

/** When the last byte of the last component will be written, on the run's clock; null while none is being written. */
function lastByteAt(state: RunState): number | null {
  const { steps, open, at } = state
  const step = open === null ? undefined : steps[open]
  if (step?.kind !== 'write' || step.startedAt === undefined) return null
  const end = steps.findLastIndex(({ kind }) => kind === 'write')
  const behind = steps.slice(open! + 1, end + 1).reduce((sum, { predictedMs }) => sum + predictedMs, 0)
  return at + openStepLeft(state, step, at) + behind
}

/** The supply as read, and where it is going; null when it was never read. */
export function supplyNow(state: RunState): SupplyNow | null {
  const last = state.supply[state.supply.length - 1]
  if (!last) return null
  const first = state.steps.find((step) => step.kind === 'write')
  const readings =
    first?.startedAt === undefined ? [] : state.supply.filter((reading) => reading.at >= first.startedAt!)
  const endsAt = lastByteAt(state)
  return {
    now: last.volts,
    lowest: Math.min(...state.supply.map((reading) => reading.volts)),
    atLastByte:
      endsAt === null || readings.length < fewestUnderLoad ? null : voltsAtLastByte(readings, endsAt),
    floor: state.facts.floorVolts,
  }
}

function withStep(steps: readonly StepState[], index: number, change: Partial<StepState>): StepState[] {
  return steps.map((step, at) => (at === index ? { ...step, ...change } : step))
}

function ended(
  state: RunState,
  outcome: RunState['outcome'],
  endedAt: number,
  more: Partial<RunState>,
): RunState {
  const broken = outcome !== 'proved' && outcome !== 'done' && state.open !== null
  return {
    ...state,
    ...more,
    outcome,
    endedAt,
    prompt: null,
    supplyWarning: null,
    open: null,
    steps: broken ? withStep(state.steps, state.open!, { state: 'broken', endedAt }) : state.steps,
  }
}

/** What becomes of a component as a step of it begins, and as it ends. */
const pieceBegun: Partial<Record<StepKind, PieceState>> = { erase: 'part', write: 'part', verify: 'whole' }
const pieceDone: Partial<Record<StepKind, PieceState>> = { write: 'whole', verify: 'checked' }

function withPiece(
  { steps, pieces }: RunState,
  step: number,
  becomes: Partial<Record<StepKind, PieceState>>,
): PieceState[] {
  const { kind, piece = 0 } = steps[step]!
  const now = becomes[kind]
  return now === undefined ? pieces : pieces.map((was, index) => (index === piece ? now : was))
}
