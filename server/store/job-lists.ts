import { askAgainOn } from '@bench-wake/core/job'
import { and, desc, eq, inArray, isNotNull, isNull, like, or, sql } from 'drizzle-orm'
import type { Database } from '../db/open'
import { jobBenches, jobs, units } from '../db/schema'
import { nextTurn } from '../host-time'
import { whereMissing } from './families'
import { jobRow, type JobRow } from './job-rows'
import { openJob, viewOf, type JobView } from './jobs'
import { onceEach } from './once'
import { listRequests } from './requests'
import { headsOfUnits } from './run-summaries'
import { knownRunsAt } from './runs'
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
export async function listClosedJobs(
  db: Database,
  { after, count }: Pick<JobPage, 'after' | 'count'> = {},
): Promise<ClosedJob[]> {
  const last = after === undefined ? undefined : await jobRow(db, after)
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
    .where(
      and(
        isNotNull(jobs.closedAt),
        last && sql`(${jobs.closedAt}, ${jobs.id}) < (${last.closedAt}, ${last.id})`,
      ),
    )
    .orderBy(desc(jobs.closedAt), desc(jobs.id))
    .limit(count ?? -1)
  return rows.map((row) => ({ ...row, closedAt: row.closedAt! }))
}

/** Rows that may still be to do: what is closed for good is not even read, years of it as there are. */
const perhapsToDo = or(isNull(jobs.closedAt), like(jobs.history, '%ask-again%'))

const reading: JobView['headline'] = { verdict: 'unknown', says: 'Reading the records of its earlier runs.' }

/** Which jobs are listed. */
export interface JobPage {
  /** The last job of the page before. */
  after?: string
  /** Most of them; all where it is absent. */
  count?: number
  /** Open jobs of this day alone. */
  day?: string
}

/** Rows of a page, in the order of their days. @throws Problem `not-found` for the job that the page begins after. */
async function rowsOf(db: Database, { after, count, day }: JobPage): Promise<JobRow[]> {
  const rows: JobRow[] = []
  let last = after === undefined ? undefined : await jobRow(db, after)
  for (;;) {
    const some = await db
      .select()
      .from(jobs)
      .where(
        and(
          day === undefined ? perhapsToDo : and(isNull(jobs.closedAt), eq(jobs.day, day)),
          last &&
            sql`(${jobs.day}, ${jobs.addedAt}, ${jobs.id}) > (${last.day}, ${last.addedAt}, ${last.id})`,
        ),
      )
      .orderBy(jobs.day, jobs.addedAt, jobs.id)
      .limit(count ?? -1)
    rows.push(...some.filter(stillToDo))
    last = some.at(-1)
    if (count === undefined || some.length < count || rows.length >= count) return rows.slice(0, count)
  }
}

/** Jobs with something still to do, judged now, by day. */
export async function listJobs(db: Database, shelf: Shelf, page: JobPage = {}): Promise<JobView[]> {
  const rows = await rowsOf(db, page)
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
  /** Units whose earlier runs are still being read: their jobs are listed, and not judged yet. */
  const filling = new Set<string>()
  for (const unitId of new Set(unitIds)) {
    const { runs, complete } = await knownRunsAt(db, heads.get(unitId) ?? [])
    if (!complete) filling.add(unitId)
    void once(`runs ${unitId}`, async () => runs)
  }
  const views: JobView[] = []
  for (const row of rows) {
    // Each takes a millisecond and more: whatever else is under way has its turn in between.
    await nextTurn()
    void once(`job ${row.id}`, async () => row)
    void once(`bench ${row.id}`, async () => benches.get(row.id))
    const { unitId } = row
    void once(`heads ${unitId}`, async () => heads)
    void once(`unit ${unitId}`, async () => unitRows.get(unitId))
    void once(`requests ${unitId}`, async () => requests.filter((each) => each.unitId === unitId))
    // A job whose unit or profile is missing takes no other with it; the data's own screen names what was set aside.
    const open = await openJob(db, shelf, row.id, once).catch(whereMissing)
    if (open)
      views.push(filling.has(unitId) ? { ...viewOf(open), headline: reading, filling: true } : viewOf(open))
  }
  return views
}
