import { sealEvent, type WakeBody, type WakeEvent } from '@bench-wake/core/run'
import type { Database } from '../db/open'

/** What happened and could not be written: the end of a run on a disk that took no more. */
export interface Debt {
  body: WakeBody
  at: number
}

/**
 * Events that wait for the disk, by run. They are a part of the wake for everybody who reads it, so that a run is never
 * shown as running which is not; when the program ends before the disk takes them, the next start calls the run cut.
 */
export class Debts {
  private readonly owed = new Map<string, Debt[]>()

  of(runId: string): readonly Debt[] {
    return this.owed.get(runId) ?? []
  }

  add(runId: string, debt: Debt): void {
    this.owed.set(runId, [...this.of(runId), debt])
  }

  /** The first of a run is on disk. */
  paid(runId: string): void {
    const [, ...rest] = this.of(runId)
    if (rest.length > 0) this.owed.set(runId, rest)
    else this.owed.delete(runId)
  }

  runs(): string[] {
    return [...this.owed.keys()]
  }
}

const all = new WeakMap<Database, Debts>()

/** The debts of an open database. */
export function debtsOf(db: Database): Debts {
  const own = all.get(db) ?? new Debts()
  all.set(db, own)
  return own
}

/** A wake with what is owed to it, sealed as it will be written. */
export function withDebts(wake: WakeEvent[], debts: readonly Debt[]): WakeEvent[] {
  if (debts.length === 0) return wake
  const whole = [...wake]
  for (const { body, at } of debts) whole.push(sealEvent(body, at, whole.at(-1)))
  return whole
}
