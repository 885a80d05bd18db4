import { isProblem, Problem } from '@bench-wake/core/kernel'
import { statfs, stat } from 'node:fs/promises'
import { sql } from 'drizzle-orm'
import type { Database } from '../db/open'
import { wakeEvents } from '../db/schema'
import { WorkerThread } from '../worker/worker-thread'
import { clearSurplus, listBackupFiles, type BackupFile } from './backups'
import { listDamage, setAside, type Damage } from './damage'

/** A backup is made a while after the start, and then as soon as the newest is this old, ms. */
const firstAfterMs = 5 * 60_000
const lookEveryMs = 15 * 60_000
const dayMs = 86_400_000
/** From so many events on it takes longer to look through them than a start may. */
const manyEvents = 20_000
/** A copy of a large database takes its time, ms. */
const copyMs = 30 * 60_000

/** How the data of this bench stand. */
export interface DataState {
  /** Null where the database lies on a server, whose keeper makes its backups. */
  database: { path: string; bytes: number } | null
  /** Room on the disk of the data folder, bytes. */
  freeBytes: number | null
  backups: BackupFile[]
  /** Why the last backup by itself was not made. */
  trouble: string | null
  damage: Damage[]
}

/** Looks after the data: rolling backups, and rows that cannot be read. */
export class DataKeeper {
  private timer: NodeJS.Timeout | undefined
  private trouble: string | null = null
  private damaged = 0
  private readonly worker: WorkerThread
  private making: Promise<BackupFile> | undefined

  constructor(
    private readonly db: Database,
    private readonly form: {
      databaseUrl: string
      /** Null where the database lies elsewhere. */
      databasePath: string | null
      backupsFolder: string
      /** Whether a unit is worked on: a copy then waits. */
      busy: () => boolean
      /** Puts a backup in the place of the database and starts anew. */
      restore: (name: string) => Promise<void>
    },
  ) {
    this.worker = new WorkerThread(form.databaseUrl, copyMs)
  }

  /** Sets aside what cannot be read. @returns how many rows. */
  async setAside(): Promise<number> {
    const count = await setAside(this.db)
    this.damaged = Math.max(this.damaged, count)
    // A long record takes seconds to look through; nobody waits for it. A thread that was ended had no more to say.
    const looked = this.look().catch(() => {})
    if (!(await this.isLong())) await looked
    return count
  }

  private async look(): Promise<Damage[]> {
    const damage = (await this.isLong())
      ? await this.worker.ask('damage', undefined)
      : await listDamage(this.db)
    this.damaged = damage.length
    return damage
  }

  /** Rows that could not be read when it was looked last. */
  damagedRows(): number {
    return this.damaged
  }

  async state(): Promise<DataState> {
    const { databasePath, backupsFolder } = this.form
    const free = databasePath === null ? null : await statfs(databasePath).catch(() => null)
    return {
      database: databasePath === null ? null : { path: databasePath, bytes: (await stat(databasePath)).size },
      freeBytes: free ? free.bavail * free.bsize : null,
      backups: await listBackupFiles(backupsFolder),
      trouble: this.trouble,
      damage: await this.look(),
    }
  }

  /** Makes a backup now. @throws Problem of the disk; `elsewhere`. */
  backUp(): Promise<BackupFile> {
    const { databasePath, backupsFolder } = this.form
    if (databasePath === null) {
      throw new Problem({
        kind: 'elsewhere',
        says: 'the database lies on a server',
        remedy: 'Ask who keeps that server for its backups.',
      })
    }
    this.making ??= this.worker
      .ask('backUp', { databasePath, folder: backupsFolder, at: Date.now() })
      .then(async (made) => {
        await clearSurplus(backupsFolder, Date.now())
        this.trouble = null
        return made
      })
      .finally(() => {
        this.making = undefined
      })
    return this.making
  }

  /** @throws Problem `run-under-way`, `not-found`, `database-damaged`: then nothing was changed. */
  async restore(name: string): Promise<void> {
    if (this.form.busy()) {
      throw new Problem({
        kind: 'run-under-way',
        says: 'a run is under way',
        remedy: 'Bring it to its end first; its record must not go.',
      })
    }
    await this.form.restore(name)
  }

  /** Backups by themselves, from now on, and lists that nobody waits for. */
  begin(): void {
    void this.foldPast()
    if (this.form.databasePath === null) return
    const next = (ms: number) => {
      this.timer = setTimeout(() => void this.maybe().then(() => next(lookEveryMs)), ms)
      this.timer.unref()
    }
    next(firstAfterMs)
  }

  /** Whether the wakes on disk are worth a thread of their own. */
  private async isLong(): Promise<boolean> {
    const [last] = await this.db.select({ row: sql<number | null>`max(rowid)` }).from(wakeEvents)
    return (last?.row ?? 0) > manyEvents
  }

  /** Behind an update all past runs are folded once. A thread that is ended goes on with it at the next start. */
  private async foldPast(): Promise<void> {
    if (await this.isLong().catch(() => false)) await this.worker.ask('foldPast', undefined).catch(() => {})
  }

  private async maybe(): Promise<void> {
    if (this.form.busy()) return
    try {
      const [last] = await listBackupFiles(this.form.backupsFolder)
      if (!last || Date.now() - last.at > dayMs) await this.backUp()
    } catch (error) {
      this.trouble = isProblem(error) ? error.message : String(error)
    }
  }

  async end(): Promise<void> {
    clearTimeout(this.timer)
    await this.making?.catch(() => {})
    await this.worker.close()
  }
}
