import { BenchMeter, readBenchMeter } from '@bench-wake/core/link'
import { Hono } from 'hono'
import * as v from 'valibot'
import type { Services } from '../app'
import { getMeter, setMeter } from '../store/meter'
import { gives } from './gives'
import { openDocument, valid } from './validate'

const Kept = v.object({ meter: v.nullable(BenchMeter) })
const Reading = v.object({ volts: v.nullable(v.number()) })

/** The meter of this bench: any serial port can be given the job. */
export const meter = ({ db, room }: Services) => {
  const kept = async () => {
    const now = await getMeter(db)
    room.ports.setMeter(now?.port ?? null)
    return { meter: now }
  }
  return new Hono()
    .get('/', gives(Kept), async (c) => c.json(await kept()))
    .put('/', gives(Kept), valid('json', openDocument), async (c) => {
      const form = readBenchMeter(c.req.valid('json'))
      await room.ports.find(form.port, room.holds.by)
      await setMeter(db, form)
      return c.json(await kept())
    })
    .delete('/', gives(Kept), async (c) => {
      await setMeter(db, null)
      return c.json(await kept())
    })
    .post(
      '/read',
      gives(Reading),
      valid('json', v.object({ meter: v.optional(openDocument) })),
      async (c) => {
        const { meter: tried } = c.req.valid('json')
        return c.json({ volts: await room.meter.volts(tried && readBenchMeter(tried)) })
      },
    )
}
