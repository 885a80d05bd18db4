import type { FamilyDocument } from '@bench-wake/core/family'
import { eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { imageFiles, images, imageIdentities } from '../db/schema'
import type { WorkerThread } from '../worker/worker-thread'
import { readBlob } from './blobs'

/** Bytes that are identified anew in one go. */
const goBytes = 64 * 1024 * 1024

/** Reads images anew under the present profiles, some at a time; one whose bytes were altered keeps what it was. */
export async function identifyAnew(
  db: Database,
  worker: WorkerThread,
  ids: readonly string[],
  families: FamilyDocument[],
  mark: string,
): Promise<void> {
  for (let at = 0; at < ids.length;) {
    const items: { imageId: string; file: Uint8Array; address?: number }[] = []
    for (let size = 0; at < ids.length && size < goBytes; at++) {
      const imageId = ids[at]!
      const [row] = await db.select().from(images).where(eq(images.id, imageId))
      const [file] = await db
        .select()
        .from(imageFiles)
        .where(eq(imageFiles.imageId, imageId))
        .orderBy(imageFiles.id)
        .limit(1)
      if (!row || !file) continue
      const bytes = await readBlob(db, file.sha256)
      if (!bytes) continue
      size += bytes.length
      const address = row.facts?.placed === 'not-known' ? undefined : row.facts?.address
      items.push({ imageId, file: bytes, ...(address === undefined ? {} : { address }) })
    }
    for (const { imageId, seen } of await worker.ask('identify', { items, families })) {
      const identity = seen?.identity ?? null
      await db.batch([
        db
          .update(images)
          .set(
            seen
              ? { facts: seen.facts, sketch: sketchBytes(seen.sketch) }
              : { facts: { format: 'bin', segments: [], placed: 'not-known' } },
          )
          .where(eq(images.id, imageId)),
        db
          .insert(imageIdentities)
          .values({ imageId, profiles: mark, identity })
          .onConflictDoUpdate({ target: imageIdentities.imageId, set: { profiles: mark, identity } }),
      ])
    }
  }
}

/** A sketch as its column keeps it. */
export const sketchBytes = (sketch: Uint32Array) =>
  Buffer.from(sketch.buffer, sketch.byteOffset, sketch.byteLength)
