import { FoundCause, KeptCause } from '../answers/workshop-rules'
import { gives } from './gives'
import { causeIds } from '@bench-wake/core/entry'
import { desc, eq } from 'drizzle-orm'
import { Hono } from 'hono'
import * as v from 'valibot'
import type { Services } from '../app'
import { foundCauses } from '../db/schema'
import { text, valid } from './validate'

/** Only the newest tell: adapters and habits change. */
const newest = 20

/** What it was, when a unit of a family did not answer at this bench (PRACTICE F2). */
export const causes = ({ db }: Services) =>
  new Hono()
    .get('/:familyId', gives(v.array(FoundCause)), async (c) => {
      const rows = await db
        .select()
        .from(foundCauses)
        .where(eq(foundCauses.familyId, c.req.param('familyId')))
        .orderBy(desc(foundCauses.at))
        .limit(newest)
      return c.json(rows.map(({ cause, at }) => ({ cause, at })))
    })
    .post(
      '/',
      gives(KeptCause, 201),
      valid('json', v.object({ familyId: text(80), jobId: text(80), cause: v.picklist(causeIds) })),
      async (c) => {
        const row = { ...c.req.valid('json'), at: Date.now() }
        await db.insert(foundCauses).values(row)
        return c.json(row, 201)
      },
    )
