import type { Family, FamilyDocument } from '@bench-wake/core/family'
import { judgeImage, neighboursOf, type FitImage } from '@bench-wake/core/fit'
import {
  byPerson,
  mergeIdentities,
  withClaim,
  type DfuSuffix,
  type ImageFormat,
  type ImageIdentity,
  type ImageStatement,
  type ManifestClaim,
  type ReadImage,
} from '@bench-wake/core/image'
import type { Finding } from '@bench-wake/core/kernel'
import { asc, inArray, isNull, sql } from 'drizzle-orm'
import { createHash } from 'node:crypto'
import type { Database } from '../db/open'
import { bundles, imageFiles, images, imageIdentities } from '../db/schema'
import { allStatements } from './image-statements'

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
  claim: ManifestClaim | null
  /** What a person says that it is; counts where nothing better tells it. */
  statement: ImageStatement | null
  /** Whether the address is the file's own, was given, comes from a profile, or is not known. */
  placed: ReadImage['placed']
  /** Where each of its files came from. */
  origins: { name: string; at: number; from?: string; bundleId?: string; bundle?: string; path?: string }[]
  /** How many notes lay beside it in its archives; without any the technician says so in the record (PRACTICE B3). */
  notesCount: number
  header?: string
  dfu?: DfuSuffix
  uf2Family?: number
  findings: Finding[]
}

export interface LoadedShelf {
  images: ShelfImage[]
  /** Images whose facts or identity must be read anew from their bytes. */
  stale: string[]
}

/** A release note, and no manifest. */
const isNote = sql.raw(
  "json_extract(value, '$.note') is not null and json_extract(value, '$.path') not like '%.json'",
)

/** What lay beside an image in its archive, to be read. */
export interface ImageNote {
  path: string
  text: string
}

/** What the notes of an image's archives say, each once. */
export async function notesOf(db: Database, image: ShelfImage): Promise<ImageNote[]> {
  const ids = [...new Set(image.origins.flatMap(({ bundleId }) => bundleId ?? []))]
  const rows = await db.select().from(bundles).where(inArray(bundles.id, ids))
  return rows.flatMap(({ entries }) =>
    entries.flatMap(({ path, note }) =>
      note === undefined || path.endsWith('.json') ? [] : [{ path, text: note }],
    ),
  )
}

/** Changes whenever any profile does. */
export function profilesMark(documents: readonly FamilyDocument[]): string {
  return createHash('sha256').update(JSON.stringify(documents)).digest('hex').slice(0, 16)
}

/** The whole shelf from its tables, oldest image first; what is stale is told, not guessed. */
export async function loadShelf(
  db: Database,
  families: readonly Family[],
  mark?: string,
): Promise<LoadedShelf> {
  const [rows, files, identities, archives, statements] = await Promise.all([
    db
      .select({
        id: images.id,
        contentSha256: images.contentSha256,
        addedAt: images.addedAt,
        facts: images.facts,
      })
      .from(images)
      .where(isNull(images.removedAt))
      .orderBy(asc(images.addedAt), asc(images.id)),
    db.select().from(imageFiles).orderBy(imageFiles.id),
    db.select().from(imageIdentities),
    // Notes stand in their archive once; what they say is read when one image is looked at.
    db
      .select({
        id: bundles.id,
        name: bundles.name,
        notes: sql<number>`(select count(*) from json_each(${bundles.entries}) where ${isNote})`,
      })
      .from(bundles),
    allStatements(db),
  ])
  const filesOf = new Map<string, (typeof files)[number][]>()
  for (const file of files) {
    const list = filesOf.get(file.imageId)
    if (list) list.push(file)
    else filesOf.set(file.imageId, [file])
  }
  const identityOf = new Map(identities.map((known) => [known.imageId, known]))
  const bundleOf = new Map(archives.map((bundle) => [bundle.id, bundle]))
  const stale: string[] = []
  const loaded: ShelfImage[] = []
  for (const { id, contentSha256, addedAt, facts } of rows) {
    const own = filesOf.get(id)
    const first = own?.[0]
    const known = identityOf.get(id)
    if (!first) continue
    if (!facts || !known || (mark !== undefined && known.profiles !== mark)) {
      stale.push(id)
      continue
    }
    const claim = own.find((file) => file.claim)?.claim ?? null
    const statement = statements.get(id) ?? null
    const { format, segments, placed, header, dfu, uf2Family } = facts
    loaded.push({
      id,
      name: first.name,
      names: [...new Set(own.map(({ name }) => name))],
      format,
      size: first.size,
      bytes: segments.reduce((sum, { length }) => sum + length, 0),
      sha256: first.sha256,
      contentSha256,
      addedAt,
      segments,
      identity: wholeIdentity(known.identity ?? null, claim, statement, families),
      claim,
      statement,
      placed,
      origins: own.map((file) => ({
        name: file.name,
        at: file.addedAt,
        ...(file.origin ? { from: file.origin } : {}),
        ...(file.bundleId
          ? { bundleId: file.bundleId, bundle: bundleOf.get(file.bundleId)?.name ?? '' }
          : {}),
        ...(file.path ? { path: file.path } : {}),
      })),
      notesCount: [...new Set(own.map(({ bundleId }) => bundleId))].reduce(
        (sum, bundleId) => sum + (bundleId ? (bundleOf.get(bundleId)?.notes ?? 0) : 0),
        0,
      ),
      ...(header ? { header } : {}),
      ...(dfu ? { dfu } : {}),
      ...(uf2Family === undefined ? {} : { uf2Family }),
      findings: [],
    })
  }
  const neighbours = neighboursOf(loaded)
  for (const image of loaded) {
    image.findings = judgeImage(image.identity, families, {
      ...neighbours.get(image.id),
      placed: image.placed,
      claim: image.claim,
    })
  }
  return { images: loaded, stale }
}

/** What an image is by its bytes, by what came with it, and by what a person says, the best first. */
const wholeIdentity = (
  seen: ImageIdentity | null,
  claim: ManifestClaim | null,
  statement: ImageStatement | null,
  families: readonly Family[],
): ImageIdentity | null =>
  mergeIdentities([withClaim(seen, claim, families), statement && byPerson(statement)])

/** The least that a matrix has to know of every image, oldest first: one query, little to read. */
export async function matrixRows(
  db: Database,
  families: readonly Family[],
  familyId?: string,
): Promise<(FitImage & { id: string })[]> {
  const statements = await allStatements(db)
  const rows = await db.all<[string, string, string, string | null, string | null]>(sql`
    select f.image_id, f.name, json_extract(i.facts, '$.segments'), s.identity, f.claim
    from image_files f
    join images i on i.id = f.image_id
    join image_sights s on s.image_id = f.image_id
    where i.removed_at is null and f.id in (select min(id) from image_files group by image_id)
    ${familyId === undefined ? sql`` : sql`and coalesce(json_extract(s.identity, '$.familyId'), ${familyId}) = ${familyId}`}
    order by i.added_at, i.id`)
  const whole = rows.map((row) => {
    // The driver's rows are read by place.
    const [id, name, segments, identity, claim] = Object.values(row) as (typeof rows)[number]
    const said = claim === null ? null : (JSON.parse(claim) as ManifestClaim)
    return {
      id,
      name,
      segments: JSON.parse(segments) as FitImage['segments'],
      identity: wholeIdentity(
        identity === null ? null : (JSON.parse(identity) as ImageIdentity | null),
        said,
        statements.get(id) ?? null,
        families,
      ),
      claim: said,
    }
  })
  // Whose it is can stand in the bytes, in a manifest or in a person's word.
  return familyId === undefined ? whole : whole.filter(({ identity }) => identity?.familyId === familyId)
}
