import { drivenLink, type Family } from '@bench-wake/core/family'
import { Problem, dayAt } from '@bench-wake/core/kernel'
import { isPractice, practicePrefix } from '@bench-wake/core/unit'
import { batteryOf, isPlayable, practiceForm, type CardUnit, type StandIn } from '@bench-wake/standins'
import { eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { jobBenches, jobs, standIns, unitAnswers, units } from '../db/schema'
import { newId } from '../new-id'
import { getFamily } from './families'
import { addJob, jobRow, sayBench } from './job-rows'
import type { Shelf } from './shelf'
import { madeFrom, mediumOf, newStandInRow } from './stand-ins'
import { getUnit, type FullUnit } from './units'

/** What practice asks of the bench. */
interface Bench {
  runs: { busyWith(unitId: string): boolean }
  room: { ports: { putStandIn(unit: StandIn): void }; cards: { put(unit: CardUnit): void } }
}

/**
 * A unit on a stand-in of its own, made after another one, with a copy of a job of that one: any job can be tried before it
 * is worked. What is done there is another unit's record; nothing of it counts for the unit it stands for. A second time it
 * begins from the same state again.
 * @throws Problem `not-found`; `no-stand-in` where this program does not drive the unit's link; `run-under-way` while it is practised on.
 */
export async function practise(
  { db, shelf, runs, room }: { db: Database; shelf: Shelf } & Bench,
  unitId: string,
  jobId?: string,
): Promise<{ unitId: string; jobId: string | null }> {
  const unit = await getUnit(db, unitId)
  if (isPractice(unitId)) return { unitId, jobId: jobId ?? null }
  const family = await getFamily(db, unit.familyId)
  const link = drivenLink(family)
  if (!link && !mediumOf(family))
    throw new Problem({
      kind: 'no-stand-in',
      thing: family.name,
      says: 'this program drives no link of the unit, and no card is described that it takes in, so there is nothing to practise on',
      remedy: 'Practise the way in and the faults under Drill.',
    })
  if (link?.drive.speaks === 'script' && !isPlayable(link.drive))
    throw new Problem({
      kind: 'no-stand-in',
      thing: family.name,
      says: 'a stand-in cannot play a transfer that the unit begins unasked',
      remedy: 'Let the operation send a word first, where the unit takes one; else practise on a spare unit.',
    })
  const job = jobId === undefined ? null : await jobRow(db, jobId)
  const id = practicePrefix + unitId
  if (runs.busyWith(id))
    throw new Problem({
      kind: 'run-under-way',
      thing: `Practice: ${unit.name}`,
      says: 'a practice run of this unit is under way',
      remedy: 'Bring it to its end first.',
    })
  await makeUnit(db, room, family, unit, id)
  return { unitId: id, jobId: job && (await copyJob(db, shelf, job, id)) }
}

/** The unit and its stand-in, as the one it stands for is now. */
async function makeUnit(
  db: Database,
  { ports, cards }: Bench['room'],
  family: Family,
  unit: FullUnit,
  id: string,
): Promise<void> {
  const name = `Practice: ${unit.name}`
  const { serial } = unit
  const said = Object.fromEntries(
    unit.snapshots
      .toReversed()
      .flatMap(({ lines }) => lines)
      .map(({ field, value }) => [field, value]),
  )
  const { hardware, flash, lines } = practiceForm(family, serial, unit.facts, said)
  await db
    .insert(units)
    .values({ id, familyId: family.id, name, place: 'on this computer', serial, addedAt: Date.now() })
    .onConflictDoNothing()
  const battery = batteryOf(family) ?? null
  const row = newStandInRow(
    { id, familyId: family.id, name, hardware, serial, linkId: null, battery, lines },
    flash,
  )
  await db.insert(standIns).values(row).onConflictDoUpdate({ target: standIns.id, set: row })
  const answered = await db.select().from(unitAnswers).where(eq(unitAnswers.unitId, unit.id))
  await db.delete(unitAnswers).where(eq(unitAnswers.unitId, id))
  for (const { question, answer, by, at } of answered)
    await db.insert(unitAnswers).values({ unitId: id, question, answer, by, at })
  const made = madeFrom(row, family)
  if (made.unit) ports.putStandIn(made.unit)
  if (made.card) cards.put(made.card)
}

/** The job over again, with all that was said of its bench but what came back after it. */
async function copyJob(
  db: Database,
  shelf: Shelf,
  job: typeof jobs.$inferSelect,
  unitId: string,
): Promise<string> {
  const { imageId, componentId, task, kind, reason, symptoms } = job
  const { id } = await addJob(db, shelf, {
    id: newId('job'),
    unitId,
    imageId,
    componentId,
    task,
    kind,
    reason: `Practice. ${reason}`,
    symptoms,
    day: dayAt(Date.now()),
  })
  const [bench] = await db.select().from(jobBenches).where(eq(jobBenches.jobId, job.id))
  if (bench) {
    const { back: _back, card: _card, ...say } = bench.say
    await sayBench(db, id, say)
  }
  return id
}
