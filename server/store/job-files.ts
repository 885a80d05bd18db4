import { Problem } from '@bench-wake/core/kernel'
import { and, asc, eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { jobFiles } from '../db/schema'
import { notFound } from '../problem'
import { keepBlob, readBlob } from './blobs'
import { jobRow, refuseClosed } from './job-rows'
import { photoType } from './photo-type'

/** A photograph or file of a unit's settings, kept with its job (PRACTICE G3). */
export interface JobFile {
  id: number
  name: string
  /** `image/…` for a photo that a browser shows; `application/octet-stream` for every other file. */
  type: string
  bytes: number
  sha256: string
  at: number
}

/** A list of settings is a few pages; more is a mistake. */
const maxFiles = 40

/** In the order in which they were kept. */
export async function listJobFiles(db: Database, jobId: string): Promise<JobFile[]> {
  const rows = await db.select().from(jobFiles).where(eq(jobFiles.jobId, jobId)).orderBy(asc(jobFiles.id))
  return rows.map(({ jobId: _job, ...file }) => file)
}

/** Keeps a file with a job; the same bytes once. @throws Problem `job-closed`, `too-many`. */
export async function addJobFile(
  db: Database,
  jobId: string,
  name: string,
  bytes: Uint8Array,
): Promise<JobFile> {
  refuseClosed(await jobRow(db, jobId))
  const kept = await listJobFiles(db, jobId)
  const sha256 = await keepBlob(db, bytes)
  const same = kept.find((file) => file.sha256 === sha256)
  if (same) return same
  if (kept.length >= maxFiles)
    throw new Problem({
      kind: 'too-many',
      thing: name,
      says: `this job keeps ${maxFiles} files of settings already`,
      remedy: 'Remove one that is not needed, or put them into one archive.',
    })
  const type = photoType(bytes) ?? 'application/octet-stream'
  const row = { name, type, bytes: bytes.length, sha256, at: Date.now() }
  const [added] = await db
    .insert(jobFiles)
    .values({ jobId, ...row })
    .returning({ id: jobFiles.id })
  return { id: added!.id, ...row }
}

/** @throws Problem `not-found`. */
export async function getJobFile(
  db: Database,
  jobId: string,
  id: number,
): Promise<JobFile & { content: Uint8Array }> {
  const file = await fileRow(db, jobId, id)
  const content = await readBlob(db, file.sha256)
  if (!content) throw notFound('file', file.name)
  return { ...file, content }
}

/** @throws Problem `not-found`, `job-closed`. */
export async function removeJobFile(db: Database, jobId: string, id: number): Promise<void> {
  refuseClosed(await jobRow(db, jobId))
  await fileRow(db, jobId, id)
  await db.delete(jobFiles).where(eq(jobFiles.id, id))
}

async function fileRow(db: Database, jobId: string, id: number): Promise<JobFile> {
  const [row] = await db
    .select()
    .from(jobFiles)
    .where(and(eq(jobFiles.id, id), eq(jobFiles.jobId, jobId)))
  if (!row) throw notFound('file', String(id))
  const { jobId: _job, ...file } = row
  return file
}
