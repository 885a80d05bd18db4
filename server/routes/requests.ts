import { SupplierRequest } from '../answers/parts/fit'
import { Done, gives } from './gives'
import { Hono } from 'hono'
import * as v from 'valibot'
import type { Services } from '../app'
import { addRequest, answerRequest, closeRequest, listRequests, reopenRequest } from '../store/requests'
import { day, outsider, text, valid } from './validate'

export const requests = ({ db, shelf }: Services) =>
  new Hono()
    .get(
      '/',
      gives(v.array(SupplierRequest)),
      valid('query', v.object({ unit: v.exactOptional(text(80)) })),
      async (c) => c.json(await listRequests(db, c.req.valid('query').unit)),
    )
    .post(
      '/',
      gives(SupplierRequest, 201),
      valid('json', v.object({ unitId: text(80), asked: text(), of: text(), dueDay: day })),
      async (c) => c.json(await addRequest(db, c.req.valid('json')), 201),
    )
    .post(
      '/:id/answer',
      gives(Done),
      valid('json', v.object({ says: text(1000), by: outsider })),
      async (c) => {
        const { says, by } = c.req.valid('json')
        await answerRequest(db, c.req.param('id'), { says, by, at: Date.now() })
        return c.json({ ok: true })
      },
    )
    .post('/:id/reopen', gives(Done), async (c) => {
      await reopenRequest(db, c.req.param('id'))
      return c.json({ ok: true })
    })
    .post(
      '/:id/close',
      gives(Done),
      valid('json', v.object({ imageId: v.nullable(text(80)) })),
      async (c) => {
        const { imageId } = c.req.valid('json')
        if (imageId !== null) await shelf.image(imageId)
        await closeRequest(db, c.req.param('id'), imageId)
        return c.json({ ok: true })
      },
    )
