/* eslint-disable @typescript-eslint/no-explicit-any -- a schema is walked by its members */
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { takenInputs } from './routes/validate'
import { demoServer, seededFolder } from './server.test-support'

/*
 * What comes in (OWASP ASVS 5.0, V2 validation and business logic; V4 API and web service): every text, list and number has
 * a limit, and what is malformed is refused in words.
 */
let server: Awaited<ReturnType<typeof demoServer>>
beforeAll(async () => {
  server = await demoServer(seededFolder())
})
afterAll(() => server.stop())

/** Places in a schema that take as much as somebody sends. */
function unlimited(schema: any, at: string): string[] {
  const parts = (each: any): any[] =>
    (each.pipe ?? []).flatMap((part: any) =>
      part === each || part.kind !== 'schema' || !part.pipe ? [part] : [part, ...parts(part)],
    )
  const pipe = parts(schema).slice(1)
  const has = (...types: string[]) =>
    pipe.some(({ type, kind }) => types.includes(type) && (kind === 'validation' || kind === 'schema'))
  const inner = schema
  switch (inner.type) {
    case 'string':
      return has('max_length', 'iso_date') ||
        pipe.some(({ type, requirement }) => type === 'regex' && bounded(requirement))
        ? []
        : [`${at}: text`]
    case 'number':
      return has('max_value') && has('min_value', 'gt_value') ? [] : [`${at}: number`]
    case 'array':
      return [...(has('max_length', 'length') ? [] : [`${at}: list`]), ...unlimited(inner.item, `${at}[]`)]
    case 'record':
      return [
        ...(has('max_entries', 'check') ? [] : [`${at}: record`]),
        ...unlimited(inner.key, `${at} key`),
        ...unlimited(inner.value, `${at}{}`),
      ]
    case 'object':
    case 'strict_object':
    case 'loose_object':
      return Object.entries(inner.entries).flatMap(([name, each]) => unlimited(each, `${at}.${name}`))
    case 'tuple':
      return inner.items.flatMap((each: any, index: number) => unlimited(each, `${at}[${index}]`))
    case 'union':
    case 'variant':
      return inner.options.flatMap((each: any) => unlimited(each, at))
    default:
      return inner.wrapped ? unlimited(inner.wrapped, at) : []
  }
}
/** A pattern that is anchored at both ends and repeats nothing without a limit. */
const bounded = (pattern: RegExp) =>
  pattern.source.startsWith('^') && pattern.source.endsWith('$') && !/[^\\][*+]|\{\d+,\}/.test(pattern.source)

it('every text, list and number that a path takes has a limit', () => {
  expect(takenInputs().length).toBeGreaterThan(30)
  expect(takenInputs().flatMap(({ schema }, at) => unlimited(schema, `${at}`))).toEqual([])
})

describe('inherited names are unknown names', () => {
  const inherited = ['constructor', '__proto__', 'toString', 'hasOwnProperty', 'valueOf']
  it.each(inherited)('%s', async (name) => {
    const path = encodeURIComponent(name)
    for (const [method, where, form] of [
      ['POST', `/sums/${path}`, {}],
      ['POST', '/drills/benches', { drillId: name }],
      ['GET', `/families/${path}`],
      ['GET', `/units/${path}`],
      ['GET', `/jobs/${path}`],
      ['GET', `/images/${path}`],
      ['GET', `/runs/${path}`],
    ] as const) {
      const answer = form ? await server.send(method, where, form) : await server.get(where)
      expect({ where, status: answer.status, kind: answer.body.kind }).toEqual({
        where,
        status: 404,
        kind: 'not-found',
      })
    }
    // A figure with such a unit of measure, and a field of that name.
    const sum = await server.send('POST', '/sums/lead-drop', { [name]: `5 ${name}`, amps: `5 ${name}` })
    expect(sum.status).toBe(422)
    expect((await server.get(`/images/x/bytes?format=${path}`)).status).toBe(400)
    // A problem that a page hands over for its port keeps its kind and is answered as one.
    const { id } = (await server.send('POST', '/lent', { name: 'Port', kind: 'serial' })).body
    expect(
      (
        await server.send('POST', `/lent/${id}/answers`, {
          seq: 1,
          problem: { kind: name, says: 'x', remedy: 'y' },
        })
      ).status,
    ).toBe(200)
  })
})

it.each(['2026-02-29', '2026-02-30', '2026-04-31', '2026-13-01', '2026-00-10', '0000-01-01'])(
  'a day that does not exist is refused: %s',
  async (day) => {
    const { imageId, unitId } = (await server.get('/jobs/job-fog-07')).body.job
    const job = { unitId, imageId, reason: 'a test', day }
    expect(await server.send('POST', '/jobs', job)).toMatchObject({
      status: 400,
      body: { kind: 'input', place: { at: 'day' } },
    })
    expect((await server.get(`/kit/${day}`)).status).toBe(400)
  },
)
it('a leap day that exists is taken', async () => {
  // 2028 is a leap year (Gregorian calendar, ISO 8601-1).
  expect((await server.get('/kit/2028-02-29')).status).toBe(200)
})

describe('malformed requests are refused in words', () => {
  it.each([true, null, [], {}])('a figure of a sum that is %j', async (figure) => {
    for (const sum of ['lead-drop', 'wire-time'])
      expect(await server.send('POST', `/sums/${sum}`, { amps: figure, bytes: figure })).toMatchObject({
        status: 400,
        body: { kind: 'input', place: { at: expect.stringMatching(/amps|bytes/) } },
      })
  })
  const raw = async (path: string, type: string, body: string) => {
    const response = await fetch(server.base + path, {
      method: 'POST',
      headers: { 'content-type': type },
      body,
    })
    return { status: response.status, body: (await response.json()) as any }
  }
  it.each([
    ['{"unitId": 1e999', 'application/json'],
    ['', 'application/json'],
    ['[]', 'application/json'],
    ['null', 'application/json'],
    ['{"__proto__": {"unitId": "fog-07"}}', 'application/json'],
    ['x', 'multipart/form-data'],
    ['--x\r\n', 'multipart/form-data; boundary=y'],
  ])('%s', async (text, type) => {
    for (const path of ['/jobs', '/runs', '/images', '/units', '/requests', '/drills', '/lent']) {
      const { status, body } = await raw(path, type, text)
      expect({ path, status }).toEqual({ path, status: 400 })
      expect(body.remedy).toMatch(/\.$/)
    }
  })
  it('numbers beyond every figure are none', async () => {
    const sum = await raw(
      '/runs',
      'application/json',
      '{"jobId":"job-fog-07","port":"stand-in:fog-07","supplyVolts":1e999}',
    )
    expect(sum).toMatchObject({ status: 400, body: { place: { at: 'supplyVolts' } } })
  })
})
