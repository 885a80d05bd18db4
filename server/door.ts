import { Problem } from '@bench-wake/core/kernel'
import type { MiddlewareHandler } from 'hono'
import { secureHeaders } from 'hono/secure-headers'
import { hostname, networkInterfaces } from 'node:os'
import { answerProblem } from './problem'

/*
 * Who may speak to the program: its own page, and tools at this computer. Another web page in the same browser may not,
 * neither by a form, nor by a script, nor by a name of its own that it binds anew to this computer's address.
 */

const loopback = ['127.0.0.1', 'localhost', '[::1]']
const anyAddress = ['0.0.0.0', '::', '[::]']

/** A name or an address as it stands in a URL: small letters, IPv6 in brackets. */
const asHost = (name: string) =>
  (name.includes(':') && !name.startsWith('[') ? `[${name}]` : name).toLowerCase()

/** What this computer is called in its network, and its addresses as they are now. */
const ofThisComputer = () => [
  hostname(),
  `${hostname()}.local`,
  ...Object.values(networkInterfaces()).flatMap((all) => (all ?? []).map(({ address }) => address)),
]

/**
 * Names by which the program may be asked for.
 * @param host the address it was opened on: where that is every address of this computer, its names count as well.
 * @param named what a setting names beside: what a program in front calls it.
 */
export function ownNames(
  host: string,
  named: readonly string[] = [],
  all: () => string[] = ofThisComputer,
): Set<string> {
  return new Set([...loopback, ...[...named, ...(anyAddress.includes(host) ? all() : [host])].map(asHost)])
}

/** The name in a Host field, without its port; empty where it is none (RFC 9110, clause 7.2). */
function nameIn(host: string): string {
  return /^(\[[0-9a-f:.]+\]|[a-z0-9._-]+)(:\d{1,5})?$/.exec(host.toLowerCase())?.[1] ?? ''
}

/** Requests that change nothing. */
const reads = ['GET', 'HEAD']
const contentTypes = ['application/json', 'multipart/form-data']

const foreign = (found: string) =>
  new Problem({
    kind: 'foreign',
    says: 'this comes from a page that is not Bench Wake’s',
    found,
    remedy: 'Nothing was done. Open Bench Wake by the address it printed at its start.',
  })

/**
 * Refuses what does not come from the program's own page or from a tool, before anything is read of it.
 *
 * A browser says where a request comes from: by `Origin` in everything that is neither GET nor HEAD, and by
 * `Sec-Fetch-Site`. What says neither is no browser. Hono's own guard asks forms only, and JSON is what starts a run.
 */
export function door(host: string, named: readonly string[] = []): MiddlewareHandler {
  let names = ownNames(host, named)
  return async (c, next) => {
    const asked = c.req.header('host') ?? ''
    // A network that was joined since then brought an address with it.
    if (!names.has(nameIn(asked))) names = ownNames(host, named)
    if (!names.has(nameIn(asked))) return answerProblem(c, foreign(`asked for as "${asked}"`))
    const { method, path } = c.req
    const changes = !reads.includes(method)
    if (changes || path.startsWith('/api/')) {
      const origin = c.req.header('origin')
      if (origin !== undefined && !isOf(origin, asked)) return answerProblem(c, foreign(`from ${origin}`))
      const site = c.req.header('sec-fetch-site')
      // "none" is a person who typed the address or took a bookmark: that reads.
      if (site !== undefined && site !== 'same-origin' && (changes || site !== 'none')) {
        return answerProblem(c, foreign(`from another page (${site})`))
      }
    }
    if (changes && hasContent(c.req.header('content-length'), c.req.header('transfer-encoding'))) {
      const type = c.req.header('content-type')?.split(';')[0]!.trim().toLowerCase() ?? ''
      if (!contentTypes.includes(type)) {
        return answerProblem(
          c,
          new Problem({
            kind: 'content-type',
            place: { at: 'content-type' },
            says: 'this kind of content is not taken',
            expected: contentTypes.join(' or '),
            found: type || 'none',
            remedy: 'Send JSON, or a form with a file.',
          }),
        )
      }
    }
    return next()
  }
}

function isOf(origin: string, host: string): boolean {
  // "null" and what is no address are nobody's.
  return (
    /^https?:\/\//.test(origin) && origin.replace(/^https?:\/\//, '').toLowerCase() === host.toLowerCase()
  )
}

const hasContent = (length: string | undefined, encoding: string | undefined) =>
  encoding !== undefined || (length !== undefined && length !== '0')

/** What a page of the program may do, told to the browser with every answer. */
export const pageRules = (): MiddlewareHandler =>
  secureHeaders({
    contentSecurityPolicy: {
      defaultSrc: ["'self'"],
      scriptSrc: ["'self'"],
      // The controls' library writes its styles into the page.
      styleSrc: ["'self'", "'unsafe-inline'"],
      imgSrc: ["'self'", 'data:', 'blob:'],
      fontSrc: ["'self'", 'data:'],
      connectSrc: ["'self'"],
      workerSrc: ["'self'", 'blob:'],
      objectSrc: ["'none'"],
      baseUri: ["'none'"],
      formAction: ["'self'"],
      frameAncestors: ["'none'"],
    },
    permissionsPolicy: { serial: ['self'], usb: ['self'], camera: ['self'], microphone: [], geolocation: [] },
    referrerPolicy: 'no-referrer',
    xFrameOptions: 'DENY',
    // The program speaks plain HTTP at this computer; what stands before it may promise more.
    strictTransportSecurity: false,
  })
