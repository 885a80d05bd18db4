import { KeptPolicy } from '../answers/house'
import { gives } from './gives'
import { HousePolicy } from '@bench-wake/core/fit'
import { Hono } from 'hono'
import * as v from 'valibot'
import type { Services } from '../app'
import { getHouse, setHouse } from '../store/house'
import { personOf } from '../access/guard'
import { text, valid } from './validate'

export const house = ({ db }: Services) =>
  new Hono()
    .get('/', gives(KeptPolicy), async (c) => c.json(await getHouse(db)))
    .put(
      '/',
      gives(KeptPolicy),
      valid('json', v.object({ policy: HousePolicy, by: text(80) })),
      async (c) => {
        const { policy, by } = c.req.valid('json')
        await setHouse(db, policy, personOf(c, by))
        return c.json(await getHouse(db))
      },
    )
