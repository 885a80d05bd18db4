import { Problem } from '@bench-wake/core/kernel'
import type { MiddlewareHandler } from 'hono'
import { addressOf, sessionOf } from './access/guard'
import { answerProblem } from './problem'

/** A browser opens six to one host (RFC 9112 leaves it to the client); a bench has a handful of devices and tools. */
export const maxStreamsEach = 64
export const maxStreams = 256

/**
 * Bounds the event streams that are open at once, for each client and together: each costs the server a little for every
 * event of a run, and what is asked for without end would stop a write.
 */
export function boundStreams(): MiddlewareHandler {
  const open = new Map<string, number>()
  let all = 0
  return async (c, next) => {
    if (!/\/(live|calls)$/.test(c.req.path)) return next()
    // A look at the head alone opens no stream (RFC 9110, clause 9.3.2).
    if (c.req.method === 'HEAD') return c.body(null, 200, { 'content-type': 'text/event-stream' })
    const client = sessionOf(c)?.id ?? addressOf(c)
    const own = open.get(client) ?? 0
    if (own >= maxStreamsEach || all >= maxStreams) {
      return answerProblem(
        c,
        new Problem({
          kind: 'too-many-streams',
          says:
            own >= maxStreamsEach
              ? 'too many live views are open on this device'
              : 'too many live views are open',
          found: String(own >= maxStreamsEach ? own : all),
          remedy: 'Close pages that are not looked at, then open this one again.',
        }),
      )
    }
    open.set(client, own + 1)
    all++
    let ended = false
    const end = () => {
      if (ended) return
      ended = true
      all--
      const left = open.get(client)! - 1
      if (left > 0) open.set(client, left)
      else open.delete(client)
    }
    // Whatever becomes of it: the client goes, or the answer is no stream at all.
    c.req.raw.signal.addEventListener('abort', end)
    try {
      await next()
    } catch (error) {
      end()
      throw error
    }
    const { body } = c.res
    if (!body || !c.res.headers.get('content-type')?.startsWith('text/event-stream')) return end()
    c.res = new Response(endingWith(body, end), c.res)
  }
}

/** A stream that says when it is over: at its end, and when nobody reads it any more. */
function endingWith(body: ReadableStream<Uint8Array>, end: () => void): ReadableStream<Uint8Array> {
  const reader = body.getReader()
  return new ReadableStream({
    async pull(controller) {
      const { done, value } = await reader.read()
      if (!done) return controller.enqueue(value)
      end()
      controller.close()
    },
    cancel(why) {
      end()
      return reader.cancel(why)
    },
  })
}
