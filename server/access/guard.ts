import { getConnInfo } from '@hono/node-server/conninfo'
import { Problem } from '@bench-wake/core/kernel'
import type { Context, MiddlewareHandler } from 'hono'
import { deleteCookie, getCookie, setCookie } from 'hono/cookie'
import { answerProblem } from '../problem'
import { maxMs, type Access, type Session } from './access'

declare module 'hono' {
  interface ContextVariableMap {
    session?: Session
  }
}

/** Who asks, where people sign in; undefined where nobody has to. Kept with the context: a request object may be replaced on its way. */
export const sessionOf = (c: Context): Session | undefined => c.get('session')

/** How the names in a record came to be there. */
export const namesOf = (c: Context): 'typed' | 'signed-in' => (sessionOf(c) ? 'signed-in' : 'typed')

/** Where a request comes from, as far as the connection tells. */
export function addressOf(c: Context): string {
  try {
    return getConnInfo(c).remote.address ?? ''
  } catch {
    return ''
  }
}

/** RFC 6265bis, 4.1.3.2: a name that a browser takes over TLS alone, for this host and every path. */
const cookieName = (secure: boolean) => (secure ? '__Host-bench-wake' : 'bench-wake')

export function giveCookie(c: Context, secret: string, secure: boolean): void {
  setCookie(c, cookieName(secure), secret, {
    httpOnly: true,
    sameSite: 'Strict',
    secure,
    path: '/',
    maxAge: maxMs / 1000,
  })
}
/** The secret that a device sends. */
export const secretOf = (c: Context, secure: boolean) => getCookie(c, cookieName(secure))
export const takeCookie = (c: Context, secure: boolean) =>
  deleteCookie(c, cookieName(secure), { path: '/', secure })

/** What is answered before anybody has signed in. */
const open = ['/api/access', '/api/access/sign-in', '/api/access/pair', '/api/health']

/** Lets nobody in who has not signed in, beyond the page itself, which holds nothing. */
export function guard(access: Access, secure: boolean): MiddlewareHandler {
  return async (c, next) => {
    if (!c.req.path.startsWith('/api/')) return next()
    const session = await access.session(secretOf(c, secure))
    if (session) c.set('session', session)
    else if (!open.includes(c.req.path)) {
      return answerProblem(
        c,
        new Problem({
          kind: 'sign-in',
          says: 'nobody is signed in on this device',
          remedy: 'Sign in with your name and the password, or scan a code of a device that is signed in.',
        }),
      )
    }
    // A secret's answers are nobody else's, and in no cache.
    c.header('cache-control', 'no-store')
    await next()
    if (session && c.res.headers.get('content-type')?.startsWith('text/event-stream') && c.res.body) {
      c.res = new Response(
        endsWith(c.res.body, (close) => access.whenEnded(session.id, close)),
        c.res,
      )
    }
  }
}

/** A stream that is closed from outside as well: when its device is signed out. */
function endsWith(
  body: ReadableStream<Uint8Array>,
  whenEnded: (close: () => void) => () => void,
): ReadableStream<Uint8Array> {
  const reader = body.getReader()
  let forget = () => {}
  return new ReadableStream({
    start(controller) {
      forget = whenEnded(() => {
        void reader.cancel().catch(() => {})
        controller.close()
      })
    },
    async pull(controller) {
      const { done, value } = await reader.read()
      if (!done) return controller.enqueue(value)
      forget()
      try {
        controller.close()
      } catch {
        // It was closed from outside.
      }
    },
    cancel(why) {
      forget()
      return reader.cancel(why)
    },
  })
}
