import { Adapter } from '@bench-wake/core/ready'
import { gives } from './gives'
import * as v from 'valibot'
import { Hono } from 'hono'
import type { Services } from '../app'
import { keepAdapter, listAdapters, removeAdapter } from '../store/adapters'
import { valid } from './validate'

export const adapters = ({ db }: Services) =>
  new Hono()
    .get('/', gives(v.array(Adapter)), async (c) => c.json(await listAdapters(db)))
    .put('/', gives(Adapter), valid('json', Adapter), async (c) => {
      const document = c.req.valid('json')
      await keepAdapter(db, document)
      return c.json(document)
    })
    .delete('/:id', gives(v.object({ removed: v.string() })), async (c) => {
      await removeAdapter(db, c.req.param('id'))
      return c.json({ removed: c.req.param('id') })
    })
