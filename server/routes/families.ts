import { Hono } from 'hono'
import * as v from 'valibot'
import type { Services } from '../app'
import { addFamily, listFamilies } from '../store/families'
import { valid } from './validate'

export const families = ({ db }: Services) =>
  new Hono()
    .get('/', async (c) => c.json((await listFamilies(db)).map(({ document }) => document)))
    .post('/', valid('json', v.record(v.string(), v.unknown())), async (c) => {
      const family = await addFamily(db, c.req.valid('json'))
      return c.json({ id: family.id, revision: family.revision }, 201)
    })
