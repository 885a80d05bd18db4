import { checkFamily } from '@bench-wake/core/family'
import { Hono } from 'hono'
import type { Services } from '../app'
import { addFamily, getFamilyDocument, getFamilyHistory, listFamilies } from '../store/families'
import { openDocument, valid } from './validate'

export const families = ({ db, shelf }: Services) =>
  new Hono()
    .get('/', async (c) => c.json((await listFamilies(db)).map(({ document }) => document)))
    .post('/', valid('json', openDocument), async (c) => {
      const family = await addFamily(db, c.req.valid('json'))
      // Every image is looked at anew: the profile may claim some of them.
      shelf.forget()
      return c.json({ id: family.id, revision: family.revision }, 201)
    })
    .post('/check', valid('json', openDocument), (c) =>
      c.json({ faults: checkFamily(c.req.valid('json')).faults }),
    )
    .get('/:id', async (c) => c.json(await getFamilyHistory(db, c.req.param('id'))))
    .get('/:id/:revision{[0-9]+}', async (c) =>
      c.json(await getFamilyDocument(db, c.req.param('id'), Number(c.req.param('revision')))),
    )
