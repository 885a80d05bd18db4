import type { Api, ProblemDocument } from '@bench-wake/server'
import { isProblem, asSentence } from '@bench-wake/core/kernel'
import { hc } from 'hono/client'
import { ref } from 'vue'

/** The server's paths, typed from its routes. */
export const api = hc<Api>('/api', {
  fetch: (input: RequestInfo | URL, init?: RequestInit) => {
    if (init?.method !== undefined && init.method !== 'GET') changes++
    return fetch(input, init)
  },
})

/** Whether the program answered when it was asked last. */
export const answers = ref(true)
let changes = 0
/** How often it was asked to change something. */
export const changesAsked = () => changes

/** What the server said was wrong, as it said it. */
export class ServerProblem extends Error {
  constructor(readonly document: ProblemDocument) {
    super(document.detail)
  }
}

/** Told when the server knows this device no more. */
let signedOut: (() => void) | undefined
export const whenSignedOut = (act: () => void) => {
  signedOut = act
}

interface Answer {
  ok: boolean
  status: number
  headers: Headers
  json(): Promise<unknown>
}

/** The answer's content, or a ServerProblem in words for a person. */
export async function got<T>(asking: Promise<Answer>): Promise<T> {
  let answer: Answer
  try {
    answer = await asking
    answers.value = true
  } catch {
    answers.value = false
    throw new ServerProblem(unreachable)
  }
  const content = answer.headers.get('content-type')?.includes('json') ? await answer.json() : null
  if (answer.ok) return content as T
  if (answer.status === 401 && (content as ProblemDocument | null)?.kind === 'sign-in') signedOut?.()
  throw new ServerProblem((content as ProblemDocument | null) ?? { ...unreachable, status: answer.status })
}

const unreachable: ProblemDocument = {
  type: 'urn:bench-wake:problem:unreachable',
  kind: 'unreachable',
  title: 'Bench Wake does not answer',
  status: 0,
  says: 'the program on this laptop does not answer',
  detail: 'The program on this laptop does not answer. A write that is under way goes on without this page.',
  remedy:
    'Look whether it is still running where you started it. A write that is under way goes on without this page.',
}

export function problemOf(error: unknown): ProblemDocument {
  if (error instanceof ServerProblem) return error.document
  if (isProblem(error)) {
    const { facts, message } = error
    const title = asSentence(facts.says)
    return { type: `urn:bench-wake:problem:${facts.kind}`, title, status: 0, detail: message, ...facts }
  }
  return {
    ...unreachable,
    kind: 'page',
    title: 'This page failed',
    detail: String(error),
    says: String(error),
    remedy: 'Reload the page. Nothing on the server was lost.',
  }
}
