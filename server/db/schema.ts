import type { CauseId, Help } from '@bench-wake/core/entry'
import type { FamilyDocument } from '@bench-wake/core/family'
import type { WorkshopRules, ReasonKind, SupplierRequest, Symptom } from '@bench-wake/core/fit'
import type { ImageIdentity, ManifestClaim } from '@bench-wake/core/image'
import type { JobDeed, KeptRelease } from '@bench-wake/core/job'
import type { BenchMeter } from '@bench-wake/core/link'
import type { Adapter, BenchInputs, LaptopSay } from '@bench-wake/core/ready'
import type { SupplyForm } from '@bench-wake/standins'
import type { SnapshotLine, SnapshotSource } from '@bench-wake/core/unit'
import type { Task, WakeBody } from '@bench-wake/core/run'
import { sql } from 'drizzle-orm'
import { damagedTextOf, textOrNull } from './stored-text'
import {
  type AnySQLiteColumn,
  blob,
  index,
  integer,
  primaryKey,
  real,
  sqliteTable,
  text,
} from 'drizzle-orm/sqlite-core'
import type { BundleRow, ImageFacts } from './image-facts'

export type { BundleRow, ImageFacts } from './image-facts'

/*
 * Facts as they came in, and wakes. What can be computed from them (fit, identity, run state, statistics) has no
 * table here.
 */

export const families = sqliteTable(
  'families',
  {
    id: text().notNull(),
    revision: integer().notNull(),
    document: text({ mode: 'json' }).$type<FamilyDocument>().notNull(),
    addedAt: integer().notNull(),
  },
  (table) => [primaryKey({ columns: [table.id, table.revision] })],
)

export const units = sqliteTable('units', {
  id: text().primaryKey(),
  familyId: text().notNull(),
  name: text().notNull(),
  place: text().notNull(),
  serial: text().notNull(),
  addedAt: integer().notNull(),
})

/** Pages read outside a run; those read in a run are in its wake. */
export const snapshots = sqliteTable(
  'snapshots',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    unitId: text().notNull(),
    at: real().notNull(),
    source: text().$type<SnapshotSource>().notNull(),
    lines: text({ mode: 'json' }).$type<SnapshotLine[]>().notNull(),
    /** True where the bootloader answered. */
    inBootloader: integer({ mode: 'boolean' }).notNull().default(false),
    /** Why it counts for nothing: it is another unit's page. */
    refused: text(),
    /**
     * The last event of any run that was kept before it: pages are ordered by when they were recorded, and not by a clock
     * that may have stood wrong.
     */
    afterEvent: integer().notNull().default(0),
    /** A photo of the label or the page, among the blobs. */
    photoSha256: text(),
    photoType: text(),
  },
  (table) => [index('snapshots_by_unit').on(table.unitId)],
)

/** How a unit is used: answers to its family's questions, each with who gave it; the newest counts. */
export const unitAnswers = sqliteTable(
  'unit_answers',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    unitId: text().notNull(),
    question: text().notNull(),
    answer: text().notNull(),
    by: text().notNull(),
    at: integer().notNull(),
  },
  (table) => [index('unit_answers_by_unit').on(table.unitId)],
)

/** Bytes by their SHA-256; those of a large file lie in parts, and `bytes` is empty here. */
export const blobs = sqliteTable('blobs', {
  sha256: text().primaryKey(),
  bytes: blob({ mode: 'buffer' }).notNull(),
})

/** A large file's bytes, a piece a row: written at once they would hold the database, and memory, for seconds. */
export const blobParts = sqliteTable(
  'blob_parts',
  {
    sha256: text().notNull(),
    part: integer().notNull(),
    bytes: blob({ mode: 'buffer' }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.sha256, table.part] })],
)

/**
 * An image is what it says at which addresses; `id` comes from the digest of that. `facts` is what reading its bytes
 * told, whatever the profiles: kept, because reading ten thousand images anew for each look at the shelf takes a
 * minute; it can be made again from the bytes at any time.
 */
export const images = sqliteTable('images', {
  id: text().primaryKey(),
  contentSha256: text().notNull().unique(),
  addedAt: integer().notNull(),
  facts: text({ mode: 'json' }).$type<ImageFacts>(),
  /** Digests of its blocks, for closeness (core/image/closeness.ts), 32 bit little endian. */
  sketch: blob({ mode: 'buffer' }),
  /** When it was taken off the shelf; it can be put back until its bytes are cleared away. */
  removedAt: integer(),
})

/** What an image says of itself under one state of all profiles; stale rows are made again (server/store/images.ts). */
export const imageIdentities = sqliteTable('image_sights', {
  imageId: text().primaryKey(),
  profiles: text().notNull(),
  identity: text({ mode: 'json' }).$type<ImageIdentity | null>(),
})

/** What a named person says an image is, where nothing else tells it; one a image. */
export const imageStatements = sqliteTable('image_statements', {
  imageId: text().primaryKey(),
  familyId: text().notNull(),
  componentId: text().notNull(),
  version: text(),
  hardwareMajor: integer(),
  by: text().notNull(),
  /** Where they know it from. */
  origin: text().notNull(),
  at: integer().notNull(),
})

/** The files an image came in: two downloads of one image are two rows here. */
export const imageFiles = sqliteTable(
  'image_files',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    imageId: text().notNull(),
    name: text().notNull(),
    sha256: text().notNull(),
    size: integer().notNull(),
    addedAt: integer().notNull(),
    /** Where it came from, as a person said. */
    origin: text(),
    /** Archive it was unpacked from, and its path there. */
    bundleId: text(),
    path: text(),
    claim: text({ mode: 'json' }).$type<ManifestClaim>(),
  },
  (table) => [index('image_files_by_image').on(table.imageId)],
)

/** Archives as they came, with what else was in them. */
export const bundles = sqliteTable('bundles', {
  id: text().primaryKey(),
  name: text().notNull(),
  sha256: text().notNull(),
  size: integer().notNull(),
  addedAt: integer().notNull(),
  origin: text(),
  entries: text({ mode: 'json' }).$type<BundleRow[]>().notNull(),
})

/** What was asked of suppliers (PRACTICE B8, L1). */
export const requests = sqliteTable('requests', {
  id: text().primaryKey(),
  unitId: text().notNull(),
  asked: text().notNull(),
  of: text().notNull(),
  askedAt: integer().notNull(),
  dueDay: text().notNull(),
  answer: text({ mode: 'json' }).$type<SupplierRequest['answer']>(),
  imageId: text(),
  closedAt: integer(),
})

/** How this workshop works; the newest row counts, the older tell what was the rule before. */
export const workshopPolicies = sqliteTable('house_policies', {
  id: integer().primaryKey({ autoIncrement: true }),
  policy: text({ mode: 'json' }).$type<WorkshopRules>().notNull(),
  by: text().notNull(),
  at: integer().notNull(),
})

export const jobs = sqliteTable('jobs', {
  id: text().primaryKey(),
  unitId: text().notNull(),
  imageId: text(),
  componentId: text().notNull(),
  /** What it is for; only `write` changes the firmware. */
  task: text().$type<Task>().notNull().default('write'),
  kind: text().$type<ReasonKind>().notNull().default('fault'),
  reason: text().notNull(),
  symptoms: text({ mode: 'json' }).$type<Symptom[]>().notNull().default([]),
  /** Day it is planned for, `2026-11-24`. */
  day: text().notNull(),
  addedAt: integer().notNull(),
  closedAt: integer(),
  closedBy: text(),
  closingNote: text(),
  /** Holds that were released by name, each with what it said then; one that says something else is asked again. */
  releases: text({ mode: 'json' }).$type<KeptRelease[]>().notNull().default([]),
  /** What was done with the job itself, oldest first. */
  history: text({ mode: 'json' }).$type<JobDeed[]>().notNull().default([]),
})

/** Photographs and files of a unit's settings, kept with a job before its update erases them. */
export const jobFiles = sqliteTable(
  'job_files',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    jobId: text().notNull(),
    name: text().notNull(),
    type: text().notNull(),
    bytes: integer().notNull(),
    sha256: text().notNull(),
    at: integer().notNull(),
  },
  (table) => [index('job_files_by_job').on(table.jobId)],
)

/** What a person says of the bench for a job: supply, loads, charger, laptop. */
export const jobBenches = sqliteTable('job_benches', {
  jobId: text().primaryKey(),
  say: text({ mode: 'json' }).$type<BenchInputs>().notNull(),
})

/** What was said of the laptop, for all jobs and runs; the newest counts. */
export const laptopSays = sqliteTable('laptop_says', {
  id: integer().primaryKey({ autoIncrement: true }),
  say: text({ mode: 'json' }).$type<LaptopSay>().notNull(),
  at: integer().notNull(),
})

/** The meter of this bench; the newest row counts, and null where it was taken away again. */
export const benchMeters = sqliteTable('bench_meters', {
  id: integer().primaryKey({ autoIncrement: true }),
  document: text({ mode: 'json' }).$type<BenchMeter | null>(),
  at: integer().notNull(),
})

/** What was refused: a run on a held port, a gate that was shut, bytes or a record that were altered. */
export const refusals = sqliteTable('refusals', {
  id: integer().primaryKey({ autoIncrement: true }),
  at: integer().notNull(),
  kind: text().notNull(),
  /** Method and path. */
  asked: text().notNull(),
  thing: text(),
  says: text().notNull(),
  found: text(),
})

/** The workshop's cables and adapters (PRACTICE C1, C2). */
export const adapters = sqliteTable('adapters', {
  id: text().primaryKey(),
  document: text({ mode: 'json' }).$type<Adapter>().notNull(),
  addedAt: integer().notNull(),
})

/** What is packed for a day, by the item's id. */
export const packedItems = sqliteTable(
  'packed_items',
  {
    day: text().notNull(),
    item: text().notNull(),
    at: integer().notNull(),
  },
  (table) => [primaryKey({ columns: [table.day, table.item] })],
)

/** What was practised on stand-ins (PRACTICE L2). */
export const drills = sqliteTable('drills', {
  id: integer().primaryKey({ autoIncrement: true }),
  exerciseId: text().notNull(),
  by: text().notNull(),
  at: integer().notNull(),
  help: text().$type<Help>().notNull(),
  unsafe: integer().notNull(),
  wrong: integer().notNull(),
  tookMs: real().notNull(),
  score: integer().notNull(),
})

/** Why a unit did not answer, as it was found: what happened here happens again. */
export const foundCauses = sqliteTable(
  'found_causes',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    familyId: text().notNull(),
    jobId: text().notNull(),
    cause: text().$type<CauseId>().notNull(),
    at: integer().notNull(),
  },
  (table) => [index('found_causes_by_family').on(table.familyId)],
)

/** A run's state is its wake; this row only says that it exists. */
export const runs = sqliteTable(
  'runs',
  {
    id: text().primaryKey(),
    jobId: text().notNull(),
    unitId: text().notNull(),
    addedAt: integer().notNull(),
    /** The data folder whose program it runs in: of a database that several share, each calls only its own runs cut. */
    program: text(),
  },
  (table) => [index('runs_by_job').on(table.jobId), index('runs_by_unit').on(table.unitId)],
)

export const wakeEvents = sqliteTable(
  'wake_events',
  {
    runId: text().notNull(),
    seq: integer().notNull(),
    at: real().notNull(),
    type: text().notNull(),
    body: text({ mode: 'json' }).$type<WakeBody>().notNull(),
    prev: text().notNull(),
    hash: text().notNull(),
  },
  (table) => [
    primaryKey({ columns: [table.runId, table.seq] }),
    index('wake_by_type').on(table.type),
    index('wake_of_run_by_type').on(table.runId, table.type),
  ],
)

/** Events whose body is JSON; the others show where a record broke, and stop no list. */
export const readable = sql`json_valid(${wakeEvents.body})`

/** The stored text of an event's body; null where it is not UTF-8. */
export const eventText = sql`cast(${wakeEvents.body} as blob)`.mapWith({ mapFromDriverValue: textOrNull })

/** A text column of events, read whatever its bytes are: damage is found by the chain, and stops no list. */
export const eventColumn = (column: AnySQLiteColumn) =>
  sql`cast(${column} as blob)`.mapWith({ mapFromDriverValue: damagedTextOf })

/**
 * What each run that is over came to: a cache that can be thrown away. `hash` is that of the last event it was
 * made from; `mark` is a digest of all of it and of the program's own form.
 */
export const runSummaries = sqliteTable('run_summaries', {
  runId: text().primaryKey(),
  hash: text().notNull(),
  mark: text().notNull(),
  state: text().notNull(),
})

/** Simulated units keep their memory between sessions, as real ones do. */
export const standIns = sqliteTable('stand_ins', {
  id: text().primaryKey(),
  familyId: text().notNull(),
  name: text().notNull(),
  hardware: text().notNull(),
  serial: text().notNull(),
  flash: blob({ mode: 'buffer' }).notNull(),
  usedAh: real().notNull(),
  inBootloader: integer({ mode: 'boolean' }).notNull(),
  /** The family's link it stands on; null for its first. */
  linkId: text(),
  /** A battery of its own, with a meter at it; null where its supply is not played. */
  battery: text({ mode: 'json' }).$type<SupplyForm>(),
  /** Lines of its page that are in no image, by field. */
  lines: text({ mode: 'json' }).$type<Record<string, string>>().notNull().default({}),
})

/** Rows that could not be read and were set aside, so that they take nothing else with them. */
export const damagedRows = sqliteTable('damaged_rows', {
  id: integer().primaryKey({ autoIncrement: true }),
  at: integer().notNull(),
  /** Table and key, as they were. */
  fromTable: text().notNull(),
  key: text().notNull(),
  why: text().notNull(),
  /** The whole row as JSON; bytes are hexadecimal. */
  row: text().notNull(),
})

/** The password of a program that others reach: a slow hash of it; the newest row counts. */
export const passwords = sqliteTable('passwords', {
  id: integer().primaryKey({ autoIncrement: true }),
  hash: text().notNull(),
  at: integer().notNull(),
})

/** Who is signed in, or paired, by the digest of the secret in their cookie. */
export const sessions = sqliteTable('sessions', {
  id: text().primaryKey(),
  secretSha256: text().notNull().unique(),
  /** What it is on: "Phone", "Tablet beside the unit". */
  device: text().notNull(),
  /** Who works there. */
  person: text().notNull(),
  at: integer().notNull(),
  seenAt: integer().notNull(),
  endsAt: integer().notNull(),
})

export * from './rounds-schema'
