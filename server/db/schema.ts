import type { FamilyDocument } from '@bench-wake/core/family'
import type { SnapshotLine, SnapshotSource } from '@bench-wake/core/unit'
import type { WakeBody } from '@bench-wake/core/run'
import { blob, index, integer, primaryKey, real, sqliteTable, text } from 'drizzle-orm/sqlite-core'

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
  },
  (table) => [index('snapshots_by_unit').on(table.unitId)],
)

/** Bytes by their SHA-256. */
export const blobs = sqliteTable('blobs', {
  sha256: text().primaryKey(),
  bytes: blob({ mode: 'buffer' }).notNull(),
})

/** An image is what it says at which addresses; `id` comes from the digest of that. */
export const images = sqliteTable('images', {
  id: text().primaryKey(),
  contentSha256: text().notNull().unique(),
  addedAt: integer().notNull(),
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
  },
  (table) => [index('image_files_by_image').on(table.imageId)],
)

export const jobs = sqliteTable('jobs', {
  id: text().primaryKey(),
  unitId: text().notNull(),
  imageId: text(),
  componentId: text().notNull(),
  reason: text().notNull(),
  /** Day it is planned for, `2026-11-24`. */
  day: text().notNull(),
  addedAt: integer().notNull(),
  closedAt: integer(),
  closedBy: text(),
  closingNote: text(),
})

/** A run's state is its wake; this row only says that it exists. */
export const runs = sqliteTable(
  'runs',
  {
    id: text().primaryKey(),
    jobId: text().notNull(),
    unitId: text().notNull(),
    addedAt: integer().notNull(),
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
  (table) => [primaryKey({ columns: [table.runId, table.seq] }), index('wake_by_type').on(table.type)],
)

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
})
