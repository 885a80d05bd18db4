import { askAgainOn } from '@bench-wake/core/job'
import { desc, eq, inArray, isNotNull, isNull, like, or } from 'drizzle-orm'
import type { Database } from '../db/open'
import { jobBenches, jobs, units } from '../db/schema'
import { whereMissing } from './families'
import type { JobRow } from './job-rows'
import { openJob, viewOf, type JobView } from './jobs'
import { onceEach } from './once'
import { listRequests } from './requests'
import { headsOfUnits } from './run-summaries'
import type { Shelf } from './shelf'
import { readUnits } from './units'

/** Jobs that are open, and closed ones whose symptom is still to be asked after. */
const stillToDo = ({ closedAt, history }: JobRow): boolean =>
  closedAt === null || askAgainOn(history) !== null

/** A job that is closed, as a list shows it: nothing of it is judged any more. */
export interface ClosedJob {
  id: string
  unitId: string
  unit: string
  place: string
  reason: string
  day: string
  closedAt: number
}

/** Closed jobs, the one closed last first. */
export async function listClosedJobs(db: Database): Promise<ClosedJob[]> {
  const rows = await db
    .select({
      id: jobs.id,
      unitId: jobs.unitId,
      unit: units.name,
      place: units.place,
      reason: jobs.reason,
      day: jobs.day,
      closedAt: jobs.closedAt,
    })
    .from(jobs)
    .innerJoin(units, eq(units.id, jobs.unitId))
    .where(isNotNull(jobs.closedAt))
    .orderBy(desc(jobs.closedAt))
  return rows.map((row) => ({ ...row, closedAt: row.closedAt! }))
}

/** Rows that may still be to do: what is closed for good is not even read, years of it as there are. */
const perhapsToDo = or(isNull(jobs.closedAt), like(jobs.history, '%ask-again%'))

/** Jobs with something still to do, judged now, by day. @param which of them. */
export async function listJobs(
  db: Database,
  shelf: Shelf,
  which: (job: JobRow) => boolean = () => true,
): Promise<JobView[]> {
  const toDo = await db.select().from(jobs).where(perhapsToDo).orderBy(jobs.day, jobs.addedAt)
  const rows = toDo.filter((row) => stillToDo(row) && which(row))
  const itsOwn = inArray(
    jobBenches.jobId,
    rows.map(({ id }) => id),
  )
  const benches = new Map(
    (await db.select().from(jobBenches).where(itsOwn)).map((bench) => [bench.jobId, bench]),
  )
  const unitIds = rows.map(({ unitId }) => unitId)
  const heads = await headsOfUnits(db, unitIds)
  const unitRows = await readUnits(db, unitIds, heads)
  const requests = await listRequests(db)
  const once = onceEach()
  const views: JobView[] = []
  for (const row of rows) {
    void once(`job ${row.id}`, async () => row)
    void once(`bench ${row.id}`, async () => benches.get(row.id))
    const { unitId } = row
    void once(`heads ${unitId}`, async () => heads)
    void once(`unit ${unitId}`, async () => unitRows.get(unitId))
    void once(`requests ${unitId}`, async () => requests.filter((each) => each.unitId === unitId))
    // A job whose unit or profile is missing takes no other with it; the data's own screen names what was set aside.
    const open = await openJob(db, shelf, row.id, once).catch(whereMissing)
    if (open) views.push(viewOf(open))
  }
  return views
}
