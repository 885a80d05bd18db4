import { nextTurn } from '../host-time'
import type { RunHead } from './run-summaries'

/** Work on stored records that takes long where there are many: done in the thread beside the server once there is one. */
export interface RecordWork {
  /** Follows the chains of some runs. */
  check(runIds: readonly string[]): Promise<[runId: string, brokenAt: number | null][]>
  /** Folds some runs, and keeps what they came to. */
  fold(runIds: readonly string[]): Promise<void>
}

type Head = Pick<RunHead, 'id' | 'hash'>

/** Chains checked in one go: a thread that checks them answers a list in between. */
const atOnce = 50
/** Runs folded in one go of the thread. */
const foldedAtOnce = 16
/** In this thread fewer: a write that is under way waits for each go. */
const atOnceHere = 2

/**
 * Which stored records hold, so that a list never shows a damaged run as proved. A run is checked once after each start
 * and again every day; one that has grown since is checked again when a list shows it.
 */
export class ChainBook {
  private readonly known = new Map<string, { hash: string; brokenAt: number | null }>()
  inThread: RecordWork | undefined
  /** Runs that wait to be folded, those that a screen asks for first; and those that were, by their last event. */
  private waiting: Head[] = []
  private readonly folded = new Set<string>()
  private folding = false

  /** @param here checks in this thread, where there is no other. */
  constructor(private readonly here: RecordWork['check']) {}

  /** @returns first event that breaks the chain, for runs whose record is damaged. */
  async breaksOf(heads: readonly Head[]): Promise<Map<string, number>> {
    await this.checkNow(heads.filter(({ id, hash }) => this.known.get(id)?.hash !== hash))
    return new Map(
      heads.flatMap(({ id }) => {
        const brokenAt = this.known.get(id)?.brokenAt
        return brokenAt === null || brokenAt === undefined ? [] : [[id, brokenAt] as const]
      }),
    )
  }

  /** Checks runs whatever is known of them. @param told is told after each go how many are checked. */
  async checkNow(heads: readonly Head[], told: (count: number) => void = () => {}): Promise<void> {
    const size = this.inThread ? atOnce : atOnceHere
    for (let at = 0; at < heads.length; at += size) {
      if (at > 0) await nextTurn()
      const some = new Map(heads.slice(at, at + size).map(({ id, hash }) => [id, hash]))
      for (const [id, brokenAt] of await (this.inThread?.check ?? this.here)([...some.keys()]))
        this.known.set(id, { hash: some.get(id)!, brokenAt })
      told(Math.min(at + size, heads.length))
    }
  }

  /** Whether a run was handed to the thread already: one that is damaged or under way keeps no summary. */
  wasFolded({ id, hash }: Head): boolean {
    return this.folded.has(`${id} ${hash}`)
  }

  /** Folds runs in the thread, while lists show what is known already. @param first before those that wait. */
  foldInThread(heads: readonly Head[], first: boolean): void {
    const asked = new Set(heads.map(({ id }) => id))
    const others = this.waiting.filter(({ id }) => !asked.has(id))
    this.waiting = first ? [...heads, ...others] : [...this.waiting, ...heads]
    if (this.folding || !this.inThread) return
    this.folding = true
    void this.foldWaiting()
      .catch(() => {
        // A thread that was ended: the next start goes on with it.
      })
      .finally(() => {
        this.folding = false
      })
  }

  private async foldWaiting(): Promise<void> {
    while (this.waiting.length > 0) {
      const some = this.waiting.splice(0, foldedAtOnce)
      await this.inThread!.fold(some.map(({ id }) => id))
      for (const { id, hash } of some) this.folded.add(`${id} ${hash}`)
    }
  }

  /** Every run known to be damaged. */
  broken(): { runId: string; brokenAt: number }[] {
    return [...this.known].flatMap(([runId, { brokenAt }]) =>
      brokenAt === null ? [] : [{ runId, brokenAt }],
    )
  }
}
