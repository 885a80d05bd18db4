import { verdictOf, type Finding } from '@bench-wake/core/kernel'
import { Hono } from 'hono'
import * as v from 'valibot'
import type { Services } from '../app'
import { addJob, chooseImage, closeJob, listJobs, openJob, viewOf } from '../store/jobs'
import { text, valid, volts } from './validate'

const day = v.pipe(v.string(), v.isoDate('Write the day as 2026-11-24'))

export const jobs = ({ db, runner }: Services) =>
  new Hono()
    .get('/', async (c) => c.json(await listJobs(db)))
    .post(
      '/',
      valid(
        'json',
        v.object({
          unitId: text(80),
          imageId: v.optional(v.nullable(text(80)), null),
          componentId: v.exactOptional(text(80)),
          reason: text(1000),
          day,
        }),
      ),
      async (c) => c.json(await addJob(db, c.req.valid('json')), 201),
    )
    .get('/:id', async (c) => c.json(viewOf(await openJob(db, c.req.param('id')))))
    .patch('/:id', valid('json', v.object({ imageId: v.nullable(text(80)) })), async (c) => {
      const id = c.req.param('id')
      await chooseImage(db, id, c.req.valid('json').imageId)
      return c.json(viewOf(await openJob(db, id)))
    })
    .get(
      '/:id/ready',
      valid('query', v.object({ port: v.exactOptional(text()), supplyVolts: v.exactOptional(volts) })),
      async (c) => {
        const { port, supplyVolts } = c.req.valid('query')
        const gates = await runner.ready(c.req.param('id'), port ?? null, supplyVolts ?? null)
        const findings: Finding[] = gates.flatMap((gate) => gate.findings)
        const unknown = gates.some((gate) => gate.verdict === 'unknown')
        const verdict = verdictOf(findings)
        return c.json({ verdict: unknown && verdict !== 'stop' ? ('unknown' as const) : verdict, gates })
      },
    )
    .post(
      '/:id/close',
      valid('json', v.object({ name: text(80), note: v.optional(v.string(), '') })),
      async (c) => {
        const id = c.req.param('id')
        await closeJob(db, id, c.req.valid('json'))
        return c.json(viewOf(await openJob(db, id)))
      },
    )
