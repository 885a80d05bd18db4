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
/** In this thread fewer: a write that is under way waits for each go. */
const atOnceHere = 2

/**
 * Which stored records hold, so that a list never shows a damaged run as proved. A run is checked once after each start
 * and again every day; one that has grown since is checked again when a list shows it.
 */
export class ChainBook {
  private readonly known = new Map<string, { hash: string; brokenAt: number | null }>()
  inThread: RecordWork | undefined

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

  /** Every run known to be damaged. */
  broken(): { runId: string; brokenAt: number }[] {
    return [...this.known].flatMap(([runId, { brokenAt }]) =>
      brokenAt === null ? [] : [{ runId, brokenAt }],
    )
  }
}
