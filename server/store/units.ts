import { Problem } from '@bench-wake/core/kernel'
import type { BodyOf } from '@bench-wake/core/run'
import { factsOf, newestSnapshot, type Snapshot, type Unit, type UnitFacts } from '@bench-wake/core/unit'
import { and, eq, inArray } from 'drizzle-orm'
import type { Database } from '../db/open'
import { runs, snapshots, units, wakeEvents } from '../db/schema'
import { newId } from '../new-id'
import { notFound } from '../problem'
import { getFamily } from './families'

export interface KeptSnapshot extends Snapshot {
  /** The run that read it, when one did. */
  runId?: string
}

export interface KnownUnit extends Unit {
  facts: UnitFacts
}

export async function listUnits(db: Database): Promise<KnownUnit[]> {
  const [rows, pages] = await Promise.all([db.select().from(units).orderBy(units.name), allSnapshots(db)])
  return rows.map((unit) => ({ ...unit, facts: factsOf(newestSnapshot(pages.get(unit.id) ?? [])) }))
}

export async function getUnit(db: Database, id: string): Promise<KnownUnit & { snapshots: KeptSnapshot[] }> {
  const [unit] = await db.select().from(units).where(eq(units.id, id))
  if (!unit) throw notFound('unit', id)
  const pages = (await allSnapshots(db, id)).get(id) ?? []
  return { ...unit, facts: factsOf(newestSnapshot(pages)), snapshots: pages.sort((a, b) => b.at - a.at) }
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

export async function addSnapshot(db: Database, unitId: string, snapshot: Snapshot): Promise<void> {
  await db.insert(snapshots).values({ unitId, ...snapshot })
}

/** @throws Problem `wrong-unit` when the page names another serial than the unit's own. */
export function refuseOtherUnit(unit: Unit, snapshot: Snapshot): void {
  const { serial } = factsOf(snapshot)
  if (serial === undefined || serial === unit.serial) return
  throw new Problem({
    kind: 'wrong-unit',
    thing: unit.name,
    place: { at: 'serial' },
    says: 'this page is from another unit',
    expected: unit.serial,
    found: serial,
    remedy: 'Join the right unit, or open the one with this serial.',
  })
}

/** Pages by unit: those read by themselves and those that runs read, which stay in their wakes. */
async function allSnapshots(db: Database, unitId?: string): Promise<Map<string, KeptSnapshot[]>> {
  const alone = await db
    .select()
    .from(snapshots)
    .where(unitId === undefined ? undefined : eq(snapshots.unitId, unitId))
  const inRuns = await db
    .select({ unitId: runs.unitId, runId: runs.id, body: wakeEvents.body })
    .from(wakeEvents)
    .innerJoin(runs, eq(runs.id, wakeEvents.runId))
    .where(
      and(inArray(wakeEvents.type, ['snapshot']), unitId === undefined ? undefined : eq(runs.unitId, unitId)),
    )
  const pages = new Map<string, KeptSnapshot[]>()
  const add = (id: string, page: KeptSnapshot) => pages.set(id, [...(pages.get(id) ?? []), page])
  for (const { unitId: id, at, source, lines } of alone) add(id, { at, source, lines })
  for (const { unitId: id, runId, body } of inRuns) {
    add(id, { ...(body as BodyOf<'snapshot'>).snapshot, runId })
  }
  return pages
}
