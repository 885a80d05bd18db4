import { eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { bundles, imageFiles, jobFiles, snapshots } from '../db/schema'
import { nextTurn } from '../host-time'
import { sweepSomeBlobs, type SweptBlobs } from '../store/blobs'
import { runHeads } from '../store/run-summaries'
import { chainBookOf } from '../store/runs'
import type { WorkerThread } from '../worker/worker-thread'
import type { Damage } from './damage'

/** How far the look at every record and every stored file has come. */
export interface SweepState {
  /** When the last whole look was over, ms since 1970; null before the first after a start. */
  at: number | null
  runs: { checked: number; total: number }
  files: { checked: number }
}

/** Looks at every chain and every stored file: once after each start, and then daily. */
export class Sweep {
  private under: Promise<void> | undefined
  private ended = false
  private altered: Damage[] = []
  state: SweepState = { at: null, runs: { checked: 0, total: 0 }, files: { checked: 0 } }

  /**
   * @param thread where the look is taken once the record is long; null for a short one.
   * @param tell is told the digests of files whose bytes were altered.
   */
  constructor(
    private readonly db: Database,
    private readonly thread: () => WorkerThread | null,
    private readonly tell: (digests: readonly string[]) => void,
    /** A database too large for its indexes to be checked at the start. */
    private readonly largePath: string | null,
  ) {}

  /** One whole look; a second call waits for the first. */
  run(): Promise<void> {
    this.under ??= this.look().finally(() => {
      this.under = undefined
    })
    return this.under
  }

  /** What is damaged, as far as it was looked at. */
  damage(): Damage[] {
    const records = chainBookOf(this.db)
      .broken()
      .map(({ runId, brokenAt }) => ({
        table: 'wake_events',
        key: `run ${runId}, event ${brokenAt}`,
        why: 'this event is missing, was altered or cannot be read',
      }))
    return [...records, ...this.altered]
  }

  async end(): Promise<void> {
    this.ended = true
    await this.under?.catch(() => {})
  }

  private async look(): Promise<void> {
    const heads = await runHeads(this.db, undefined)
    const found: string[] = []
    this.state = { ...this.state, runs: { checked: 0, total: heads.length }, files: { checked: 0 } }
    for (let at = 0; at < heads.length && !this.ended; at += 100) {
      await chainBookOf(this.db).checkNow(heads.slice(at, at + 100))
      this.state.runs.checked = Math.min(at + 100, heads.length)
    }
    for (let after: number | null = 0; after !== null && !this.ended;) {
      await nextTurn()
      const form: { after: number } = { after }
      const swept: SweptBlobs = await (this.thread()?.ask('blobs', form) ?? sweepSomeBlobs(this.db, after))
      found.push(...swept.altered)
      this.state.files.checked += swept.count
      after = swept.next
    }
    if (this.largePath && !this.ended) await this.thread()?.ask('indexes', { path: this.largePath })
    if (this.ended) return
    this.altered = await Promise.all(found.map((sha256) => this.nameOf(sha256)))
    this.tell(found)
    this.state = { ...this.state, at: Date.now() }
  }

  private async nameOf(sha256: string): Promise<Damage> {
    const { db } = this
    const [image] = await db.select().from(imageFiles).where(eq(imageFiles.sha256, sha256)).limit(1)
    const [bundle] = await db.select().from(bundles).where(eq(bundles.sha256, sha256)).limit(1)
    const [file] = await db.select().from(jobFiles).where(eq(jobFiles.sha256, sha256)).limit(1)
    const [photo] = await db.select().from(snapshots).where(eq(snapshots.photoSha256, sha256)).limit(1)
    const name = image
      ? `image ${image.name}`
      : bundle
        ? `archive ${bundle.name}`
        : file
          ? `${file.name} of job ${file.jobId}`
          : photo
            ? `photo of unit ${photo.unitId}`
            : `file ${sha256.slice(0, 12)}`
    return { table: 'blobs', key: name, why: 'its stored bytes are not those that came in' }
  }
}
