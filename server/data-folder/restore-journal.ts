import { readFile, rename } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import * as v from 'valibot'
import { isThere, ownFolderAt, removeFile, replaceFile, syncFolder } from './disk'

/*
 * A restore as a transaction over files. A small journal beside the database names the step that is under way; each step
 * can be carried out again from any point, so a start after a crash finishes it. Steps in their order:
 *
 *   out       database, log and index of the old data move into a folder of their own
 *   in        the checked copy of the backup takes the database's name
 *   try       the program opens it
 *   done      it opened: the old data stay in their folder
 *
 * and where the new data cannot be opened:
 *
 *   back-out  the new data move into a folder of their own
 *   back-in   the old data take their names again
 *   failed    the program runs on the old data
 */

const steps = ['out', 'in', 'try', 'done', 'back-out', 'back-in', 'failed'] as const

const Journal = v.object({
  step: v.picklist(steps),
  /** Name of the backup. */
  backup: v.string(),
  /** The checked copy, beside the database. */
  candidate: v.string(),
  /** Folder of the old data, beside the database. */
  old: v.string(),
  /** Folder of new data that could not be opened. */
  refused: v.string(),
  /** When the restore was accepted, ms since 1970. */
  at: v.number(),
  /** Why the new data were not opened. */
  why: v.optional(v.string()),
})
export type RestoreJournal = v.InferOutput<typeof Journal>

/** Files that SQLite keeps for one database: the log and its index never outlive a move of the database alone. */
const parts = ['', '-wal', '-shm']

const journalOf = (databasePath: string) => `${databasePath}.restore.json`

/** The restore that is under way or was the last; null where there was none. */
export async function readRestore(databasePath: string): Promise<RestoreJournal | null> {
  const text = await readFile(journalOf(databasePath), 'utf8').catch(() => null)
  if (text === null) return null
  try {
    return v.parse(Journal, JSON.parse(text))
  } catch {
    // It is replaced as a whole, so damage is the disk's: the database itself says what it holds.
    return null
  }
}

const keep = (databasePath: string, journal: RestoreJournal) =>
  replaceFile(journalOf(databasePath), `${JSON.stringify(journal, null, 2)}\n`)

/** Puts a checked copy in the place of the database. Up to here nothing has changed; from here on a start finishes it. */
export async function beginRestore(databasePath: string, form: Omit<RestoreJournal, 'step'>): Promise<void> {
  await keep(databasePath, { ...form, step: 'out' })
}

/** A scanner or a closing connection may hold a file for a moment where the system does not move open files, ms. */
const heldMs = 5000
const pauseMs = 100

async function moveWhenFree(from: string, to: string): Promise<void> {
  for (let waited = 0; ; waited += pauseMs) {
    try {
      return await rename(from, to)
    } catch (error) {
      const held = ['EBUSY', 'EPERM', 'EACCES'].includes((error as NodeJS.ErrnoException).code ?? '')
      if (!held || waited >= heldMs) throw error
      await new Promise((done) => setTimeout(done, pauseMs))
    }
  }
}

async function moveParts(from: string, to: string): Promise<void> {
  for (const part of parts) if (await isThere(from + part)) await moveWhenFree(from + part, to + part)
  await syncFolder(dirname(from))
  await syncFolder(dirname(to))
}

/** Moves files as the journal says, until the program has to open the database or nothing is left to do. */
export async function settleRestore(databasePath: string): Promise<RestoreJournal | null> {
  let journal = await readRestore(databasePath)
  if (!journal) return null
  const folder = dirname(databasePath)
  const within = (name: string) => join(folder, name, basename(databasePath))
  const next = async (step: RestoreJournal['step']) => {
    journal = { ...journal!, step }
    await keep(databasePath, journal)
  }
  for (;;) {
    switch (journal.step) {
      case 'out':
        await ownFolderAt(join(folder, journal.old))
        await moveParts(databasePath, within(journal.old))
        await next('in')
        break
      case 'in': {
        const candidate = join(folder, journal.candidate)
        if (await isThere(candidate)) await rename(candidate, databasePath)
        await syncFolder(folder)
        await next('try')
        break
      }
      case 'back-out':
        await ownFolderAt(join(folder, journal.refused))
        await moveParts(databasePath, within(journal.refused))
        await next('back-in')
        break
      case 'back-in':
        await moveParts(within(journal.old), databasePath)
        await next('failed')
        break
      case 'try':
      case 'done':
      case 'failed':
        return journal
    }
  }
}

/** Records that the new data opened. */
export async function acceptRestore(databasePath: string): Promise<void> {
  const journal = await readRestore(databasePath)
  if (journal?.step === 'try') await keep(databasePath, { ...journal, step: 'done' })
}

/** Brings the old data back, because the new data could not be opened. @returns whether there was a restore to undo. */
export async function undoRestore(databasePath: string, why: string): Promise<boolean> {
  const journal = await readRestore(databasePath)
  if (journal?.step !== 'try') return false
  await keep(databasePath, { ...journal, step: 'back-out', why })
  await settleRestore(databasePath)
  return true
}

/** What a restore came to, to a person; null while there is nothing to say. */
export function restoreSentence({ step, backup, old, refused, why }: RestoreJournal): string | null {
  switch (step) {
    case 'done':
    case 'try':
      return `The data are those of the backup "${backup}". The data from before are in "${old}".`
    case 'failed':
      return `The backup "${backup}" could not be opened${why ? ` (${why.replace(/\.$/, '')})` : ''}, so the data from before are in use. The backup's copy is in "${refused}".`
    case 'out':
    case 'in':
    case 'back-out':
    case 'back-in':
      return null
  }
}

/** Removes copies that no journal names: a restore that ended before it was accepted. */
export const dropCandidate = async (path: string): Promise<void> => {
  for (const part of parts) await removeFile(path + part)
  await removeFile(`${path}-journal`)
}
