import { asc, eq, notInArray, sql } from 'drizzle-orm'
import { createHash } from 'node:crypto'
import type { Database } from '../db/open'
import { blobParts, blobs } from '../db/schema'
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

/** The bytes of a digest; null where there are none. Whether they still have that digest is asked by who uses them. */
export async function readBlob(db: Database, sha256: string): Promise<Buffer | null> {
  const [row] = await db.select().from(blobs).where(eq(blobs.sha256, sha256))
  if (!row) return null
  if (row.bytes.length > 0) return row.bytes
  const parts = await db
    .select({ part: blobParts.part })
    .from(blobParts)
    .where(eq(blobParts.sha256, sha256))
    .orderBy(asc(blobParts.part))
  const pieces: Buffer[] = []
  for (const { part } of parts) {
    const [piece] = await db
      .select({ bytes: blobParts.bytes })
      .from(blobParts)
      .where(sql`${blobParts.sha256} = ${sha256} and ${blobParts.part} = ${part}`)
    if (piece) pieces.push(piece.bytes)
  }
  return Buffer.concat(pieces)
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
