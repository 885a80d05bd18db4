import { KeptPolicy } from '../answers/workshop-rules'
import { gives } from './gives'
import { WorkshopRules } from '@bench-wake/core/fit'
import { Hono } from 'hono'
import * as v from 'valibot'
import type { Services } from '../app'
import { getWorkshopRules, setWorkshopRules } from '../store/workshop-rules'
import { signer, valid } from './validate'

export const workshopRules = ({ db }: Services) =>
  new Hono()
    .get('/', gives(KeptPolicy), async (c) => c.json(await getWorkshopRules(db)))
    .put(
      '/',
      gives(KeptPolicy),
      valid('json', v.object({ policy: WorkshopRules, by: signer })),
      async (c) => {
        const { policy, by } = c.req.valid('json')
        await setWorkshopRules(db, policy, by)
        return c.json(await getWorkshopRules(db))
      },
    )
