import { Agent, request, type IncomingHttpHeaders } from 'node:http'
import { networkInterfaces } from 'node:os'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { ownNames } from './door'
import { demoServer, seededFolder } from './server.test-support'

/*
 * Who may speak to the program. Sources: Fetch Metadata Request Headers (W3C), the values of Sec-Fetch-Site; the Fetch
 * standard, clause "origin header": a browser sends Origin with every request that is neither GET nor HEAD; a name that
 * is bound anew to this computer's address still stands in Host (RFC 9110, clause 7.2). Wording from memory.
 */

let server: Awaited<ReturnType<typeof demoServer>>
beforeAll(async () => {
  server = await demoServer(seededFolder())
})
afterAll(() => server.stop())

/** A request with headers as they are: `fetch` would set Host and Origin by itself. */
function ask(
  method: string,
  path: string,
  headers: Record<string, string> = {},
  content?: string,
): Promise<{ status: number; text: string; headers: IncomingHttpHeaders }> {
  const { hostname, port, host } = new URL(server.address)
  return new Promise((resolve, reject) => {
    const asking = request({ hostname, port, method, path, headers: { host, ...headers } }, (answer) => {
      // A live stream never ends: its head says all that is asked here.
      const done = (text: string) => resolve({ status: answer.statusCode!, text, headers: answer.headers })
      if (answer.headers['content-type']?.startsWith('text/event-stream')) {
        answer.destroy()
        return done('')
      }
      let text = ''
      answer.setEncoding('utf8').on('data', (piece: string) => (text += piece))
      answer.on('end', () => done(text))
    })
    asking.on('error', reject)
    asking.end(content)
  })
}
const json = { 'content-type': 'application/json' }
const unit = JSON.stringify({ familyId: 'mains-relay', name: 'Planted', place: 'Pier 6', serial: 'QR-0666' })
const planted = async () =>
  (await server.get('/units')).body.some(({ name }: { name: string }) => name === 'Planted')
const refused = { status: 403, text: expect.stringContaining('"kind":"foreign"') }

describe('another web page', () => {
  it.each([
    ['its origin', { origin: 'http://attacker.example' }],
    ['no origin it would show', { origin: 'null' }],
    ['the same name at another door', { origin: 'http://127.0.0.1:1' }],
    ['what the browser says of it', { 'sec-fetch-site': 'cross-site' }],
    ['a neighbour’s page', { 'sec-fetch-site': 'same-site' }],
  ])('changes nothing: %s', async (_, headers) => {
    expect(await ask('POST', '/api/units', { ...json, ...headers }, unit)).toMatchObject(refused)
    expect(await ask('DELETE', '/api/units/relay-2', headers)).toMatchObject(refused)
    expect(await planted()).toBe(false)
    expect((await server.get('/units/relay-2')).status).toBe(200)
  })
  it('posts no form, and no text that is taken for JSON', async () => {
    for (const type of ['text/plain', 'application/x-www-form-urlencoded', 'text/plain; application/json']) {
      expect(await ask('POST', '/api/units', { 'content-type': type }, unit)).toMatchObject({
        status: 415,
        text: expect.stringContaining('application/json'),
      })
    }
    expect(await ask('POST', '/api/units', {}, unit)).toMatchObject({ status: 415 })
    const form =
      '--x\r\ncontent-disposition: form-data; name="file"; filename="a.bin"\r\n\r\nabc\r\n--x--\r\n'
    expect(
      await ask(
        'POST',
        '/api/images',
        { 'content-type': 'multipart/form-data; boundary=x', origin: 'http://attacker.example' },
        form,
      ),
    ).toMatchObject(refused)
    expect(await planted()).toBe(false)
  })
  it('joins no live stream and reads nothing', async () => {
    for (const path of ['/api/ports/trace/live?port=stand-in:relay-2', '/api/units']) {
      expect(await ask('GET', path, { 'sec-fetch-site': 'cross-site' })).toMatchObject(refused)
      expect(await ask('GET', path, { origin: 'http://attacker.example' })).toMatchObject(refused)
    }
  })
  it('is answered by no permission to go on', async () => {
    const asked = await ask('OPTIONS', '/api/units', {
      origin: 'http://attacker.example',
      'access-control-request-method': 'POST',
    })
    expect(asked.headers).not.toHaveProperty('access-control-allow-origin')
    expect(asked.status).toBe(403)
  })
})

describe('a name that was bound to this computer’s address', () => {
  it.each([
    'attacker.example',
    'attacker.example:4370',
    '127.0.0.1.attacker.example',
    'localhost.attacker.example',
  ])('reads nothing: %s', async (host) => {
    const origin = `http://${host}`
    expect(await ask('GET', '/api/units', { host })).toMatchObject(refused)
    expect(await ask('GET', '/', { host })).toMatchObject({ status: 403 })
    expect(await ask('POST', '/api/units', { ...json, host, origin }, unit)).toMatchObject(refused)
  })
  it('an address of this computer that the program was not opened on, is none of its names', async () => {
    const other = Object.values(networkInterfaces())
      .flat()
      .find((each) => each && !each.internal && each.family === 'IPv4')
    const host = other?.address ?? '192.0.2.7'
    expect(await ask('GET', '/api/units', { host })).toMatchObject(refused)
  })
})

describe('the names of a program', () => {
  const all = () => ['Pier-Bench', '192.0.2.7', 'fe80::1']
  const own = ['127.0.0.1', 'localhost', '[::1]']
  it.each([
    ['127.0.0.1', own],
    ['192.0.2.9', [...own, '192.0.2.9']],
    ['2001:db8::5', [...own, '[2001:db8::5]']],
    ['0.0.0.0', [...own, 'pier-bench', '192.0.2.7', '[fe80::1]']],
    ['::', [...own, 'pier-bench', '192.0.2.7', '[fe80::1]']],
  ])('opened on %s are these and no others', (host, names) => {
    expect([...ownNames(host, [], all)]).toEqual(names)
  })
})

describe('the program’s own page, and a tool at this computer', () => {
  // RFC 9112, clause 9.3: a client may ask again on a connection that is kept; the head says for how long.
  it('keep their connection over a minute in which the computer stands still', async () => {
    const agent = new Agent({ keepAlive: true })
    const { hostname, port } = new URL(server.address)
    const kept = await new Promise<string>((resolve, reject) => {
      const asking = request({ hostname, port, path: '/api/health', agent }, (answer) => {
        answer.resume()
        resolve(String(answer.headers['keep-alive']))
      })
      asking.on('error', reject)
      asking.end()
    })
    agent.destroy()
    expect(Number(/timeout=(\d+)/.exec(kept)?.[1])).toBeGreaterThan(60)
  })
  it('are let in', async () => {
    const { port } = new URL(server.address)
    for (const host of [`127.0.0.1:${port}`, `localhost:${port}`, `[::1]:${port}`, 'LOCALHOST']) {
      expect((await ask('GET', '/api/units', { host })).status).toBe(200)
      const own = { ...json, host, origin: `http://${host.toLowerCase()}`, 'sec-fetch-site': 'same-origin' }
      expect((await ask('PUT', '/api/workshop-rules', own, '{')).status).toBe(400)
    }
    // A tool says neither where it comes from nor what it was asked by.
    expect((await server.send('PUT', '/workshop-rules', {})).status).not.toBe(403)
    expect((await ask('POST', '/api/units', json, unit)).status).toBeLessThan(300)
    expect(await planted()).toBe(true)
    // An address typed by hand, or a bookmark.
    expect((await ask('GET', '/api/units', { 'sec-fetch-site': 'none' })).status).toBe(200)
  })
})

it('every answer says what a page of it may do', async () => {
  for (const path of ['/api/health', '/api/nothing']) {
    const { headers } = await ask('GET', path)
    const policy = String(headers['content-security-policy'])
    expect(policy).toMatch(/script-src 'self'(;|$)/)
    expect(policy).toMatch(/frame-ancestors 'none'/)
    expect(policy).toMatch(/object-src 'none'/)
    expect(headers['x-content-type-options']).toBe('nosniff')
    expect(headers['referrer-policy']).toBe('no-referrer')
    expect(String(headers['permissions-policy'])).toMatch(/serial=\(?self\)?/)
    expect(String(headers['permissions-policy'])).toMatch(/usb=\(?self\)?/)
  }
})

it('a word of a megabyte and more is refused before it is read', async () => {
  const long = JSON.stringify({
    familyId: 'mains-relay',
    name: 'xxx',
    place: 'x'.repeat(1024 * 1024),
    serial: 'Q',
  })
  expect(await ask('POST', '/api/units', json, long)).toMatchObject({
    status: 413,
    text: expect.stringContaining('too-large'),
  })
  const chunked = { ...json, 'transfer-encoding': 'chunked' }
  // Without a length it is cut off while it comes: the sender may see its connection end before the answer.
  const end = await ask('POST', '/api/units', chunked, long).catch((error: Error) => error)
  if (!(end instanceof Error)) expect(end.status).toBe(413)
  const units: { name: string }[] = (await server.get('/units')).body
  expect(units.filter(({ name }) => name === 'xxx')).toEqual([])
})

it.each([
  ['JSON where a form is wanted, broken off', json, '{"name":'],
  ['a form without its boundary', { 'content-type': 'multipart/form-data' }, 'abc'],
  ['a form that breaks off', { 'content-type': 'multipart/form-data; boundary=x' }, '--x\r\ncontent-dis'],
])('%s is named in words, as the sender’s', async (_, headers, content) => {
  const { status, text } = await ask('POST', '/api/images', headers, content)
  expect([status, JSON.parse(text).kind]).toEqual([400, 'input'])
  expect(JSON.parse(text).remedy).not.toMatch(/report/)
})
