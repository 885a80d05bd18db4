import { and, asc, eq, gt, notInArray, sql } from 'drizzle-orm'
import { createHash } from 'node:crypto'
import type { Database } from '../db/open'
import { blobParts, blobs, eventColumn } from '../db/schema'
import { collect } from './collect'

/** A file above this is kept in parts of this size, bytes. */
export const partBytes = 4 * 1024 * 1024

/** Parts between two collections. */
const collectEvery = 8

/** Node's own digest is several times as fast as core's, which has to run in a browser too. */
export const digestOf = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex')

const own = (bytes: Uint8Array) => Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength)

/** Keeps bytes under their digest, once. @returns the digest. */
export async function keepBlob(db: Database, bytes: Uint8Array): Promise<string> {
  const sha256 = digestOf(bytes)
  const [known] = await db.select({ sha256: blobs.sha256 }).from(blobs).where(eq(blobs.sha256, sha256))
  if (known) return sha256
  const inParts = bytes.length > partBytes
  if (inParts) {
    for (let part = 0; part * partBytes < bytes.length; part++) {
      const piece = own(bytes.subarray(part * partBytes, (part + 1) * partBytes))
      await db
        .insert(blobParts)
        .values({ sha256, part, bytes: piece })
        .onConflictDoUpdate({ target: [blobParts.sha256, blobParts.part], set: { bytes: piece } })
      if (part % collectEvery === collectEvery - 1) await collect()
    }
  }
  // Last: what was cut off before has no row here, and its parts are swept away.
  await db
    .insert(blobs)
    .values({ sha256, bytes: inParts ? Buffer.alloc(0) : own(bytes) })
    .onConflictDoNothing()
  return sha256
}

/** Whether a file is stored, and how long it is. */
export async function blobSize(db: Database, sha256: string): Promise<number | null> {
  const [row] = await db
    .select({ own: sql<number>`length(${blobs.bytes})` })
    .from(blobs)
    .where(eq(blobs.sha256, sha256))
  if (!row || row.own > 0) return row?.own ?? null
  const [parts] = await db
    .select({ all: sql<number>`coalesce(sum(length(${blobParts.bytes})), 0)` })
    .from(blobParts)
    .where(eq(blobParts.sha256, sha256))
  return parts!.all
}

/** A stored file piece by piece, a few megabytes each; nothing where it is not stored. */
export async function* piecesOfBlob(db: Database, sha256: string): AsyncGenerator<Buffer> {
  const [row] = await db.select({ bytes: blobs.bytes }).from(blobs).where(eq(blobs.sha256, sha256))
  if (!row) return
  if (row.bytes.length > 0) {
    yield row.bytes
    return
  }
  for (let after = -1; ;) {
    const [part] = await db
      .select({ part: blobParts.part, bytes: blobParts.bytes })
      .from(blobParts)
      .where(and(eq(blobParts.sha256, sha256), gt(blobParts.part, after)))
      .orderBy(asc(blobParts.part))
      .limit(1)
    if (!part) return
    after = part.part
    yield part.bytes
  }
}

/** The bytes of a digest; null where they are not stored. The caller checks whether they still have that digest. */
export async function readBlob(db: Database, sha256: string): Promise<Buffer | null> {
  const size = await blobSize(db, sha256)
  if (size === null) return null
  // Laid into one piece as they are read: two copies of a large image would not fit into the memory budget.
  const whole = Buffer.allocUnsafe(size)
  let at = 0
  for await (const piece of piecesOfBlob(db, sha256)) {
    piece.copy(whole, at)
    at += piece.length
  }
  return whole.subarray(0, at)
}

/** Bytes that are digested in one go: a request to the same thread waits no longer than this takes. */
const sweptAtOnce = 64 * 1024 * 1024

/** What a look at some stored files found. */
export interface SweptBlobs {
  /** Digests whose bytes are no longer those that came in. */
  altered: string[]
  /** Files looked at. */
  count: number
  /** Row after which the next look begins; null after the last file. */
  next: number | null
}

/** Compares some stored files with their digests. @param after row that was looked at last; 0 for the first look. */
export async function sweepSomeBlobs(db: Database, after: number): Promise<SweptBlobs> {
  const altered: string[] = []
  let [count, bytes, at] = [0, 0, after]
  while (bytes < sweptAtOnce) {
    const [row] = await db
      .select({ rowid: sql<number>`${blobs}.rowid`, sha256: eventColumn(blobs.sha256) })
      .from(blobs)
      .where(sql`${blobs}.rowid > ${at}`)
      .orderBy(sql`${blobs}.rowid`)
      .limit(1)
    if (!row) return { altered, count, next: null }
    const hash = createHash('sha256')
    for await (const piece of piecesOfBlob(db, row.sha256)) {
      hash.update(piece)
      bytes += piece.length
    }
    if (hash.digest('hex') !== row.sha256) altered.push(row.sha256)
    at = row.rowid
    count++
  }
  return { altered, count, next: at }
}

/** Clears away bytes that nothing names. */
export async function sweepBlobs(db: Database): Promise<void> {
  await db.delete(blobs).where(
    sql`${blobs.sha256} not in (select sha256 from image_files union select sha256 from bundles
      union select photo_sha256 from snapshots where photo_sha256 is not null
      union select sha256 from job_files union select sha256 from case_logs
      union select sha256 from case_packages)`,
  )
  await db
    .delete(blobParts)
    .where(notInArray(blobParts.sha256, db.select({ sha256: blobs.sha256 }).from(blobs)))
}
