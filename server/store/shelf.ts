import type { Family } from '@bench-wake/core/family'
import type { ShelfEntry } from '@bench-wake/core/fit'
import {
  closeness,
  readImageFile,
  refuseGaps,
  type ExportForm,
  type MemoryMap,
  type WritableFormat,
} from '@bench-wake/core/image'
import { isProblem, Problem } from '@bench-wake/core/kernel'
import { and, desc, eq, inArray, isNotNull, lt, sql } from 'drizzle-orm'
import type { Database } from '../db/open'
import { bundles, imageFiles, images, imageIdentities, imageStatements, type BundleRow } from '../db/schema'
import { storedText } from '../db/stored-text'
import { newId } from '../new-id'
import { notFound } from '../problem'
import type { WorkerThread } from '../worker/worker-thread'
import type { DownloadForm, ReadEntry, ReadSummary } from '../worker/tasks'
import { alteredFinding, blobAltered } from './altered'
import { digestOf, readBlob, sweepBlobs } from './blobs'
import { listFamilies } from './families'
import { identifyAnew, sketchBytes } from './identify-anew'
import { usesOf } from './image-uses'
import { loadShelf, profilesMark, type ShelfImage } from './load-shelf'

export interface OpenImage {
  image: ShelfImage
  memory: MemoryMap
}

export interface AddedFile {
  /** One for an image file; those of an archive in its order. */
  images: ShelfImage[]
  bundle: ShelfBundle | null
}

export interface ShelfBundle {
  id: string
  name: string
  size: number
  addedAt: number
  from?: string
  entries: BundleRow[]
}

interface Standing {
  families: Family[]
  images: ShelfImage[]
  byId: Map<string, ShelfImage>
  byFamily: Map<string, ShelfEntry[]>
}

/** Files that were read lately, by digest; reading is cheap, but not for each look at a job. */
const keepLately = 32

/** The shelf: images by their content. What it knows is kept in memory until something on it changes. */
export class Shelf {
  private standing: Promise<Standing> | undefined
  private readonly lately = new Map<string, MemoryMap>()
  private altered: ReadonlySet<string> = new Set()

  constructor(
    private readonly db: Database,
    private readonly worker: WorkerThread,
  ) {}

  /** To be called when a profile or an image came or went. */
  forget(): void {
    this.standing = undefined
  }

  /** Takes note of stored files whose bytes were altered: each of their images says so. */
  markAltered(digests: readonly string[]): void {
    this.altered = new Set(digests)
    for (const digest of digests) this.lately.delete(digest)
    this.forget()
  }

  async list(): Promise<ShelfImage[]> {
    return (await this.stand()).images
  }

  async families(): Promise<readonly Family[]> {
    return (await this.stand()).families
  }

  /** What the search for a way sees of a family's images. */
  async entriesOf(familyId: string): Promise<readonly ShelfEntry[]> {
    return (await this.stand()).byFamily.get(familyId) ?? []
  }

  /** @throws Problem `not-found`. */
  async image(id: string): Promise<ShelfImage> {
    const image = (await this.stand()).byId.get(id)
    if (!image) throw notFound('image', id)
    return image
  }

  /** @throws Problem `not-found`; `blob-altered` when the kept bytes no longer have their digest. */
  async open(id: string): Promise<OpenImage> {
    const image = await this.image(id)
    const known = this.lately.get(image.sha256)
    if (known) return { image, memory: known }
    const file = await this.file(image)
    const { memory } = readImageFile(file, addressOf(image))
    this.lately.set(image.sha256, memory)
    const oldest = this.lately.keys().next().value
    if (this.lately.size > keepLately && oldest !== undefined) this.lately.delete(oldest)
    return { image, memory }
  }

  /** The file as it came. @throws Problem `blob-altered`. */
  async file(image: ShelfImage): Promise<Uint8Array> {
    return this.blob(image.sha256, image.name)
  }

  /** Images that share blocks with this one, closest first (a share of 1 is the same program). */
  async closeTo(id: string): Promise<{ id: string; name: string; share: number }[]> {
    const own = await this.image(id)
    const rows = await this.db.select({ id: images.id, sketch: images.sketch }).from(images)
    const sketch = (bytes: Buffer | null) => {
      const copy = new Uint8Array(bytes ?? [])
      return new Uint32Array(copy.buffer, 0, copy.length >> 2)
    }
    const mine = sketch(rows.find((row) => row.id === id)?.sketch ?? null)
    const { byId } = await this.stand()
    return rows
      .filter((row) => row.id !== own.id && byId.has(row.id))
      .map((row) => ({
        id: row.id,
        name: byId.get(row.id)!.name,
        share: closeness(mine, sketch(row.sketch)),
      }))
      .filter(({ share }) => share >= 0.05)
      .sort((a, b) => b.share - a.share)
      .slice(0, 8)
  }

  /** @throws Problem `not-found`. */
  async bundle(id: string): Promise<ShelfBundle> {
    const [row] = await this.db.select().from(bundles).where(eq(bundles.id, id))
    if (!row) throw notFound('archive', id)
    const { name, size, addedAt, origin, entries } = row
    return { id, name, size, addedAt, ...(origin ? { from: origin } : {}), entries }
  }

  /**
   * Puts a file or an archive on the shelf. Nothing is kept of a file that does not read.
   * @param file its bytes, or where it lies on disk; its bytes are read and kept by the thread beside the server.
   * @param address where a plain binary lies, when a person says so.
   */
  async add(
    name: string,
    file: Uint8Array | { path: string },
    { origin, address }: { origin?: string; address?: number } = {},
  ): Promise<AddedFile> {
    const documents = (await listFamilies(this.db)).map(({ document }) => document)
    const mark = profilesMark(documents)
    const read = await this.worker
      .ask('read', { source: file, families: documents, ...(address === undefined ? {} : { address }) })
      .catch((error: unknown) => {
        throw isProblem(error) ? error.about(name) : error
      })
    const addedAt = Date.now()
    if (read.kind === 'image') {
      const id = await this.keep(read.image, { name, addedAt, ...(origin ? { origin } : {}) }, mark)
      this.forget()
      return { images: [await this.image(id)], bundle: null }
    }
    const found = read.entries.filter((entry) => entry.image)
    if (found.length === 0) throw nothingIn(name, read.entries)
    const bundleId = newId('bundle')
    const entries: BundleRow[] = []
    for (const { path, size, image, note, other } of read.entries) {
      if (!image) {
        entries.push({ path, size, ...(note === undefined ? {} : { note }), ...(other ? { other } : {}) })
        continue
      }
      const { claim, ...summary } = image
      const row = { name: path, addedAt, bundleId, path, claim, ...(origin ? { origin } : {}) }
      entries.push({ path, size, imageId: await this.keep(summary, row, mark) })
    }
    await this.db.insert(bundles).values({
      id: bundleId,
      name,
      sha256: read.sha256,
      size: read.size,
      addedAt,
      origin: origin ?? null,
      entries,
    })
    this.forget()
    const { byId } = await this.stand()
    const ids = [...new Set(entries.flatMap(({ imageId }) => (imageId ? [imageId] : [])))]
    return { images: ids.map((id) => byId.get(id)!), bundle: await this.bundle(bundleId) }
  }

  /**
   * Takes an image off the shelf; it can be put back until it is cleared away.
   * @throws Problem `not-found`; `image-used` that names what rests on it.
   */
  async remove(id: string, at: number): Promise<void> {
    const { name } = await this.image(id)
    const uses = await usesOf(this.db, id)
    if (uses.length > 0) {
      throw new Problem({
        kind: 'image-used',
        thing: name,
        says: 'work of this bench rests on this image',
        found: uses.slice(0, 5).join('; ') + (uses.length > 5 ? `; and ${uses.length - 5} more` : ''),
        remedy: 'It stays, so that the record can be read. Choose another image for open jobs first.',
      })
    }
    await this.db.update(images).set({ removedAt: at }).where(eq(images.id, id))
    this.forget()
  }

  /** @throws Problem `not-found` where it was not taken off, or was cleared away. */
  async putBack(id: string): Promise<ShelfImage> {
    const { rowsAffected } = await this.db
      .update(images)
      .set({ removedAt: null })
      .where(and(eq(images.id, id), isNotNull(images.removedAt)))
    if (rowsAffected === 0) throw notFound('image that was taken off', id)
    this.forget()
    return this.image(id)
  }

  /** What was taken off and can be put back, newest first. */
  async removed(): Promise<{ id: string; name: string; removedAt: number }[]> {
    return (
      await this.db
        .select({
          id: images.id,
          name: sql`cast(min(${imageFiles.name}) as blob)`.mapWith(storedText),
          removedAt: images.removedAt,
        })
        .from(images)
        .innerJoin(imageFiles, eq(imageFiles.imageId, images.id))
        .where(isNotNull(images.removedAt))
        .groupBy(images.id)
        .orderBy(desc(images.removedAt))
    ).map((row) => ({ ...row, removedAt: row.removedAt! }))
  }

  /** Clears away for good what was taken off before a moment, with the bytes that nothing else needs. */
  async clearRemoved(before: number): Promise<void> {
    const gone = await this.db
      .select({ id: images.id })
      .from(images)
      .where(and(isNotNull(images.removedAt), lt(images.removedAt, before)))
    if (gone.length === 0) return
    const ids = gone.map(({ id }) => id)
    await this.db.batch([
      this.db.delete(imageFiles).where(inArray(imageFiles.imageId, ids)),
      this.db.delete(imageIdentities).where(inArray(imageIdentities.imageId, ids)),
      this.db.delete(imageStatements).where(inArray(imageStatements.imageId, ids)),
      this.db.delete(images).where(inArray(images.id, ids)),
    ])
    await sweepBlobs(this.db)
  }

  private async keep(
    { facts, sha256, contentSha256, size, sketch, identity }: ReadSummary,
    file: Omit<typeof imageFiles.$inferInsert, 'imageId' | 'sha256' | 'size'>,
    mark: string,
  ): Promise<string> {
    const id = `image-${contentSha256.slice(0, 12)}`
    const known = await this.db.select().from(imageFiles).where(eq(imageFiles.imageId, id))
    const again = known.some(
      (each) =>
        each.name === file.name && each.sha256 === sha256 && (each.bundleId === null) === !file.bundleId,
    )
    const { addedAt } = file
    await this.db.batch([
      this.db
        .insert(images)
        .values({ id, contentSha256, addedAt, facts, sketch: sketchBytes(sketch) })
        // One that was taken off comes back when it is brought in again.
        .onConflictDoUpdate({ target: images.id, set: { removedAt: null } }),
      this.db
        .insert(imageIdentities)
        .values({ imageId: id, profiles: mark, identity })
        .onConflictDoUpdate({ target: imageIdentities.imageId, set: { profiles: mark, identity } }),
      ...(again ? [] : [this.db.insert(imageFiles).values({ ...file, imageId: id, sha256, size })]),
    ])
    return id
  }

  private stand(): Promise<Standing> {
    this.standing ??= this.load().catch((error: unknown) => {
      this.standing = undefined
      throw error
    })
    return this.standing
  }

  private async load(): Promise<Standing> {
    const kept = await listFamilies(this.db)
    const families = kept.map(({ family }) => family)
    const documents = kept.map(({ document }) => document)
    const mark = profilesMark(documents)
    let shelf = await loadShelf(this.db, families, mark)
    if (shelf.stale.length > 0) {
      await identifyAnew(this.db, this.worker, shelf.stale, documents, mark)
      shelf = await loadShelf(this.db, families, mark)
    }
    const images = shelf.images.map((image) =>
      this.altered.has(image.sha256)
        ? { ...image, findings: [alteredFinding(image.name), ...image.findings] }
        : image,
    )
    const byFamily = new Map<string, ShelfEntry[]>()
    for (const image of images) {
      const family = image.identity?.familyId
      if (family === undefined) continue
      const list = byFamily.get(family)
      if (list) list.push(image)
      else byFamily.set(family, [image])
    }
    return {
      families,
      images,
      byId: new Map(images.map((image) => [image.id, image])),
      byFamily,
    }
  }

  private async blob(sha256: string, name: string): Promise<Uint8Array> {
    const bytes = await readBlob(this.db, sha256)
    if (!bytes) throw blobAltered(name, sha256, 'nothing')
    const found = digestOf(bytes)
    // Plain bytes: a Buffer's slice is no copy, and what changed it would change the image itself.
    if (found === sha256) return new Uint8Array(bytes.buffer, bytes.byteOffset, bytes.byteLength)
    throw blobAltered(name, sha256, found)
  }
}

/** What a download of an image is begun with. @param format `file` for the file as it came. @throws Problem `export-gap`. */
export function downloadOf(image: ShelfImage, format: WritableFormat | 'file'): DownloadForm {
  const { sha256, name, segments, header, uf2Family, dfu } = image
  if (format === 'file') return { kind: 'file', sha256, name }
  refuseGaps(segments, format)
  const form: ExportForm = {
    fill: 0xff,
    ...(header ? { header } : {}),
    ...(uf2Family === undefined ? {} : { uf2Family }),
    ...(dfu ? { dfu } : {}),
  }
  return { kind: 'export', sha256, name, ...addressOf(image), format, form }
}

/** Where a plain binary was put; other formats carry their addresses. */
function addressOf({ format, segments }: ShelfImage): { address?: number } {
  return format === 'bin' ? { address: segments[0]?.address ?? 0 } : {}
}

function nothingIn(name: string, entries: readonly ReadEntry[]): Problem {
  return new Problem({
    kind: 'bundle-without-image',
    thing: name,
    says: 'there is no image in this archive',
    expected: 'at least one image',
    found: entries
      .slice(0, 6)
      .map(({ path, other }) => (other ? `${path}: ${other}` : path))
      .join('; '),
    remedy: 'Ask the supplier where the image is.',
  })
}
