import { isProblem, Problem, type ProblemFacts, asSentence } from '@bench-wake/core/kernel'
import type { Context } from 'hono'
import { HTTPException } from 'hono/http-exception'
import type { ContentfulStatusCode } from 'hono/utils/http-status'
import { databaseTrouble, fileTrouble } from './db/trouble'

/** A problem as RFC 9457 writes it, with the place and the way out as members of its own. */
export interface ProblemDocument extends ProblemFacts {
  type: string
  title: string
  status: number
  detail: string
}

const statuses: Record<string, number> = {
  'not-found': 404,
  'no-route': 404,
  'port-held': 409,
  'meter-gone': 409,
  'not-open': 409,
  'run-under-way': 409,
  'prompt-not-open': 409,
  'run-over': 409,
  'gate-not-go': 409,
  'link-shut': 409,
  'job-closed': 409,
  'job-open': 409,
  'not-taken-down': 409,
  'aftercare-left': 409,
  'request-open': 409,
  'nothing-asked': 409,
  'practice-only': 409,
  'no-stand-in': 409,
  'wake-altered': 409,
  twin: 409,
  'image-used': 409,
  'case-closed': 409,
  'case-open': 409,
  'in-use': 409,
  'no-revision': 409,
  'not-ready': 409,
  'not-sent': 409,
  'log-stopped': 409,
  'no-live-data': 409,
  'no-source': 409,
  'no-beside': 409,
  'not-written': 409,
  'revision-held': 409,
  'revision-stopped': 409,
  foreign: 403,
  'restore-under-way': 409,
  'still-writing': 409,
  'database-gone': 503,
  'no-data': 503,
  'sign-in': 401,
  'wrong-password': 401,
  'no-pairing': 401,
  'too-many-tries': 429,
  'too-many-streams': 429,
  'too-many-downloads': 429,
  'too-many-ports': 429,
  'content-type': 415,
  'too-large': 413,
  input: 400,
  ending: 503,
  'no-answer': 504,
  'port-lost': 504,
  'port-open': 502,
  'disk-full': 507,
  'disk-failed': 507,
  'folder-read-only': 507,
  'database-locked': 503,
  'row-damaged': 503,
  defect: 500,
}

export function problemDocument(error: unknown): ProblemDocument {
  const known = isProblem(error) ? error : (databaseTrouble(error) ?? fileTrouble(error))
  const facts = known
    ? known.facts
    : error instanceof HTTPException && error.status === 400
      ? {
          kind: 'input',
          says: 'what was sent cannot be read',
          found: error.message,
          remedy: 'Nothing was done. Send it again as it is described under /api/openapi.json.',
        }
      : {
          kind: 'defect',
          says: 'the program itself failed',
          found: error instanceof Error ? error.message : String(error),
          remedy: 'Nothing was lost. Try again; if it comes back, report what you did.',
        }
  return {
    type: `urn:bench-wake:problem:${facts.kind}`,
    title: asSentence(facts.says),
    status: Object.hasOwn(statuses, facts.kind) ? statuses[facts.kind]! : 422,
    detail: new Problem(facts).message,
    ...facts,
  }
}

/** A problem as a whole answer, where no route was asked. */
export function problemResponse(error: unknown): Response {
  const document = problemDocument(error)
  return Response.json(document, {
    status: document.status,
    headers: { 'content-type': 'application/problem+json' },
  })
}

export function answerProblem(context: Context, error: unknown): Response {
  const document = problemDocument(error)
  return context.json(document, document.status as ContentfulStatusCode, {
    'content-type': 'application/problem+json',
  })
}

export function notFound(what: string, id: string): Problem {
  return new Problem({
    kind: 'not-found',
    thing: `${what} ${id}`,
    says: 'it is not here',
    remedy: 'It may have been removed, or the address is mistyped. Look it up in its list.',
  })
}
