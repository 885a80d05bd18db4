import { Done, gives, givesFile } from './gives'
import { bytesOfHex } from '@bench-wake/core/kernel'
import { Hono } from 'hono'
import { streamSSE } from 'hono/streaming'
import * as v from 'valibot'
import type { Services } from '../app'
import { text, valid } from './validate'

const hex = v.pipe(
  v.string(),
  v.maxLength(2_000_000),
  v.regex(/^([0-9a-f]{2})*$/, 'Bytes are pairs of hexadecimal digits'),
)
const count = v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(Number.MAX_SAFE_INTEGER))
const facts = v.looseObject({ kind: text(80), says: text(), remedy: text() })
/** A comment this often keeps proxies from closing the stream, ms. */
const keepAliveMs = 10_000

/** Ports that a page lends from its own computer, for as long as the page is open. */
export const lent = ({ lentPorts }: Services) =>
  new Hono()
    .post(
      '/',
      gives(v.object({ id: v.string() }), 201),
      valid(
        'json',
        v.object({
          name: text(120),
          kind: v.picklist(['serial', 'usb']),
          usb: v.exactOptional(v.object({ vendorId: text(8), productId: text(8) })),
        }),
      ),
      (c) => c.json({ id: lentPorts.lend(c.req.valid('json')) }, 201),
    )
    .get('/:id/calls', givesFile('What the port is asked, as it is asked', 'text/event-stream'), (c) => {
      const id = c.req.param('id')
      lentPorts.mustBeLent(id)
      return streamSSE(c, async (stream) => {
        lentPorts.listen(id, (call) => void stream.writeSSE({ event: 'call', data: JSON.stringify(call) }))
        // A page that goes away takes its port along.
        stream.onAbort(() => lentPorts.end(id))
        await stream.write(': joined\n\n')
        while (!stream.aborted) {
          await stream.sleep(keepAliveMs)
          if (!stream.aborted) await stream.write(': still here\n\n')
        }
      })
    })
    .post(
      '/:id/answers',
      gives(Done),
      valid(
        'json',
        v.object({
          seq: count,
          value: v.exactOptional(v.unknown()),
          problem: v.exactOptional(facts),
        }),
      ),
      (c) => {
        const { seq, value, problem } = c.req.valid('json')
        lentPorts.answer(c.req.param('id'), seq, problem ? { problem } : { value })
        return c.json({ ok: true })
      },
    )
    .post('/:id/heard', gives(Done), valid('json', v.object({ seq: count, bytes: hex })), (c) => {
      const { seq, bytes } = c.req.valid('json')
      lentPorts.heard(c.req.param('id'), seq, bytesOfHex(bytes))
      return c.json({ ok: true })
    })
    .delete('/:id', gives(Done), (c) => {
      lentPorts.end(c.req.param('id'))
      return c.json({ ok: true })
    })
