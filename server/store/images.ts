import { judgeImage } from '@bench-wake/core/fit'
import type { Family } from '@bench-wake/core/family'
import {
  byteCount,
  contentDigest,
  identifyImage,
  readImageFile,
  type ImageFormat,
  type ImageIdentity,
  type IntelHex,
  type MemoryMap,
} from '@bench-wake/core/image'
import { isProblem, Problem, sha256Hex, type Finding } from '@bench-wake/core/kernel'
import { asc, eq } from 'drizzle-orm'
import { createHash } from 'node:crypto'
import type { Database } from '../db/open'
import { blobs, imageFiles, images } from '../db/schema'
import { notFound } from '../problem'
import { listFamilies } from './families'

export interface ShelfImage {
  id: string
  name: string
  /** Every name the image came under, oldest first. */
  names: string[]
  format: ImageFormat
  /** Bytes of the file. */
  size: number
  /** Bytes the image sets in the unit. */
  bytes: number
  /** Digest of the file as it came. */
  sha256: string
  /** Digest of what it says, whatever the file format. */
  contentSha256: string
  addedAt: number
  segments: { address: number; length: number }[]
  identity: ImageIdentity | null
  findings: Finding[]
}

export interface OpenImage {
  image: ShelfImage
  memory: MemoryMap
  start?: IntelHex['start']
}

interface Parsed {
  format: ImageFormat
  memory: MemoryMap
  start?: IntelHex['start']
}

/** Files that were read lately, by digest; reading is cheap, but not for each look at the shelf. */
const lately = new Map<string, Parsed>()
const keepLately = 64

/** Puts a file on the shelf. Nothing is kept of a file that does not read. */
export async function addImage(db: Database, name: string, file: Uint8Array): Promise<ShelfImage> {
  let parsed: Parsed
  try {
    parsed = readImageFile(file)
  } catch (error) {
    throw isProblem(error) ? error.about(name) : error
  }
  const contentSha256 = contentDigest(parsed.memory)
  const sha256 = createHash('sha256').update(file).digest('hex')
  const id = `image-${contentSha256.slice(0, 12)}`
  const addedAt = Date.now()
  const known = await db.select().from(imageFiles).where(eq(imageFiles.imageId, id))
  const again = known.some((each) => each.name === name && each.sha256 === sha256)
  await db.batch([
    db
      .insert(blobs)
      .values({ sha256, bytes: Buffer.from(file) })
      .onConflictDoNothing(),
    db.insert(images).values({ id, contentSha256, addedAt }).onConflictDoNothing(),
    ...(again
      ? []
      : [db.insert(imageFiles).values({ imageId: id, name, sha256, size: file.length, addedAt })]),
  ])
  remember(sha256, parsed)
  return (await openImage(db, id)).image
}

export async function listImages(db: Database): Promise<ShelfImage[]> {
  const families = await familiesOf(db)
  const rows = await db.select({ id: images.id }).from(images).orderBy(asc(images.addedAt))
  return Promise.all(rows.map(async ({ id }) => (await openImage(db, id, families)).image))
}

/** @throws Problem `not-found`; `blob-altered` when the kept bytes no longer have their digest. */
export async function openImage(db: Database, id: string, known?: readonly Family[]): Promise<OpenImage> {
  const [image] = await db.select().from(images).where(eq(images.id, id))
  const files = await db.select().from(imageFiles).where(eq(imageFiles.imageId, id)).orderBy(imageFiles.id)
  const file = files[0]
  if (!image || !file) throw notFound('image', id)
  const families = known ?? (await familiesOf(db))
  const parsed = await parse(db, file.sha256, file.name)
  const names = [...new Set(files.map((each) => each.name))]
  const identity = identifyImage(parsed.memory, families)
  return {
    image: {
      id,
      name: file.name,
      names,
      format: parsed.format,
      size: file.size,
      bytes: byteCount(parsed.memory),
      sha256: file.sha256,
      contentSha256: image.contentSha256,
      addedAt: image.addedAt,
      segments: parsed.memory.map(({ address, bytes }) => ({ address, length: bytes.length })),
      identity,
      findings: judgeImage(identity, families, names.slice(1)),
    },
    memory: parsed.memory,
    ...(parsed.start ? { start: parsed.start } : {}),
  }
}

/** The file as it came. */
export async function fileOf(db: Database, sha256: string): Promise<Uint8Array | undefined> {
  const [row] = await db.select().from(blobs).where(eq(blobs.sha256, sha256))
  return row?.bytes
}

async function familiesOf(db: Database): Promise<Family[]> {
  return (await listFamilies(db)).map(({ family }) => family)
}

async function parse(db: Database, sha256: string, name: string): Promise<Parsed> {
  const known = lately.get(sha256)
  if (known) return known
  const bytes = await fileOf(db, sha256)
  if (!bytes) throw notFound('image file', name)
  if (sha256Hex(bytes) !== sha256) {
    throw new Problem({
      kind: 'blob-altered',
      thing: name,
      says: 'the kept bytes are not those that came in',
      expected: sha256,
      found: sha256Hex(bytes),
      remedy: 'The data folder was altered or its disk is failing. Load the image again from where it came.',
    })
  }
  const parsed = readImageFile(bytes)
  remember(sha256, parsed)
  return parsed
}

function remember(sha256: string, parsed: Parsed): void {
  lately.set(sha256, parsed)
  const oldest = lately.keys().next().value
  if (lately.size > keepLately && oldest !== undefined) lately.delete(oldest)
}
