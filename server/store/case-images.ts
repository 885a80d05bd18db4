import { sql } from 'drizzle-orm'
import type { Database } from '../db/open'
import { storedText } from '../db/stored-text'
import { calibrationCases, caseEvents } from '../db/schema'

/**
 * Images that were made for one unit in its rounds: offered to no other (PRACTICE B8). By image, the unit whose case it
 * belongs to.
 */
export async function caseImages(db: Database): Promise<Map<string, string>> {
  const rows = await db
    .select({
      imageId: sql`cast(json_extract(${caseEvents.event}, '$.imageId') as blob)`.mapWith(storedText),
      unitId: calibrationCases.unitId,
    })
    .from(caseEvents)
    .innerJoin(calibrationCases, sql`${calibrationCases.id} = ${caseEvents.caseId}`)
    .where(sql`json_valid(${caseEvents.event}) and json_extract(${caseEvents.event}, '$.kind') = 'revision'`)
  return new Map(rows.map(({ imageId, unitId }) => [imageId, unitId]))
}

/** The images that may be offered to a unit: all but those of other units' rounds. @param owned as `caseImages` says. */
export const offeredTo = <E extends { id: string }>(
  owned: Map<string, string>,
  entries: readonly E[],
  unitId: string,
): readonly E[] =>
  owned.size === 0 ? entries : entries.filter(({ id }) => (owned.get(id) ?? unitId) === unitId)
