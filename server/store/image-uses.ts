import { and, eq, inArray, sql } from 'drizzle-orm'
import type { Database } from '../db/open'
import { calibrationCases, caseEvents, jobs, readable, requests, wakeEvents } from '../db/schema'

/** What of this bench's work names an image, to a person. */
export async function usesOf(db: Database, id: string): Promise<string[]> {
  const [own, asked, written, rounds] = await Promise.all([
    db.select({ id: jobs.id, reason: jobs.reason }).from(jobs).where(eq(jobs.imageId, id)),
    db.select({ asked: requests.asked }).from(requests).where(eq(requests.imageId, id)),
    db
      .selectDistinct({ runId: wakeEvents.runId })
      .from(wakeEvents)
      .where(
        and(
          readable,
          inArray(wakeEvents.type, ['run.opened', 'backup']),
          sql`${id} in (json_extract(${wakeEvents.body}, '$.image.id'), json_extract(${wakeEvents.body}, '$.imageId'))`,
        ),
      ),
    db
      .selectDistinct({ id: calibrationCases.id, unitId: calibrationCases.unitId })
      .from(caseEvents)
      .innerJoin(calibrationCases, eq(calibrationCases.id, caseEvents.caseId))
      .where(sql`json_valid(${caseEvents.event}) and json_extract(${caseEvents.event}, '$.imageId') = ${id}`),
  ])
  return [
    ...own.map(({ reason }) => `a job: ${reason}`),
    ...asked.map((request) => `a request: ${request.asked}`),
    ...written.map(({ runId }) => `the record of ${runId}`),
    ...rounds.map(({ unitId }) => `the rounds of ${unitId}`),
  ]
}
