import { inTodaysForm, readFamily, type Family, type FamilyDocument } from '@bench-wake/core/family'
import { isProblem, Problem } from '@bench-wake/core/kernel'
import { and, desc, eq, max } from 'drizzle-orm'
import type { Database } from '../db/open'
import { eventText, families, readable, runs, units, wakeEvents } from '../db/schema'
import { bodyOf } from './event-body'
import { notFound } from '../problem'

export interface KeptFamily {
  document: FamilyDocument
  family: Family
}

/** A revision in a profile's history. */
export interface FamilyRevision {
  revision: number
  addedAt: number
  /** Runs that were made by it; such a revision stays as it is for good, like every other. */
  runs: number
}

export interface FamilyHistory {
  document: FamilyDocument
  /** Newest first. */
  revisions: FamilyRevision[]
  units: number
}

/** Profiles that were read before, by their text: a whole check takes milliseconds, and every look at a job asks for one. */
const read = new Map<string, Family>()
const maxRead = 200

/** A kept document as it is worked with: the same document gives the same object. */
export function readKept(document: FamilyDocument): Family {
  const text = JSON.stringify(document)
  const before = read.get(text)
  if (before) return before
  const family = readFamily(document)
  if (read.size >= maxRead) read.clear()
  read.set(text, family)
  return family
}

/** A document as it was kept, maybe years ago, in today's format version. */
const todays = (document: unknown) => inTodaysForm(document) as FamilyDocument

/** Whether there is any profile at all: a database without one is new. */
export async function holdsFamilies(db: Database): Promise<boolean> {
  return (await db.select({ id: families.id }).from(families).limit(1)).length > 0
}

/** The newest revision of each family, by name. Documents are validated on their way out. */
export async function listFamilies(db: Database): Promise<KeptFamily[]> {
  const newest = db
    .select({ id: families.id, last: max(families.revision).as('last') })
    .from(families)
    .groupBy(families.id)
    .as('newest')
  const rows = await db
    .select({ document: families.document })
    .from(families)
    .innerJoin(newest, and(eq(families.id, newest.id), eq(families.revision, newest.last)))
  return rows
    .map((row) => todays(row.document))
    .map((document) => ({ document, family: readKept(document) }))
    .sort((a, b) => a.family.name.localeCompare(b.family.name))
}

/** A family's profile: the newest, or the revision that is named. @throws Problem `not-found`. */
export async function getFamilyDocument(
  db: Database,
  id: string,
  revision?: number,
): Promise<FamilyDocument> {
  const [row] = await db
    .select()
    .from(families)
    .where(and(eq(families.id, id), revision === undefined ? undefined : eq(families.revision, revision)))
    .orderBy(desc(families.revision))
    .limit(1)
  if (!row) throw notFound('family', revision === undefined ? id : `${id}, revision ${revision}`)
  return todays(row.document)
}

export async function getFamily(db: Database, id: string): Promise<Family> {
  return readKept(await getFamilyDocument(db, id))
}

/** For what goes on without a thing that is missing: `getFamily(…).catch(whereMissing)`. Other errors stay errors. */
export function whereMissing(error: unknown): undefined {
  if (!isProblem(error, 'not-found')) throw error
}

/** The newest document with its history and what rests on it. */
export async function getFamilyHistory(db: Database, id: string): Promise<FamilyHistory> {
  const document = await getFamilyDocument(db, id)
  const rows = await db
    .select({ revision: families.revision, addedAt: families.addedAt })
    .from(families)
    .where(eq(families.id, id))
    .orderBy(desc(families.revision))
  const opened = await db
    .select({ text: eventText })
    .from(wakeEvents)
    .innerJoin(runs, eq(runs.id, wakeEvents.runId))
    .innerJoin(units, eq(units.id, runs.unitId))
    .where(and(eq(wakeEvents.type, 'run.opened'), eq(units.familyId, id), readable))
  const used = opened.flatMap(({ text }) => {
    const body = bodyOf(text)
    return body?.type === 'run.opened' ? [body.family.revision] : []
  })
  const owned = await db.select({ id: units.id }).from(units).where(eq(units.familyId, id))
  return {
    document,
    revisions: rows.map((row) => ({ ...row, runs: used.filter((each) => each === row.revision).length })),
    units: owned.length,
  }
}

/** Keeps a profile. A revision that is kept already is never changed under the runs that used it. */
export async function addFamily(db: Database, document: unknown): Promise<Family> {
  const family = readFamily(document)
  const [newest] = await db
    .select({ revision: families.revision })
    .from(families)
    .where(eq(families.id, family.id))
    .orderBy(desc(families.revision))
    .limit(1)
  if (newest && family.revision <= newest.revision) {
    throw new Problem({
      kind: 'twin',
      thing: family.name,
      place: { at: 'revision' },
      says: `revision ${newest.revision} of this profile is kept already`,
      expected: String(newest.revision + 1),
      found: String(family.revision),
      remedy: `Give the changed profile revision ${newest.revision + 1}; runs keep the one they were made by.`,
    })
  }
  await db.insert(families).values({
    id: family.id,
    revision: family.revision,
    document: todays(document),
    addedAt: Date.now(),
  })
  return family
}
