import type { Verdict } from '../../kernel'
import type { CaseAgreement } from './agreement'
import type { CaseEvent, TimedCaseEvent } from './events'

/** What the fold is told of a log. */
export interface LogFacts {
  id: string
  verdict: Verdict
}

/** A log of a round. */
export interface RoundLog {
  id: string
  logKind: string
  at: number
  leftOut: string | null
  /** Who took its hold upon them, and why. */
  accepted: string | null
  /** It can be accepted by name. */
  held: boolean
  /** Nothing stops it, and nothing holds it that nobody answers for. */
  good: boolean
}

/** What a round waits for. */
export type RoundState = 'to-write' | 'to-log' | 'to-send' | 'sent' | 'answered'

/** One image of the loop, and what came of it. */
export interface CaseRound {
  /** From 1. */
  number: number
  imageId: string
  definitionId: string | null
  remarks: string
  receivedAt: number
  jobId: string | null
  /** Whether its image is proved to be on the unit. */
  written: boolean
  logs: RoundLog[]
  machineChanges: { at: number; says: string }[]
  sent: { at: number; sha256: string; symptoms: string } | null
  answeredAt: number | null
  state: RoundState
  /** Time it was with the calibrator, ms; up to now where the answer is awaited. */
  waitedMs: number
}

/** A case as its events leave it. */
export interface CaseState {
  agreement: CaseAgreement
  openedAt: number
  rounds: CaseRound[]
  closed: { at: number; by: string; outcome: 'reached' | 'mechanical' | 'given-up'; says: string } | null
  next: CaseNext
}

/** What is to be done now; one thing at a time. */
export type CaseNext =
  | { does: 'receive'; after: 'opening' | 'answer' }
  | { does: 'write'; round: number }
  /** The kind of log that is asked for; the ones after it wait until it is good (PRACTICE K2). */
  | { does: 'log'; round: number; logKind: string }
  | { does: 'send'; round: number }
  | { does: 'wait'; round: number; sinceMs: number }
  | { does: 'nothing' }

/**
 * The state of a case from its events.
 * @param logs what each log came to. @param proved jobs whose image is proved to be on the unit.
 * @param now ms since 1970, for the days that were waited.
 */
export function foldCase(
  events: readonly TimedCaseEvent[],
  logs: readonly LogFacts[],
  proved: ReadonlySet<string>,
  now: number,
): CaseState | null {
  const verdicts = new Map(logs.map(({ id, verdict }) => [id, verdict]))
  let state: CaseState | null = null
  for (const { at, event } of events) {
    if (event.kind === 'opened')
      state = {
        agreement: event.agreement,
        openedAt: at,
        rounds: [],
        closed: null,
        next: { does: 'nothing' },
      }
    else if (state) take(state, at, event, verdicts)
  }
  if (!state) return null
  for (const round of state.rounds) {
    round.written = round.jobId !== null && proved.has(round.jobId)
    round.state = roundState(state.agreement, round)
    round.waitedMs = round.sent ? (round.answeredAt ?? now) - round.sent.at : 0
  }
  state.next = nextOf(state)
  return state
}

function take(state: CaseState, at: number, event: CaseEvent, verdicts: ReadonlyMap<string, Verdict>): void {
  const round = state.rounds.at(-1)
  switch (event.kind) {
    case 'opened':
      return
    case 'agreed':
      state.agreement = event.agreement
      return
    case 'machine-changed':
      round?.machineChanges.push({ at, says: event.says })
      return
    case 'revision':
      if (round?.sent && round.answeredAt === null) round.answeredAt = at
      state.rounds.push({
        number: state.rounds.length + 1,
        imageId: event.imageId,
        definitionId: event.definitionId,
        remarks: event.remarks,
        receivedAt: at,
        jobId: null,
        written: false,
        logs: [],
        machineChanges: [],
        sent: null,
        answeredAt: null,
        state: 'to-write',
        waitedMs: 0,
      })
      return
    case 'job':
      if (round) round.jobId = event.jobId
      return
    case 'log': {
      const verdict = verdicts.get(event.logId)
      round?.logs.push({
        id: event.logId,
        logKind: event.logKind,
        at,
        leftOut: null,
        accepted: null,
        held: verdict === 'hold',
        good: verdict === 'go' || verdict === 'note',
      })
      return
    }
    case 'log-left-out':
      for (const each of state.rounds)
        for (const log of each.logs) if (log.id === event.logId) log.leftOut = event.why
      return
    case 'log-accepted':
      for (const { logs } of state.rounds)
        for (const log of logs)
          if (log.id === event.logId && log.held) {
            log.accepted = `${event.by}: ${event.why}`
            log.good = true
          }
      return
    case 'sent':
      if (round) round.sent = { at, sha256: event.sha256, symptoms: event.symptoms }
      return
    case 'closed':
      state.closed = { at, by: event.by, outcome: event.outcome, says: event.says }
      return
    case 'reopened':
      state.closed = null
      return
  }
}

/** Kinds of log that no good log was taken of yet, in their order. */
export function kindsLeft({ kinds }: CaseAgreement, { logs }: Pick<CaseRound, 'logs'>): string[] {
  return kinds
    .map(({ id }) => id)
    .filter((id) => !logs.some(({ logKind, good, leftOut }) => logKind === id && good && leftOut === null))
}

function roundState(agreement: CaseAgreement, round: CaseRound): RoundState {
  if (round.answeredAt !== null) return 'answered'
  if (round.sent) return 'sent'
  if (!round.written) return 'to-write'
  return kindsLeft(agreement, round).length > 0 ? 'to-log' : 'to-send'
}

function nextOf({ agreement, rounds, closed }: CaseState): CaseNext {
  if (closed) return { does: 'nothing' }
  const round = rounds.at(-1)
  if (!round) return { does: 'receive', after: 'opening' }
  switch (round.state) {
    case 'to-write':
      return { does: 'write', round: round.number }
    case 'to-log':
      return { does: 'log', round: round.number, logKind: kindsLeft(agreement, round)[0]! }
    case 'to-send':
      return { does: 'send', round: round.number }
    case 'sent':
      return { does: 'wait', round: round.number, sinceMs: round.sent!.at }
    case 'answered':
      return { does: 'receive', after: 'answer' }
  }
}
