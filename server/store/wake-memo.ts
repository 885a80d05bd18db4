import { foldWake, type RunState, type StoredEvent, type WakeEvent } from '@bench-wake/core/run'
import { createHash } from 'node:crypto'
import type { Database } from '../db/open'

/** A wake as far as it can be read, with what is owed to it, and the first event that breaks its chain. */
export interface KeptWake {
  readonly wake: WakeEvent[]
  readonly brokenAt: number | null
}

/** An event as it lies on disk. */
export interface WakeRow extends StoredEvent {
  runId: string
}

/** About 30 MB of events in memory. */
const maxEvents = 50_000

/**
 * Wakes that were read before. What lies on disk is read each time, and its digest decides: an event that somebody
 * altered is seen at once, and what has not changed is not parsed again.
 */
class WakeMemo {
  private readonly known = new Map<string, { mark: string; kept: KeptWake }>()
  private events = 0

  read(runId: string, rows: readonly WakeRow[], parse: (rows: readonly WakeRow[]) => KeptWake): KeptWake {
    const mark = markOf(rows)
    const before = this.known.get(runId)
    if (before?.mark === mark) return before.kept
    const kept = parse(rows)
    if (before) this.forget(runId, before.kept)
    this.known.set(runId, { mark, kept })
    this.events += kept.wake.length
    for (const [id, old] of this.known) {
      if (this.events <= maxEvents) break
      this.forget(id, old.kept)
    }
    return kept
  }

  private forget(runId: string, { wake }: KeptWake): void {
    this.known.delete(runId)
    this.events -= wake.length
  }
}

function markOf(rows: readonly WakeRow[]): string {
  const hash = createHash('sha256')
  for (const { seq, at, type, prev, hash: own, text } of rows)
    hash.update(`${seq} ${at} ${type} ${prev} ${own} ${text?.length} ${text}\n`)
  return hash.digest('base64')
}

const memos = new WeakMap<Database, WakeMemo>()

/** The memory of an open database. */
export function wakeMemoOf(db: Database): WakeMemo {
  const own = memos.get(db) ?? new WakeMemo()
  memos.set(db, own)
  return own
}

const folded = new WeakMap<readonly WakeEvent[], RunState | null>()

/** Folds a wake, once for as long as the same wake is in memory. */
export function tellWake(wake: readonly WakeEvent[]): RunState | null {
  const known = folded.get(wake)
  if (known !== undefined) return known
  const state = foldWake(wake)
  folded.set(wake, state)
  return state
}
