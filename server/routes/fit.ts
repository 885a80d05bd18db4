import { Fit } from '../answers/parts/fit'
import { ImageFit, Matrix, UnitFit } from '../answers/fit'
import { gives } from './gives'
import { Hono } from 'hono'
import * as v from 'valibot'
import type { Services } from '../app'
import { fitsOfImage } from '../store/arrivals'
import { askFits, fitOf } from '../store/fit-of'
import { getUnit } from '../store/units'
import { text, valid } from './validate'

export const fit = ({ db, shelf, worker }: Services) =>
  new Hono()
    .post(
      '/',
      gives(Fit),
      valid('json', v.object({ unitId: text(80), imageId: text(80), component: v.exactOptional(text(80)) })),
      async (c) => {
        const form = c.req.valid('json')
        const unit = await getUnit(db, form.unitId)
        return c.json(fitOf(await askFits(db, shelf, unit), await shelf.image(form.imageId), form.component))
      },
    )
    .get(
      '/unit/:id',
      gives(v.array(ImageFit)),
      valid('query', v.object({ component: v.exactOptional(text(80)) })),
      async (c) => {
        // Every image on the shelf for one unit, as the job's Image station lists them.
        const unit = await getUnit(db, c.req.param('id'))
        const asked = await askFits(db, shelf, unit)
        return c.json(
          (await shelf.list()).map((image) => {
            const { verdict, findings, path } = fitOf(asked, image, c.req.valid('query').component)
            return { imageId: image.id, verdict, findings, path }
          }),
        )
      },
    )
    .get('/image/:id', gives(v.array(UnitFit)), async (c) =>
      c.json(await fitsOfImage(db, shelf, await shelf.image(c.req.param('id')))),
    )
    .get(
      '/matrix',
      gives(Matrix),
      valid(
        'query',
        v.object({
          against: v.optional(v.picklist(['revisions', 'units']), 'revisions'),
          family: v.exactOptional(text(80)),
        }),
      ),
      async (c) => {
        const { against, family } = c.req.valid('query')
        // What is stale is read anew first; the thread takes the tables as they are.
        await shelf.list()
        const json = await worker.ask('matrix', { against, ...(family ? { familyId: family } : {}) })
        return c.body(json as Uint8Array<ArrayBuffer>, 200, { 'content-type': 'application/json' })
      },
    )
