import { FamilyHistory, TrialAnswer } from '../answers/families'
import { ProfileFault } from '../answers/parts/family'
import { FamilyProfile, checkFamily, readFamily } from '@bench-wake/core/family'
import { hexOf } from '@bench-wake/core/kernel'
import { tryable } from '@bench-wake/core/link'
import { gives } from './gives'
import * as v from 'valibot'
import { Hono } from 'hono'
import type { Services } from '../app'
import { addFamily, getFamilyDocument, getFamilyHistory, listFamilies } from '../store/families'
import { openDocument, text, valid } from './validate'

export const families = ({ db, shelf, runs, room }: Services) =>
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
    // A profile need not be kept to be tried: what is tried is what stands on the page.
    .post(
      '/try',
      gives(TrialAnswer),
      valid(
        'json',
        v.object({
          document: openDocument,
          linkId: text(80),
          operation: v.picklist(tryable),
          port: text(),
          /** Rules that a person answers for at this very trial. */
          looked: v.optional(v.pipe(v.array(text(80)), v.maxLength(20)), []),
        }),
      ),
      async (c) => {
        const { document, linkId, operation, port, looked } = c.req.valid('json')
        const family = readFamily(document)
        await runs.readiness.refuseShutLink(port, family, null, { looked })
        const { bytes, events, ...rest } = await room.readings.tryOperation(port, family, linkId, operation)
        return c.json({
          ...rest,
          events: events.map(({ sent, heard, ...event }) => ({
            ...event,
            ...(sent ? { sent: hexOf(sent) } : {}),
            ...(heard ? { heard: hexOf(heard) } : {}),
          })),
          ...(bytes ? { bytes: hexOf(bytes) } : {}),
        })
      },
    )
    .get('/:id', gives(FamilyHistory), async (c) => c.json(await getFamilyHistory(db, c.req.param('id'))))
    .get('/:id/:revision{[0-9]+}', gives(FamilyProfile), async (c) =>
      c.json(await getFamilyDocument(db, c.req.param('id'), Number(c.req.param('revision')))),
    )
