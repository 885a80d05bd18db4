import type { Family } from '@bench-wake/core/family'
import type { UnitAnswers } from '@bench-wake/core/fit'
import { Problem } from '@bench-wake/core/kernel'
import {
  clockJumps,
  factsOf,
  knownPage,
  type ClockJump,
  type Snapshot,
  type Unit,
  type UnitFacts,
} from '@bench-wake/core/unit'
import { and, eq, inArray, sql } from 'drizzle-orm'
import type { Database } from '../db/open'
import { snapshots, unitAnswers, units } from '../db/schema'
import { newId } from '../new-id'
import { notFound } from '../problem'
import { keepBlob, readBlob } from './blobs'
import { getFamily, listFamilies } from './families'
import { photoType } from './photo-type'
import { headsOfUnits, type RunHead } from './run-summaries'
import { allSnapshots, type KeptSnapshot } from './unit-pages'

export type { KeptSnapshot } from './unit-pages'

/** An answer to a family's question, with who gave it and when. */
export interface UnitAnswer {
  question: string
  answer: string
  by: string
  at: number
}

export interface KnownUnit extends Unit {
  facts: UnitFacts
  /** The newest answer to each of the family's questions. */
  answers: UnitAnswers
}

export interface FullUnit extends KnownUnit {
  /** The one that was recorded last comes first, whatever the clock said. */
  snapshots: KeptSnapshot[]
  /** Pages of other units that were read here; they count for nothing. */
  refused: KeptSnapshot[]
  /** Where the clock was set back between two pages. */
  clockJumps: ClockJump[]
  answered: UnitAnswer[]
}

/**
 * Units by name, of all or of a stretch.
 * @throws Problem `not-found` where there is no unit `after`.
 */
export async function listUnits(
  db: Database,
  { after, count }: { after?: string; count?: number } = {},
): Promise<KnownUnit[]> {
  const [last] = after === undefined ? [] : await db.select().from(units).where(eq(units.id, after))
  if (after !== undefined && !last) throw notFound('unit', after)
  const asked = db
    .select()
    .from(units)
    .where(last && sql`(${units.name}, ${units.id}) > (${last.name}, ${last.id})`)
    .orderBy(units.name, units.id)
  const rows = await (count === undefined ? asked : asked.limit(count))
  const ids = count === undefined ? undefined : rows.map(({ id }) => id)
  const [pages, answers, families] = await Promise.all([
    allSnapshots(db, ids, ids && (await headsOfUnits(db, ids))),
    allAnswers(db, ids),
    listFamilies(db),
  ])
  const byId = new Map(families.map(({ family }) => [family.id, family]))
  return rows.map((row) =>
    known(row, pages.get(row.id) ?? [], answers.get(row.id) ?? [], byId.get(row.familyId)),
  )
}

/** A unit's rows as they are kept, before they are judged under its family's signs. */
export interface UnitRows {
  row: typeof units.$inferSelect
  pages: KeptSnapshot[]
  answered: UnitAnswer[]
}

/** Rows of these units; one that there is not is not in it. @param heads their runs, newest first, of every one. */
export async function readUnits(
  db: Database,
  ids: readonly string[],
  heads: ReadonlyMap<string, readonly RunHead[]>,
): Promise<Map<string, UnitRows>> {
  const asked = [...new Set(ids)]
  const [rows, pages, answers] = await Promise.all([
    db.select().from(units).where(inArray(units.id, asked)),
    allSnapshots(db, asked, heads),
    allAnswers(db, asked),
  ])
  return new Map(
    rows.map((row) => [row.id, { row, pages: pages.get(row.id) ?? [], answered: answers.get(row.id) ?? [] }]),
  )
}

/** A unit with all that is known of it. */
export function fullUnit({ row, pages, answered }: UnitRows, family: Family): FullUnit {
  const counting = pages.filter(counts)
  return {
    ...known(row, pages, answered, family),
    snapshots: counting.toReversed(),
    refused: pages.filter((page) => !counts(page)).toReversed(),
    clockJumps: clockJumps(counting),
    answered,
  }
}

/** @throws Problem `not-found`. */
export async function getUnit(db: Database, id: string): Promise<FullUnit> {
  const rows = (await readUnits(db, [id], await headsOfUnits(db, [id]))).get(id)
  if (!rows) throw notFound('unit', id)
  return fullUnit(rows, await getFamily(db, rows.row.familyId))
}

const counts = ({ refused }: KeptSnapshot) => refused === undefined

/** A unit with what is known of it: what its pages showed, under its family's signs. */
function known(
  { id, familyId, name, place, serial }: typeof units.$inferSelect,
  pages: KeptSnapshot[],
  answered: readonly UnitAnswer[],
  family: Family | undefined,
): KnownUnit {
  return {
    id,
    familyId,
    name,
    place,
    serial,
    facts: factsOf(knownPage(pages.filter(counts)), family),
    answers: Object.fromEntries(answered.map(({ question, answer }) => [question, answer])),
  }
}

export async function addUnit(db: Database, form: Omit<Unit, 'id'> & { id?: string }): Promise<Unit> {
  await getFamily(db, form.familyId)
  const [twin] = await db
    .select({ name: units.name })
    .from(units)
    .where(and(eq(units.familyId, form.familyId), eq(units.serial, form.serial)))
  if (twin) {
    throw new Problem({
      kind: 'twin',
      thing: form.serial,
      place: { at: 'serial' },
      says: `this serial belongs to ${twin.name}`,
      remedy: 'Open that unit, or read the serial again.',
    })
  }
  const unit = { ...form, id: form.id ?? newId('unit') }
  await db.insert(units).values({ ...unit, addedAt: Date.now() })
  return unit
}

/**
 * Keeps a page that was read outside a run.
 * @param refused why it counts for nothing; kept all the same, since it was read.
 */
export async function addSnapshot(
  db: Database,
  unitId: string,
  { at, source, lines, inBootloader }: Snapshot,
  refused?: string,
): Promise<number> {
  const [row] = await db
    .insert(snapshots)
    .values({
      unitId,
      at,
      source,
      lines,
      inBootloader: inBootloader ?? false,
      refused: refused ?? null,
      afterEvent: sql`(SELECT COALESCE(MAX(rowid), 0) FROM wake_events)`,
    })
    .returning({ id: snapshots.id })
  return row!.id
}

/** Keeps an answer to one of the family's questions. @throws Problem `input` when the family does not ask that. */
export async function addAnswer(
  db: Database,
  unitId: string,
  form: { question: string; answer: string; by: string; at?: number },
): Promise<void> {
  const family = await getFamily(db, (await getUnit(db, unitId)).familyId)
  const question = family.questions?.find(({ id }) => id === form.question)
  if (!question?.answers.some(({ id }) => id === form.answer)) {
    throw new Problem({
      kind: 'input',
      place: { at: question ? 'answer' : 'question' },
      says: question ? 'this is no answer to that question' : `a ${family.name} is not asked that`,
      expected:
        (question?.answers ?? family.questions ?? []).map(({ id }) => id).join(' or ') || 'no question',
      found: question ? form.answer : form.question,
      remedy: 'Choose one of these.',
    })
  }
  const { question: asked, answer, by, at } = form
  await db.insert(unitAnswers).values({ unitId, question: asked, answer, by, at: at ?? Date.now() })
}

/** Keeps a photo with a page that a person read. @throws Problem `photo-type`, `not-found`. */
export async function addPhoto(
  db: Database,
  unitId: string,
  snapshotId: number,
  name: string,
  bytes: Uint8Array,
): Promise<string> {
  const type = photoType(bytes)
  if (!type) {
    throw new Problem({
      kind: 'photo-type',
      thing: name,
      says: 'this is no photo that a browser shows',
      expected: 'PNG, JPEG or WebP',
      remedy: 'Take the photo again as JPEG.',
    })
  }
  const [row] = await db
    .select({ id: snapshots.id })
    .from(snapshots)
    .where(and(eq(snapshots.id, snapshotId), eq(snapshots.unitId, unitId)))
  if (!row) throw notFound('page', String(snapshotId))
  const photoSha256 = await keepBlob(db, bytes)
  await db.update(snapshots).set({ photoSha256, photoType: type }).where(eq(snapshots.id, snapshotId))
  return photoSha256
}

/** @throws Problem `not-found`. */
export async function getPhoto(
  db: Database,
  unitId: string,
  sha256: string,
): Promise<{ type: string; bytes: Uint8Array }> {
  const [row] = await db
    .select({ type: snapshots.photoType })
    .from(snapshots)
    .where(and(eq(snapshots.unitId, unitId), eq(snapshots.photoSha256, sha256)))
  const bytes = row ? await readBlob(db, sha256) : null
  if (!row?.type || !bytes) throw notFound('photo', sha256.slice(0, 12))
  return { type: row.type, bytes }
}

/** @throws Problem `page-unread` when not one line is one that the family knows. */
export function refuseUnread(family: Family, { lines }: Snapshot): void {
  if (lines.some(({ field }) => family.snapshot.some((rule) => rule.field === field))) return
  throw new Problem({
    kind: 'page-unread',
    thing: family.name,
    says: 'no line of this text is one that this equipment shows',
    expected: family.snapshot
      .slice(0, 4)
      .map(({ label, example }) => `${label}: ${example ?? '…'}`)
      .join('; '),
    found: lines[0]?.value ?? 'nothing',
    remedy: 'Copy the whole page with its labels, or type it line by line.',
  })
}

/** The problem of a page that names another serial than the unit's own; undefined where it is this unit's, or names none. */
export function otherUnit(unit: Unit, snapshot: Snapshot): Problem | undefined {
  const { serial } = factsOf(snapshot)
  if (serial === undefined || serial === unit.serial) return undefined
  return new Problem({
    kind: 'wrong-unit',
    thing: unit.name,
    place: { at: 'serial' },
    says: 'this page is from another unit',
    expected: unit.serial,
    found: serial,
    remedy: 'Join the right unit, or open the one with this serial.',
  })
}

/** Answers by unit, oldest first. */
async function allAnswers(db: Database, unitIds?: readonly string[]): Promise<Map<string, UnitAnswer[]>> {
  const rows = await db
    .select()
    .from(unitAnswers)
    .where(unitIds && inArray(unitAnswers.unitId, [...unitIds]))
    .orderBy(unitAnswers.id)
  const answers = new Map<string, UnitAnswer[]>()
  for (const { unitId: owner, question, answer, by, at } of rows) {
    const list = answers.get(owner)
    if (list) list.push({ question, answer, by, at })
    else answers.set(owner, [{ question, answer, by, at }])
  }
  return answers
}
