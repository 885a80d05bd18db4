import { RunState } from '../answers/parts/run'
import { KeptRun } from '../answers/runs'
import { postUpdateOutcomes, WakeEvent } from '@bench-wake/core/run'
import { Done, gives, givesFile } from './gives'
import { Hono } from 'hono'
import { streamSSE } from 'hono/streaming'
import * as v from 'valibot'
import type { Services } from '../app'
import { speeds } from '../ports/port-clock'
import { sayPostUpdateTask } from '../store/post-update-tasks'
import { getRun, readWake } from '../store/runs'
import { namesOf } from '../access/guard'
import { release, signer, text, valid } from './validate'

/** A stream that is silent this long gets a comment, so that proxies and sleeping laptops notice. */
const keepAliveMs = 15_000

export const runs = ({ db, runs: underWay }: Services) =>
  new Hono()
    .get('/', gives(v.array(v.object({ id: v.string(), state: RunState }))), (c) =>
      c.json(underWay.running()),
    )
    .post(
      '/',
      gives(v.object({ id: v.string() }), 201),
      valid(
        'json',
        v.object({
          jobId: text(80),
          port: v.exactOptional(text()),
          speed: v.exactOptional(v.picklist(speeds, 'Speed is 1, 10, 60, or 0 for unpaced')),
          supplyVolts: v.exactOptional(v.pipe(v.number(), v.minValue(0), v.maxValue(1000))),
          releases: v.exactOptional(v.pipe(v.array(release), v.maxLength(100))),
        }),
      ),
      async (c) => {
        const form = c.req.valid('json')
        return c.json({ id: await underWay.start({ ...form, names: namesOf(c) }) }, 201)
      },
    )
    .get('/:id', gives(KeptRun), async (c) => c.json(await getRun(db, c.req.param('id'))))
    .get('/:id/wake', gives(v.array(WakeEvent)), async (c) => {
      await getRun(db, c.req.param('id'))
      return c.json(await readWake(db, c.req.param('id')))
    })
    .get('/:id/live', givesFile('The wake as it grows, an event each', 'text/event-stream'), async (c) => {
      const id = c.req.param('id')
      await getRun(db, id)
      const resumeAt = Number(c.req.header('last-event-id') ?? c.req.query('after') ?? 0) || 0
      return streamSSE(c, async (stream) => {
        let sent = resumeAt
        let wakeUp: () => void = () => {}
        const queue: WakeEvent[] = []
        // Listen first, then read what is on disk: nothing can fall between the two.
        const end = underWay.listen(id, (event) => {
          queue.push(event)
          wakeUp()
        })
        stream.onAbort(() => {
          end?.()
          wakeUp()
        })
        const send = async (event: WakeEvent) => {
          if (event.seq <= sent) return
          sent = event.seq
          await stream.writeSSE({ id: String(event.seq), event: 'wake', data: JSON.stringify(event) })
        }
        for (const event of await readWake(db, id, sent)) await send(event)
        let over = end === undefined
        const finished = underWay.over(id).then(() => {
          over = true
          wakeUp()
        })
        while (!stream.aborted && !(over && queue.length === 0)) {
          const next = queue.shift()
          if (next) {
            await send(next)
            continue
          }
          const timer = setTimeout(() => {
            void stream.write(': still here\n\n')
            wakeUp()
          }, keepAliveMs)
          await new Promise<void>((wake) => {
            wakeUp = wake
          })
          clearTimeout(timer)
        }
        end?.()
        if (stream.aborted) return
        await finished
        await stream.writeSSE({ event: 'over', data: '' })
      })
    })
    .post(
      '/:id/aftercare',
      gives(KeptRun),
      valid(
        'json',
        v.object({
          item: text(80),
          outcome: v.picklist(postUpdateOutcomes),
          by: signer,
          note: v.exactOptional(v.pipe(v.string(), v.maxLength(400))),
        }),
      ),
      async (c) => {
        const id = c.req.param('id')
        const form = c.req.valid('json')
        await sayPostUpdateTask(db, id, { ...form, names: namesOf(c) })
        return c.json(await getRun(db, id))
      },
    )
    .post(
      '/:id/answers',
      gives(Done),
      valid(
        'json',
        v.object({
          prompt: text(80),
          answer: text(80),
          typed: v.exactOptional(v.pipe(v.string(), v.maxLength(400))),
        }),
      ),
      (c) => {
        const { prompt, answer, typed } = c.req.valid('json')
        underWay.answer(c.req.param('id'), prompt, answer, typed)
        return c.json({ ok: true })
      },
    )
    .post(
      '/:id/abandon',
      gives(v.nullable(v.object({ token: v.string(), leaves: v.string(), next: v.string() }))),
      valid('json', v.object({ token: v.exactOptional(text(80)) })),
      async (c) => c.json(await underWay.abandon(c.req.param('id'), c.req.valid('json').token)),
    )
