import type { Finding } from '@bench-wake/core/kernel'
import { sql } from 'drizzle-orm'
import type { Database } from '../db/open'
import { caseEvents } from '../db/schema'
import { lookAtRevision } from './case-deeds'
import { caseImages } from './case-images'
import { caseView } from './cases'
import { whereMissing } from './families'
import type { JobRow } from './job-rows'
import type { Shelf } from './shelf'

/**
 * What a case says of its job's image, each time the gates are looked at: that it is this round's, and that it writes
 * the calibration and nothing else. Null for a job of no case.
 */
export async function caseFindings(
  db: Database,
  shelf: Shelf,
  { id: jobId, imageId, unitId }: Pick<JobRow, 'id' | 'imageId' | 'unitId'>,
): Promise<Finding[] | null> {
  const owner = imageId === null ? undefined : (await caseImages(db)).get(imageId)
  if (owner !== undefined && owner !== unitId)
    return [
      {
        rule: 'other-units-calibration',
        level: 'stop',
        says: 'This image was calibrated for another unit.',
        because: `It is a revision of the rounds of ${owner}.`,
        remedy: 'Ask the calibrator for one of this unit’s own.',
      },
    ]
  const [row] = await db
    .select({ caseId: caseEvents.caseId })
    .from(caseEvents)
    .where(
      sql`json_valid(${caseEvents.event}) and json_extract(${caseEvents.event}, '$.kind') = 'job'
        and json_extract(${caseEvents.event}, '$.jobId') = ${jobId}`,
    )
    .limit(1)
  const view = row && (await caseView(db, row.caseId).catch(whereMissing))
  const index = view ? view.state.rounds.findIndex((round) => round.jobId === jobId) : -1
  if (!view || index < 0) return null
  const round = view.state.rounds[index]!
  if (imageId !== round.imageId)
    return [
      {
        rule: 'calibration-image',
        level: 'stop',
        says: `This is not the image of round ${round.number}.`,
        because: `The job belongs to the case ${view.state.agreement.title}.`,
        remedy: 'Use the round’s own image here. Another image gets a job of its own.',
      },
    ]
  const before = { ...view, state: { ...view.state, rounds: view.state.rounds.slice(0, index) } }
  const { findings } = await lookAtRevision(db, shelf, before, round)
  // What was held was released by name when the revision was taken in, and stands in its remarks.
  return findings.map((finding) => (finding.level === 'hold' ? { ...finding, level: 'note' } : finding))
}
