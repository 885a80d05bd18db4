import type { VirtualClock, Clock } from '@bench-wake/core/kernel'
import {
  foldEvent,
  foldWake,
  sealEvent,
  wakeWriter,
  type Journal,
  type RunState,
  type WakeEvent,
  type WakeWriter,
} from '@bench-wake/core/run'
import type { Database } from '../db/open'
import { databaseTrouble } from '../db/trouble'
import type { Speed } from '../ports/port-clock'
import { appendEvent, lastEvent, openRun, payDebts } from '../store/runs'
import type { OwedEvents } from './owed-events'

/** A run under way, with whoever listens to it. */
export interface ActiveRun {
  id: string
  portId: string
  speed: Speed
  state: RunState | null
  last: WakeEvent | undefined
  wake: WakeWriter
  /** What takes the answer to an open question, by question. */
  answers: Map<string, (answer: string) => void>
  /** What was typed with an answer, by question: it goes to the unit, and into no record. */
  typed: Map<string, string>
  abandon: { raised: boolean; token?: string }
  halt: { raised: boolean }
  listeners: Set<(event: WakeEvent) => void>
  finished: Promise<void>
  /** Called when the run waits for a person, who may not come before the program ends. */
  onWaiting: () => void
}

/** Where a run stands, and what it works on. */
export interface RunForm {
  id: string
  jobId: string
  unitId: string
  portId: string
  speed: Speed
  clock: Clock
  /** Its wake so far, where it goes on with another leg. */
  before: readonly WakeEvent[]
  /** This program among those that work on the same database. */
  program: string | null
}

/** While a promise is pending a virtual clock stands still: what the disk and a person take is no time of the unit's. */
export const freezeOf = (clock: Clock): (<T>(pending: Promise<T>) => Promise<T>) =>
  'freezeWhile' in clock ? (clock as VirtualClock).freezeWhile : (pending) => pending

/**
 * A run whose wake is kept in the database, each event told to its listeners when it is on disk, or owed.
 * @param follows who is told of every event before anybody else.
 */
export function activeRun(
  db: Database,
  owed: OwedEvents,
  { id, jobId, unitId, portId, speed, clock, before, program }: RunForm,
  follows: (run: ActiveRun, event: WakeEvent) => void,
): ActiveRun {
  const freeze = freezeOf(clock)
  const tell = (event: WakeEvent) => {
    run.last = event
    run.state = foldEvent(run.state, event)
    follows(run, event)
    for (const listener of run.listeners) listener(event)
  }
  // The trouble in words: it stands in the record as the reason.
  const told = (pending: Promise<void>) =>
    pending.catch((error: unknown) => {
      throw databaseTrouble(error) ?? error
    })
  const journal: Journal = {
    append: (event) =>
      freeze(
        told(
          event.seq === 1 ? openRun(db, { id, jobId, unitId, program }, event) : appendEvent(db, id, event),
        ),
      ).then(() => tell(event)),
    last: () =>
      freeze(
        (async () => {
          await payDebts(db, id)
          return lastEvent(db, id)
        })(),
      ),
    owe: (body, at) => {
      owed.add(id, { body, at })
      tell(sealEvent(body, at, run.last))
    },
  }
  const run: ActiveRun = {
    id,
    portId,
    speed,
    state: foldWake(before),
    last: before.at(-1),
    wake: wakeWriter(journal, clock, before.at(-1)),
    answers: new Map(),
    typed: new Map(),
    abandon: { raised: false },
    halt: { raised: false },
    listeners: new Set(),
    finished: Promise.resolve(),
    onWaiting: () => {},
  }
  return run
}
