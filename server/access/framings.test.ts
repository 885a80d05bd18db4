/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { demoServer, pathsOf, seededFolder } from '../server.test-support'
import { namesIn, takenInputs } from '../routes/validate'

/*
 * The same request in each form that HTTP gives a body (RFC 9112, clause 6): with its length, in chunks, without one; and as
 * a look at its head (RFC 9110, clause 9.3.2). None of them changes who asks.
 */

const framings = ['length', 'chunked', 'none'] as const
type Framing = (typeof framings)[number]
const password = 'three grey seals'
let server: Awaited<ReturnType<typeof demoServer>>
let cookie: string
beforeAll(async () => {
  server = await demoServer(seededFolder(), { BENCH_WAKE_PASSWORD: password })
  cookie = await signIn('A. Ness')
})
afterAll(() => server.stop())

async function ask(
  method: string,
  path: string,
  content: unknown,
  framing: Framing,
  as: string | null = cookie,
) {
  const text = JSON.stringify(content)
  const body = framing === 'none' ? null : framing === 'length' ? text : new Blob([text]).stream()
  const response = await fetch(server.base + path, {
    method,
    headers: { ...(as ? { cookie: as } : {}), ...(body ? { 'content-type': 'application/json' } : {}) },
    body,
    duplex: 'half',
  } as RequestInit)
  const answer = await response.text()
  return {
    status: response.status,
    head: response.headers,
    body: answer.startsWith('{') || answer.startsWith('[') ? (JSON.parse(answer) as any) : answer,
  }
}
const signIn = async (person: string, framing: Framing = 'length', as: string | null = null) => {
  const { head } = await ask('POST', '/access/sign-in', { password, person, device: 'Laptop' }, framing, as)
  return head.getSetCookie()[0]!.split(';')[0]!
}

it('on a computer of several accounts a password is asked for on the loopback address as well', async () => {
  expect(server.address).toMatch(/^http:\/\/127\.0\.0\.1/)
  expect((await ask('GET', '/jobs', null, 'none', null)).status).toBe(401)
})

describe.each(framings)('by %s', (framing) => {
  it('no path answers without a session, nor fails with one', async () => {
    const { paths } = (await ask('GET', '/openapi.json', null, 'none')).body as {
      paths: Record<string, object>
    }
    const asked = Object.entries(paths).flatMap(([path, methods]) =>
      Object.keys(methods).map(
        (method) => [method.toUpperCase(), path.replace('/api', '').replaceAll(/\{\w+\}/g, 'x')] as const,
      ),
    )
    expect(asked.length).toBeGreaterThan(100)
    const open = ['/access', '/access/sign-in', '/access/pair', '/health']
    for (const [method, path] of asked) {
      if (method === 'GET' && framing !== 'none') continue
      if (!open.includes(path))
        expect({ method, path, status: (await ask(method, path, {}, framing, null)).status }).toEqual({
          method,
          path,
          status: 401,
        })
      // These end the session that asks.
      if (path === '/access/sign-out') continue
      const { status, body } = await ask(method, path, {}, framing)
      expect({ method, path, fails: status >= 500 && body.kind !== 'restore-under-way' }).toEqual({
        method,
        path,
        fails: false,
      })
    }
  })
})

describe.each(['length', 'chunked'] as const)('with a body by %s', (framing) => {
  it('a name that is sent is never the name that is kept', async () => {
    const { by: _by, at: _at, ...policy } = (await ask('GET', '/workshop-rules', null, 'none')).body
    const forged = 'Somebody else'
    expect((await ask('PUT', '/workshop-rules', { policy, by: forged }, framing)).body.by).toBe('A. Ness')
    const day = { to: '2031-01-02', by: forged }
    const moved = (await ask('PATCH', '/jobs/job-fog-07', { day }, framing)).body.job.history.at(-1)
    expect(moved).toMatchObject({ by: 'A. Ness', names: 'signed-in' })
    await ask(
      'PATCH',
      '/jobs/job-fog-07',
      { day: { ...day, to: new Date().toISOString().slice(0, 10) } },
      framing,
    )
    const hold = { rule: 'any', name: forged, reason: 'a test', says: 'x' }
    const released = await ask('POST', '/jobs/job-fog-07/releases', hold, framing)
    expect(released.body.job.releases.at(-1).name).toBe('A. Ness')
    const answer = { question: 'signal-output', answer: 'low-channel', by: 'T. Reader' }
    await ask('POST', '/units/radio-3/answers', answer, framing)
    const { answered } = (await ask('GET', '/units/radio-3', null, 'none')).body
    expect(answered.at(-1).by).toBe('T. Reader, told to A. Ness')
  })

  it('signing in, pairing and signing out do what they say', async () => {
    const own = await signIn('B. Low', framing)
    const { code } = (await ask('POST', '/access/pairings', {}, framing, own)).body
    const paired = await ask(
      'POST',
      '/access/pair',
      { code, person: 'B. Low', device: 'Phone' },
      framing,
      null,
    )
    expect(paired.status).toBe(200)
    expect((await ask('POST', '/access/sign-out', {}, framing, own)).status).toBe(200)
    expect((await ask('GET', '/jobs', null, 'none', own)).status).toBe(401)
  })

  it('brackets without end are refused in words', async () => {
    for (const deep of [`${'['.repeat(150_000)}${']'.repeat(150_000)}`, '{"a":'.repeat(150_000)]) {
      for (const path of ['/families', '/jobs', '/workshop-rules', '/cases']) {
        const response = await fetch(server.base + path, {
          method: path === '/workshop-rules' ? 'PUT' : 'POST',
          headers: { cookie, 'content-type': 'application/json' },
          body: framing === 'length' ? deep : new Blob([deep]).stream(),
          duplex: 'half',
        } as RequestInit)
        expect({ path, status: response.status }).toEqual({ path, status: 400 })
      }
    }
  })
})

it('a look at the head of a live stream takes no place of it', async () => {
  const paths = pathsOf({
    get: (path) => ask('GET', path, null, 'none') as never,
    send: (method, path, form) => ask(method, path, form, 'length') as never,
  })
  const { id } = await paths.send('POST', '/runs', { jobId: 'job-fog-07', port: 'stand-in:fog-07', speed: 0 })
  for (let look = 0; look < 300; look++)
    expect((await ask('HEAD', `/runs/${id}/live`, null, 'none')).status).toBe(200)
  const live = await fetch(`${server.base}/runs/${id}/live`, { headers: { cookie } })
  expect(live.status).toBe(200)
  await live.body!.cancel()
  const wake = (await ask('GET', `/runs/${id}/wake`, null, 'none')).body
  expect(wake[0].body.names).toBe('signed-in')
  // Changing what the run rests on is refused while it goes.
  for (const [path, method, form] of [
    ['/jobs/job-fog-07', 'PATCH', { imageId: null }],
    ['/jobs/job-fog-07/bench', 'PUT', { order: [] }],
  ] as const)
    expect(await ask(method, path, form, 'length')).toMatchObject({
      status: 409,
      body: { kind: 'run-under-way' },
    })
})

it('every name that an input takes is the signer’s, a witness’s or an outsider’s', () => {
  const takes = (schema: unknown, name: string): boolean =>
    JSON.stringify(schema, (_, value: unknown) => (typeof value === 'function' ? undefined : value)).includes(
      `"${name}":{`,
    )
  const inputs = takenInputs().map(({ schema }) => schema)
  expect(inputs.filter((schema) => takes(schema, 'by')).length).toBeGreaterThan(15)
  for (const schema of inputs) if (takes(schema, 'by')) expect(namesIn(schema)).not.toEqual([])
})

it.each([
  ['composed and decomposed alike', 'Ae\u0301', 'A\u00e9'],
  ['with a direction mark', 'Ness\u202e', null],
  ['with a zero-width space', 'Ne\u200bss', null],
  ['with a control character', 'Ness\u0007', null],
  ['in another script', 'مریم', 'مریم'],
])('a name %s', async (_, sent, kept) => {
  const { status } = await ask(
    'POST',
    '/access/sign-in',
    { password, person: sent, device: 'Laptop' },
    'length',
    null,
  )
  expect(status).toBe(kept === null ? 400 : 200)
  if (kept === null) return
  const own = await signIn(sent)
  expect((await ask('GET', '/access', null, 'none', own)).body.session.person).toBe(kept)
})
