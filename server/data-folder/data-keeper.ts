import { isProblem, Problem } from '@bench-wake/core/kernel'
import { statfs, stat } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { sql } from 'drizzle-orm'
import type { Database } from '../db/open'
import { passwords, wakeEvents } from '../db/schema'
import { chainBookOf, foldPast } from '../store/runs'
import { WorkerThread } from '../worker/worker-thread'
import { clearHalf, clearSurplus, listBackupFiles, withDamage, type BackupFile } from './backups'
import { listSetAside, setAside, type Damage } from './damage'
import { dropCandidate, readRestore, restoreSentence, type RestoreJournal } from './restore-journal'
import { Sweep, type SweepState } from './sweep'

/** A backup is made a while after the start, and then as soon as the newest is this old, ms. */
const firstAfterMs = 5 * 60_000
const lookEveryMs = 15 * 60_000
const dayMs = 86_400_000
/** From so many events on it takes longer to look through them than a start may. */
const manyEvents = 20_000
/** A copy of a large database takes its time, ms. */
const copyMs = 30 * 60_000

/** The state of this bench's data. */
export interface DataState {
  /** Null where the database is on a server, whose keeper makes its backups. */
  database: { path: string; bytes: number } | null
  /** Room on the disk of the data folder, bytes. */
  freeBytes: number | null
  backups: BackupFile[]
  /** Why the last automatic backup was not made. */
  trouble: string | null
  damage: Damage[]
  /** How far every record and every stored file was checked. */
  sweep: SweepState
  /** What the last restore came to; null where there was none. */
  restored: { at: number; says: string } | null
}

/** Looks after the data: rolling backups, checks of every record and file, rows that cannot be read. */
export class DataKeeper {
  private timer: NodeJS.Timeout | undefined
  private trouble: string | null = null
  private aside = 0
  private long = false
  private readonly worker: WorkerThread
  private readonly sweep: Sweep
  private making: Promise<BackupFile> | undefined
  private restoring = false

  constructor(
    private readonly db: Database,
    private readonly form: {
      databaseUrl: string
      /** Null where the database is on a server. */
      databasePath: string | null
      backupsFolder: string
      /** Whether a unit is being worked on: a copy then waits. */
      busy: () => boolean
      /** Restarts on a checked copy of a backup; resolves when it is accepted and nothing more is written. */
      restore: (journal: Omit<RestoreJournal, 'step'>) => Promise<void>
      /** Is told the digests of stored files whose bytes were altered. */
      altered: (digests: readonly string[]) => void
      /** A database too large for its indexes to be checked at the start. */
      largePath: string | null
    },
  ) {
    this.worker = new WorkerThread(form.databaseUrl, copyMs)
    this.sweep = new Sweep(db, () => (this.long ? this.worker : null), form.altered, form.largePath)
  }

  /** Sets aside what cannot be read. @returns how many rows. */
  async setAside(): Promise<number> {
    const count = await setAside(this.db)
    this.aside = (await listSetAside(this.db)).length
    return count
  }

  /** Damage that is known: rows set aside, broken records, altered files. */
  damaged(): number {
    return this.aside + this.sweep.damage().length
  }

  async state(): Promise<DataState> {
    const { databasePath, backupsFolder } = this.form
    const free = databasePath === null ? null : await statfs(databasePath).catch(() => null)
    const aside = await listSetAside(this.db)
    this.aside = aside.length
    const journal = databasePath === null ? null : await readRestore(databasePath)
    const says = journal && restoreSentence(journal)
    return {
      database: databasePath === null ? null : { path: databasePath, bytes: (await stat(databasePath)).size },
      freeBytes: free ? free.bavail * free.bsize : null,
      backups: await listBackupFiles(backupsFolder),
      trouble: this.trouble,
      damage: [...aside, ...this.sweep.damage()],
      sweep: this.sweep.state,
      restored: journal && says ? { at: journal.at, says } : null,
    }
  }

  /** Makes a backup now. @throws Problem of the disk; `elsewhere`. */
  backUp(): Promise<BackupFile> {
    const { databasePath, backupsFolder } = this.form
    if (databasePath === null) {
      throw new Problem({
        kind: 'elsewhere',
        says: 'the database is on a server',
        remedy: 'Ask the person who keeps that server for its backups.',
      })
    }
    this.making ??= this.worker
      .ask('backUp', {
        databasePath,
        folder: backupsFolder,
        at: Date.now(),
        ...(this.damaged() > 0 ? { why: withDamage } : {}),
      })
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

  /**
   * Puts a backup in the place of the data and restarts on it, one at a time. Up to its acceptance nothing changes.
   * @param despiteDamage accepts runs and files that are damaged in the backup.
   * @throws Problem `restore-under-way`, `run-under-way`, `elsewhere`, `not-found`, and what is wrong with the backup.
   */
  async restore(name: string, despiteDamage: boolean): Promise<void> {
    const { databasePath, backupsFolder, busy } = this.form
    if (databasePath === null)
      throw new Problem({
        kind: 'elsewhere',
        says: 'the database is on a server',
        remedy: 'Ask the person who keeps that server to restore it.',
      })
    if (this.restoring)
      throw new Problem({
        kind: 'restore-under-way',
        says: 'a backup is being restored already',
        remedy: 'Wait until the program has restarted, then look at its data.',
      })
    const refuseBusy = () => {
      if (!busy()) return
      throw new Problem({
        kind: 'run-under-way',
        says: 'a run is under way',
        remedy: 'Bring it to its end first; its record must not go.',
      })
    }
    refuseBusy()
    this.restoring = true
    try {
      await this.making?.catch(() => {})
      const journal = await this.worker.ask('prepareRestore', {
        databasePath,
        folder: backupsFolder,
        name,
        at: Date.now(),
        despiteDamage,
        passwords: (await this.db.select().from(passwords)).map(({ hash, at }) => ({ hash, at })),
      })
      try {
        refuseBusy()
        await this.form.restore(journal)
      } catch (error) {
        await dropCandidate(join(dirname(databasePath), journal.candidate))
        throw error
      }
    } catch (error) {
      this.restoring = false
      throw error
    }
  }

  /** Automatic backups and checks, from now on. */
  async begin(): Promise<void> {
    this.long = await this.isLong().catch(() => false)
    if (this.long)
      chainBookOf(this.db).inThread = {
        check: (runIds) => this.worker.ask('chains', { runIds }),
        fold: (runIds) => this.worker.ask('fold', { runIds }),
      }
    if (this.long) await foldPast(this.db)
    void this.sweep.run().catch((error: unknown) => this.note(error))
    if (this.form.databasePath === null) return
    await clearHalf(this.form.backupsFolder)
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

  private async maybe(): Promise<void> {
    if (this.form.busy()) return
    try {
      if (Date.now() - (this.sweep.state.at ?? 0) > dayMs) await this.sweep.run()
      const [last] = await listBackupFiles(this.form.backupsFolder)
      if (!last || Date.now() - last.at > dayMs) await this.backUp()
    } catch (error) {
      this.note(error)
    }
  }

  private note(error: unknown): void {
    this.trouble = isProblem(error) ? error.message : String(error)
  }

  async end(): Promise<void> {
    clearTimeout(this.timer)
    await this.making?.catch(() => {})
    // A thread that is ended answers nothing more: whatever waits for it ends with a problem.
    const swept = this.sweep.end()
    await this.worker.close()
    await swept
  }
}
