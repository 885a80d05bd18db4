import type { FamilyDocument } from '@bench-wake/core/family'
import { readFamily } from '@bench-wake/core/family'
import { fitMatrix, revisionColumns } from '@bench-wake/core/fit'
import {
  claimOf,
  contentDigest,
  identifyImage,
  rangesOf,
  readFile,
  readImageFile,
  readManifest,
  sketchOf,
  imagePieces,
  type ExportForm,
  type ImageIdentity,
  type ManifestClaim,
  type ReadImage,
  type WritableFormat,
} from '@bench-wake/core/image'
import { isProblem, Problem } from '@bench-wake/core/kernel'
import type { CaseAgreement } from '@bench-wake/core/rounds'
import { inArray } from 'drizzle-orm'
import { createHash } from 'node:crypto'
import { readFile as readBytes } from 'node:fs/promises'
import { repairIndexes } from '../data-folder/check-database'
import { makeBackup, prepareRestore, type BackupFile } from '../data-folder/backups'
import type { Database } from '../db/open'
import type { ImageFacts } from '../db/schema'
import type { JudgedLog } from '../db/judged-log'
import { runs } from '../db/schema'
import { digestOf, keepBlob, piecesOfBlob, readBlob, sweepSomeBlobs, type SweptBlobs } from '../store/blobs'
import { judgeLogBytes, logPictureOf } from '../rounds/judge-log-bytes'
import { blobAltered } from '../store/altered'
import { collect } from '../store/collect'
import { listFamilies } from '../store/families'
import { matrixRows } from '../store/load-shelf'
import { runHeads } from '../store/run-summaries'
import { chainBreaks, runsAt } from '../store/runs'
import { listUnits } from '../store/units'

/** What the shelf keeps of an image that was read. */
export interface ReadSummary {
  facts: ImageFacts
  /** Digest of the file. */
  sha256: string
  contentSha256: string
  size: number
  sketch: Uint32Array
  identity: ImageIdentity | null
}

export interface ReadEntry {
  path: string
  size: number
  image?: ReadSummary & { claim: ManifestClaim | null }
  note?: string
  other?: string
}

export type ReadAnswer =
  | { kind: 'image'; image: ReadSummary }
  | { kind: 'bundle'; sha256: string; size: number; entries: ReadEntry[] }

/** An archive that takes longer than this was made to, ms. */
const maxReadMs = 20_000

/** A file as it came in, or an image in another format. */
export type DownloadForm = { sha256: string; name: string } & (
  | { kind: 'file' }
  | { kind: 'export'; address?: number; format: WritableFormat; form: ExportForm }
)

/** Pieces between two collections: the database's library holds what was read until then. */
const collectEvery = 8

/** A stored file piece by piece. Its last piece comes once the digest of all of them is right: a damaged file is never whole. */
async function* storedFile(db: Database, { sha256, name }: DownloadForm): AsyncGenerator<Uint8Array> {
  const hash = createHash('sha256')
  let held: Uint8Array | undefined
  let count = 0
  for await (const piece of piecesOfBlob(db, sha256)) {
    if (held) yield held
    hash.update(piece)
    held = piece
    if (++count % collectEvery === 0) await collect()
  }
  const found = held ? hash.digest('hex') : 'nothing'
  if (found !== sha256) throw blobAltered(name, sha256, found)
  yield held!
}

/** An image in another format, piece by piece. */
async function* exported(db: Database, form: DownloadForm & { kind: 'export' }): AsyncGenerator<Uint8Array> {
  const file = await readBlob(db, form.sha256)
  await collect()
  const found = file ? digestOf(file) : 'nothing'
  if (!file || found !== form.sha256) throw blobAltered(form.name, form.sha256, found)
  const { memory, start } = readImageFile(file, form.address === undefined ? {} : { address: form.address })
  yield* imagePieces(memory, form.format, { ...(start ? { start } : {}), ...form.form })
}

/** Work that takes longer than a turn of the server may: done in a thread of its own. */
export function tasks(db: Database) {
  const downloads = new Map<number, AsyncGenerator<Uint8Array>>()
  let nextDownload = 1
  return {
    /** Folds runs that no list has folded yet, and keeps what they came to. */
    fold: async (form: { runIds: readonly string[] }): Promise<void> => {
      await runsAt(db, await runHeads(db, inArray(runs.id, [...form.runIds])))
    },
    /** Follows the chains of some runs. */
    chains: (form: { runIds: readonly string[] }) => chainBreaks(db, form.runIds),
    /** Compares the indexes of a large database with its tables, and makes them again where they differ. */
    indexes: (form: { path: string }): Promise<string | null> => repairIndexes(form.path),
    /** Compares some stored files with their digests. */
    blobs: (form: { after: number }): Promise<SweptBlobs> => sweepSomeBlobs(db, form.after),
    /**
     * Reads a file or an archive, tells what is in it, and of each image what it says of itself. The bytes of what reads
     * are kept from here: writing them would stop the server for as long as the disk takes.
     */
    async read(form: {
      source: Uint8Array | { path: string }
      address?: number
      families: FamilyDocument[]
    }): Promise<ReadAnswer> {
      const families = form.families.map((document) => readFamily(document))
      const from = performance.now()
      const tooLate = () => performance.now() - from > maxReadMs
      const options = { families, tooLate, ...(form.address === undefined ? {} : { address: form.address }) }
      const file = form.source instanceof Uint8Array ? form.source : await readBytes(form.source.path)
      const found = readFile(file, options)
      const summary = async (image: ReadImage, file: Uint8Array): Promise<ReadSummary> => {
        const [sha256, contentSha256] = [await keepBlob(db, file), contentDigest(image.memory)]
        return {
          facts: factsOfImage(image),
          sha256,
          contentSha256,
          size: file.length,
          sketch: sketchOf(image.memory),
          identity: identifyImage(image.memory, families, [sha256, contentSha256]),
        }
      }
      if (found.kind === 'image') return { kind: 'image', image: await summary(found.image, file) }
      const manifest = found.entries
        .flatMap(({ what }) => (what.kind === 'notes' ? [readManifest(what.text)] : []))
        .find((each) => each !== null)
      const entries: ReadEntry[] = []
      for (const { path, bytes, what } of found.entries) {
        const size = bytes.length
        if (what.kind === 'notes') entries.push({ path, size, note: what.text })
        else if (what.kind === 'other') entries.push({ path, size, other: what.because })
        else {
          const image = await summary(what.image, bytes)
          entries.push({
            path,
            size,
            image: { ...image, claim: manifest ? claimOf(manifest, path, image) : null },
          })
        }
      }
      // Of an archive without an image nothing is kept.
      const some = entries.some(({ image }) => image)
      return {
        kind: 'bundle',
        sha256: some ? await keepBlob(db, file) : digestOf(file),
        size: file.length,
        entries,
      }
    },

    /** Identifies kept images anew, after a profile came or changed. */
    async identify(form: {
      items: { imageId: string; file: Uint8Array; address?: number }[]
      families: FamilyDocument[]
    }): Promise<
      {
        imageId: string
        seen: { facts: ImageFacts; sketch: Uint32Array; identity: ImageIdentity | null } | null
      }[]
    > {
      const families = form.families.map((document) => readFamily(document))
      return form.items.map(({ imageId, file, address }) => {
        try {
          const image = readImageFile(file, address === undefined ? { families } : { address })
          const digests = families.some(({ releases }) => releases)
            ? [digestOf(file), contentDigest(image.memory)]
            : []
          const identity = identifyImage(image.memory, families, digests)
          return { imageId, seen: { facts: factsOfImage(image), sketch: sketchOf(image.memory), identity } }
        } catch (error) {
          // Bytes that were altered in the data folder; opening the image says so.
          if (isProblem(error)) return { imageId, seen: null }
          throw error
        }
      })
    },

    /** Reads a log that came, keeps its bytes where it is one, and judges it. */
    async takeLog(form: {
      path: string
      agreement: CaseAgreement
      kindId: string
    }): Promise<{ sha256: string; bytes: number; judged: JudgedLog }> {
      const file = await readBytes(form.path)
      const judged = judgeLogBytes(file, form.agreement, form.kindId)
      return { sha256: await keepBlob(db, file), bytes: file.length, judged }
    },
    /** Judges a kept log anew, after the agreement changed. Null where its bytes are gone. */
    async judgeLog(form: {
      sha256: string
      agreement: CaseAgreement
      kindId: string
    }): Promise<JudgedLog | null> {
      const file = await readBlob(db, form.sha256)
      return file && judgeLogBytes(file, form.agreement, form.kindId)
    },
    /** The picture of a kept log, as SVG. Null where its bytes are gone. */
    async drawLog(form: { sha256: string; agreement: CaseAgreement; title: string }): Promise<string | null> {
      const file = await readBlob(db, form.sha256)
      return file && logPictureOf(file, form.agreement, form.title)
    },

    /** A copy of the database, made beside the server: the database's own copying stops whoever asks for it. */
    async backUp(form: {
      databasePath: string
      folder: string
      at: number
      why?: string
    }): Promise<BackupFile> {
      return makeBackup(form.databasePath, form.folder, form.at, form.why)
    },
    /** A checked copy of a backup beside the database. */
    prepareRestore: (form: Parameters<typeof prepareRestore>[0]) => prepareRestore(form),

    /** Begins a download. @returns the number by which its pieces are asked for. */
    openDownload: async (form: DownloadForm): Promise<number> => {
      const id = nextDownload++
      downloads.set(id, form.kind === 'file' ? storedFile(db, form) : exported(db, form))
      return id
    },
    /** The next piece of a download; null after the last. @throws Problem `blob-altered` before the last piece. */
    nextPiece: async (form: { id: number }): Promise<Uint8Array | null> => {
      const { done, value } = (await downloads.get(form.id)?.next()) ?? { done: true, value: undefined }
      if (!done && value) return ownBytes(Buffer.from(value.buffer, value.byteOffset, value.byteLength))
      downloads.delete(form.id)
      return null
    },
    /** Gives up a download that nobody reads any more. */
    closeDownload: async (form: { id: number }): Promise<void> => {
      await downloads.get(form.id)?.return(undefined)
      downloads.delete(form.id)
    },

    /**
     * Every image against hardware revisions or units, as the JSON text that goes over the wire: the server passes it
     * on unread.
     */
    async matrix(form: { against: 'revisions' | 'units'; familyId?: string }): Promise<Uint8Array> {
      const families = (await listFamilies(db)).map(({ family }) => family)
      const rows = await matrixRows(db, families, form.familyId)
      const columns =
        form.against === 'revisions'
          ? revisionColumns(families).map((column) => ({
              id: column.says,
              label: column.says,
              ...column,
            }))
          : (await listUnits(db)).map((unit) => ({
              id: unit.id,
              label: unit.name,
              familyId: unit.familyId,
              unit: unit.facts,
              answers: unit.answers,
            }))
      const own = columns.filter(({ familyId }) => form.familyId === undefined || familyId === form.familyId)
      const matrix = fitMatrix(rows, own, families, form.against === 'revisions')
      const head = JSON.stringify({
        columns: own.map(({ id, label, familyId }) => ({ id, label, familyId })),
        rows: rows.map(({ id, name, identity }) => ({
          id,
          name,
          familyId: identity?.familyId ?? null,
          componentId: identity?.componentId ?? null,
          version: identity?.version ?? null,
          release: identity?.release ?? null,
        })),
        reasons: matrix.reasons,
      })
      // Row after row, 16 bit little endian; laid between the texts as bytes, because ten million cells are not worth
      // a second copy.
      return ownBytes(
        Buffer.concat([
          Buffer.from(`${head.slice(0, -1)},"cells":"`, 'utf8'),
          Buffer.from(Buffer.from(matrix.cells.buffer).toString('base64'), 'latin1'),
          Buffer.from('"}', 'latin1'),
        ]),
      )
    },
  }
}

export type Tasks = ReturnType<typeof tasks>

function factsOfImage(image: ReadImage): ImageFacts {
  const { format, memory, placed, header, dfu, uf2Family } = image
  return {
    format,
    segments: rangesOf(memory),
    placed,
    ...(format === 'bin' ? { address: memory[0]?.address ?? 0 } : {}),
    ...(header ? { header } : {}),
    ...(dfu ? { dfu } : {}),
    ...(uf2Family === undefined ? {} : { uf2Family }),
  }
}

/** Bytes that own their buffer, so that they can be handed over; small ones share a pool of Node's. */
const ownBytes = (bytes: Buffer): Uint8Array =>
  bytes.byteLength === bytes.buffer.byteLength ? new Uint8Array(bytes.buffer) : new Uint8Array(bytes)

/** @throws Problem when a thread answers what nobody asked. */
export function noSuchTask(name: string): Problem {
  return new Problem({ kind: 'defect', says: `there is no task "${name}"`, remedy: 'Report what you did.' })
}
