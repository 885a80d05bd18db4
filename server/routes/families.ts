import { FamilyHistory } from '../answers/families'
import { ProfileFault } from '../answers/parts/family'
import { FamilyProfile, checkFamily } from '@bench-wake/core/family'
import { gives } from './gives'
import * as v from 'valibot'
import { Hono } from 'hono'
import type { Services } from '../app'
import { addFamily, getFamilyDocument, getFamilyHistory, listFamilies } from '../store/families'
import { openDocument, valid } from './validate'

export const families = ({ db, shelf }: Services) =>
  new Hono()
    .get('/', gives(v.array(FamilyProfile)), async (c) =>
      c.json((await listFamilies(db)).map(({ document }) => document)),
    )
    .post(
      '/',
      gives(v.object({ id: v.string(), revision: v.number() }), 201),
      valid('json', openDocument),
      async (c) => {
        const family = await addFamily(db, c.req.valid('json'))
        // Every image is looked at anew: the profile may claim some of them.
        shelf.forget()
        return c.json({ id: family.id, revision: family.revision }, 201)
      },
    )
    .post('/check', gives(v.object({ faults: v.array(ProfileFault) })), valid('json', openDocument), (c) =>
      c.json({ faults: checkFamily(c.req.valid('json')).faults }),
    )
    .get('/:id', gives(FamilyHistory), async (c) => c.json(await getFamilyHistory(db, c.req.param('id'))))
    .get('/:id/:revision{[0-9]+}', gives(FamilyProfile), async (c) =>
      c.json(await getFamilyDocument(db, c.req.param('id'), Number(c.req.param('revision')))),
    )
