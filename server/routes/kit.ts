import { KitOfDay } from '../answers/kit'
import { gives } from './gives'
import { Hono } from 'hono'
import * as v from 'valibot'
import type { Services } from '../app'
import { listJobs } from '../store/job-lists'
import { kitForDay, pack } from '../store/kit'
import { day, text, valid } from './validate'

export const kit = ({ db, shelf }: Services) => {
  const listOf = async (on: string) => {
    const jobs = await listJobs(db, shelf, { day: on })
    return {
      day: on,
      jobs: jobs.map(({ job, unit }) => ({ id: job.id, unit: unit.name, place: unit.place })),
      items: await kitForDay(
        db,
        on,
        jobs.map((view) => view.kit),
      ),
    }
  }
  return new Hono()
    .get('/:day', gives(KitOfDay), valid('param', v.object({ day })), async (c) =>
      c.json(await listOf(c.req.valid('param').day)),
    )
    .put(
      '/:day',
      gives(KitOfDay),
      valid('param', v.object({ day })),
      valid('json', v.object({ item: text(120), packed: v.boolean() })),
      async (c) => {
        const on = c.req.valid('param').day
        const { item, packed } = c.req.valid('json')
        await pack(db, on, item, packed)
        return c.json(await listOf(on))
      },
    )
}
