import { judgeFit } from '@bench-wake/core/fit'
import { componentOf } from '@bench-wake/core/family'
import { Hono } from 'hono'
import * as v from 'valibot'
import type { Services } from '../app'
import { getFamily } from '../store/families'
import { openImage } from '../store/images'
import { getUnit } from '../store/units'
import { text, valid } from './validate'

export const fit = ({ db }: Services) =>
  new Hono().post(
    '/',
    valid('json', v.object({ unitId: text(80), imageId: text(80), component: v.exactOptional(text(80)) })),
    async (c) => {
      const form = c.req.valid('json')
      const unit = await getUnit(db, form.unitId)
      const family = await getFamily(db, unit.familyId)
      const { image, memory } = await openImage(db, form.imageId)
      const component = componentOf(family, form.component)
      return c.json(
        judgeFit({
          family,
          component,
          unit: unit.facts,
          image: { name: image.name, memory, identity: image.identity },
        }),
      )
    },
  )
