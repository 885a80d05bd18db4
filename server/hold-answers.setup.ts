import type { holdAgainst } from './hold-answers.test-support'

const ofApi = /^https?:\/\/(127\.0\.0\.1|localhost|\[::1\]):\d+(\/api\/.*)$/

/** Taken in when the first answer comes: most tests ask no program. */
async function holder() {
  const [{ holdAgainst: held }, { publicDocument }] = await Promise.all([
    import('./hold-answers.test-support'),
    import('./public-document.test-support'),
  ])
  return held(await publicDocument())
}

/** Every answer that a test is given over HTTP is what the OpenAPI document promises; a test that is given another is red. */
const plain = globalThis.fetch
const marked = plain as typeof fetch & { held?: true }
if (!marked.held) {
  let hold: Promise<ReturnType<typeof holdAgainst>> | undefined
  const holding: typeof fetch & { held?: true } = async (target, init) => {
    const response = await plain(target, init)
    const url = target instanceof Request ? target.url : String(target)
    const method = init?.method ?? (target instanceof Request ? target.method : 'GET')
    const path = ofApi.exec(url)?.[2]
    if (!path || path === '/api/openapi.json') return response
    const type = response.headers.get('content-type') ?? ''
    const held = await (hold ??= holder())
    const body: unknown = /^application\/(problem\+)?json\b/.test(type)
      ? await response.clone().json()
      : undefined
    // The head of an answer is described with the whole of it (RFC 9110, clause 9.3.2).
    if (method === 'HEAD') return response
    const differs = held(method, path, response.status, type, () => body)
    if (differs) throw new Error(`Not as the OpenAPI document has it: ${differs}`)
    return response
  }
  holding.held = true
  globalThis.fetch = holding
}
