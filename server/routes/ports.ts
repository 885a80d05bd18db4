import { AdapterFacts, PortEntry, StandInCable } from '../answers/ports'
import { clipSeats } from '@bench-wake/standins'
import { bytesOfHex, fitsBytes } from '@bench-wake/core/kernel'
import { bestSpeed, heardSample, TraceHead, writeTrace, type TraceEvent } from '@bench-wake/core/link'
import { Done, gives, givesFile } from './gives'
import { Hono } from 'hono'
import { streamSSE } from 'hono/streaming'
import * as v from 'valibot'
import type { Services } from '../app'
import { text, valid } from './validate'

/** Events go out together this often, ms: a fast link makes thousands a second. */
const batchMs = 150
/** A stream that is silent this long gets a comment, so that proxies and sleeping laptops notice. */
const keepAliveMs = 15_000

const pairs = /^([0-9a-fA-F]{2})+$/
const pairsSay = 'Write bytes as pairs of hexadecimal digits'
const settings = v.object({
  baudRate: v.pipe(v.number(), v.integer(), v.minValue(50), v.maxValue(4_000_000)),
  dataBits: v.picklist([5, 6, 7, 8]),
  parity: v.picklist(['none', 'even', 'odd', 'mark', 'space']),
  stopBits: v.picklist([1, 2]),
})

export const ports = ({ room }: Services) =>
  new Hono()
    .get('/', gives(v.array(PortEntry)), async (c) => c.json(await room.ports.list(room.holds.by)))
    .get('/cables', gives(v.array(StandInCable)), (c) => c.json(room.ports.standInCables()))
    .put(
      '/cables',
      gives(v.array(StandInCable)),
      valid('json', v.object({ port: text(), joined: v.boolean() })),
      (c) => {
        const { port, joined } = c.req.valid('json')
        room.ports.plug(port, joined)
        return c.json(room.ports.standInCables())
      },
    )
    .put(
      '/lamps',
      gives(v.array(StandInCable)),
      valid('json', v.object({ port: text(), on: v.boolean() })),
      (c) => {
        const { port, on } = c.req.valid('json')
        room.ports.light(port, on)
        return c.json(room.ports.standInCables())
      },
    )
    .put(
      '/clips',
      gives(v.array(StandInCable)),
      valid('json', v.object({ port: text(), seat: v.picklist(clipSeats) })),
      (c) => {
        const { port, seat } = c.req.valid('json')
        room.ports.seat(port, seat)
        return c.json(room.ports.standInCables())
      },
    )
    .post('/adapter', gives(AdapterFacts), valid('json', v.object({ port: text() })), async (c) =>
      c.json(await room.readings.adapterFacts(c.req.valid('json').port)),
    )
    .post('/listen', gives(Done), valid('json', v.object({ port: text(), settings })), async (c) => {
      const { port, settings: wanted } = c.req.valid('json')
      await room.listening.begin(port, wanted)
      return c.json({ ok: true })
    })
    .post(
      '/listen/send',
      gives(Done),
      valid(
        'json',
        v.object({ port: text(), hex: v.pipe(v.string(), v.maxLength(8192), v.regex(pairs, pairsSay)) }),
      ),
      async (c) => {
        const { port, hex } = c.req.valid('json')
        await room.listening.send(port, bytesOfHex(hex))
        return c.json({ ok: true })
      },
    )
    .post(
      '/listen/lines',
      gives(Done),
      valid(
        'json',
        v.object({
          port: text(),
          dtr: v.optional(v.boolean()),
          rts: v.optional(v.boolean()),
          breakMs: v.optional(v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(5000))),
        }),
      ),
      async (c) => {
        const { port, dtr, rts, breakMs } = c.req.valid('json')
        const lines = {
          ...(dtr === undefined ? {} : { dtr }),
          ...(rts === undefined ? {} : { rts }),
          ...(breakMs === undefined ? {} : { brk: true }),
        }
        await room.listening.setLines(port, lines, breakMs)
        return c.json({ ok: true })
      },
    )
    .post('/listen/set', gives(Done), valid('json', v.object({ port: text(), settings })), async (c) => {
      const { port, settings: wanted } = c.req.valid('json')
      await room.listening.set(port, wanted)
      return c.json({ ok: true })
    })
    .post(
      '/find-speed',
      gives(
        v.object({
          heard: v.array(
            v.object({ settings, count: v.number(), sample: v.string(), readable: v.nullable(v.number()) }),
          ),
          best: v.nullable(settings),
        }),
      ),
      valid(
        'json',
        v.object({
          port: text(),
          sends: v.pipe(
            v.string(),
            v.maxLength(80),
            v.check(
              fitsBytes,
              'A serial line has no such character: take letters, digits and signs of one byte',
            ),
          ),
          eachMs: v.pipe(v.number(), v.integer(), v.minValue(100), v.maxValue(3000)),
        }),
      ),
      async (c) => {
        const { port, sends, eachMs } = c.req.valid('json')
        const heard = await room.listening.findSpeed(port, { sends, eachMs })
        const shown = heard.map((each) => ({
          settings: each.settings,
          count: each.bytes.length,
          sample: heardSample(each),
          readable: each.readable,
        }))
        return c.json({ heard: shown, best: bestSpeed(heard)?.settings ?? null })
      },
    )
    .post('/listen/end', gives(Done), valid('json', v.object({ port: text() })), async (c) => {
      await room.listening.stop(c.req.valid('json').port)
      return c.json({ ok: true })
    })
    .get(
      '/trace',
      givesFile('What passed over the port, a line each', 'application/jsonl'),
      valid('query', v.object({ port: text() })),
      (c) => {
        const name = `trace-${new Date().toISOString().slice(0, 16).replace(/[:T]/g, '-')}.jsonl`
        return c.body(writeTrace(room.traces.of(c.req.valid('query').port).trace()), 200, {
          'content-type': 'application/jsonl',
          'content-disposition': `attachment; filename="${name}"`,
        })
      },
    )
    .get('/trace/head', gives(TraceHead), valid('query', v.object({ port: text() })), (c) =>
      c.json(room.traces.of(c.req.valid('query').port).head),
    )
    .get(
      '/trace/live',
      givesFile('What passes over the port, as it passes', 'text/event-stream'),
      valid('query', v.object({ port: text() })),
      (c) => {
        const { port } = c.req.valid('query')
        const first = room.traces.of(port)
        return streamSSE(c, async (stream) => {
          let log = first
          let waiting: TraceEvent[] = []
          let end = () => {}
          const join = async () => {
            end()
            const { head, events } = log.trace()
            waiting = []
            end = log.listen((event) => waiting.push(event))
            await stream.writeSSE({ event: 'head', data: JSON.stringify(head) })
            for (let at = 0; at < events.length; at += 500) {
              await stream.writeSSE({ event: 'trace', data: JSON.stringify(events.slice(at, at + 500)) })
            }
          }
          stream.onAbort(() => end())
          await join()
          let silentMs = 0
          while (!stream.aborted) {
            await stream.sleep(batchMs)
            // Opened anew, the port has a new trace.
            if (room.traces.of(port) !== log) {
              log = room.traces.of(port)
              await join()
            }
            const batch = waiting
            waiting = []
            silentMs = batch.length > 0 ? 0 : silentMs + batchMs
            if (batch.length > 0) await stream.writeSSE({ event: 'trace', data: JSON.stringify(batch) })
            else if (silentMs >= keepAliveMs) {
              silentMs = 0
              await stream.write(': still here\n\n')
            }
          }
        })
      },
    )
