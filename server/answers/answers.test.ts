import { Validator } from '@seriousme/openapi-schema-validator'
import { beforeAll, describe, expect, it } from 'vitest'
import { holdAgainst, type ApiDocument } from '../hold-answers.test-support'
import { publicDocument } from '../public-document.test-support'
import { demoServer, endChildren, seededFolder } from '../server.test-support'

endChildren()

describe('the OpenAPI document', () => {
  let document: ApiDocument
  beforeAll(async () => {
    document = await publicDocument()
  })

  // OpenAPI 3.1.0, by its own published JSON Schema
  it('is one by the specification’s own schema', async () => {
    expect(
      await new Validator().validate(structuredClone(document) as unknown as Record<string, unknown>),
    ).toMatchObject({ valid: true })
  })

  it('describes the body of every answer, and the way every failure is told', () => {
    const open = Object.entries(document.paths).flatMap(([path, methods]) =>
      Object.entries(methods).flatMap(([method, { responses }]) => {
        const name = `${method} ${path}`
        const good = Object.entries(responses).filter(([status]) => status.startsWith('2'))
        if (good.length === 0) return [`${name}: no answer`]
        if (!responses['default']) return [`${name}: no failure`]
        return good.flatMap(([, { content }]) =>
          !content || Object.keys(content).length === 0
            ? [`${name}: no body`]
            : Object.entries(content).flatMap(([type, { schema }]) =>
                type !== 'application/json' ||
                path.endsWith('/export') ||
                (schema && Object.keys(schema).length > 0)
                  ? []
                  : [`${name}: no schema`],
              ),
        )
      }),
    )
    expect(open).toEqual([])
    expect(Object.keys(document.paths).length).toBeGreaterThan(70)
  })

  it('has every path of the program, and no more', async () => {
    const server = await demoServer(seededFolder())
    try {
      const { body } = await server.get('/openapi.json')
      expect(Object.keys(body.paths).sort()).toEqual(Object.keys(document.paths).sort())
    } finally {
      await server.stop()
    }
  })
})

describe('answers', () => {
  it('are as the document has them, on every path that only reads, with the demo scenario', async () => {
    const document = await publicDocument()
    const server = await demoServer(seededFolder())
    try {
      const ids: Record<string, string[]> = {}
      for (const list of ['jobs', 'units', 'images', 'families', 'logbook', 'ports'])
        ids[list] = (await server.get(`/${list}`)).body.map(
          (each: { id: string; job?: { id: string }; runId?: string }) =>
            each.job?.id ?? each.runId ?? each.id,
        )
      const asked: string[] = []
      for (const path of Object.keys(document.paths).filter((each) => document.paths[each]!['get'])) {
        if (/\{sha256\}|\/live|\/calls|damage|bundles|trace/.test(path)) continue
        const place = path.split('/')[2]!
        const own = path.includes('familyId')
          ? ids['families']!
          : (ids[place === 'runs' ? 'logbook' : place === 'fit' ? 'units' : place] ?? [])
        const filled = own.map((id) =>
          path
            .replace(/\{(id|familyId)\}/, id)
            .replace('{revision}', '1')
            .replace('{day}', '2026-11-24'),
        )
        for (const each of path.includes('{')
          ? [
              ...filled,
              filled.length === 0
                ? path.replace('{day}', '2026-11-24')
                : `${path.replace(/\{\w+\}/g, 'nothing')}`,
            ]
          : [path]) {
          // What differs from the document throws (server/hold-answers.setup.ts).
          const response = await fetch(server.base.replace(/\/api$/, '') + each)
          await response.arrayBuffer()
          if (response.ok) asked.push(path)
        }
      }
      expect(new Set(asked).size).toBeGreaterThan(25)
    } finally {
      await server.stop()
    }
  })

  it.each([
    ['a member more', (list: any[]) => [{ ...list[0], extra: 1 }], 'additional'], // eslint-disable-line @typescript-eslint/no-explicit-any
    ['a member less', (list: any[]) => list.map(({ name: _, ...rest }) => rest), 'name'], // eslint-disable-line @typescript-eslint/no-explicit-any
    ['another type', (list: any[]) => list.map((each) => ({ ...each, size: '12' })), 'size'], // eslint-disable-line @typescript-eslint/no-explicit-any
  ])('with %s are told apart from what the document has', async (_what, spoil, named) => {
    const held = holdAgainst(await publicDocument())
    const server = await demoServer(seededFolder())
    try {
      const { body } = await server.get('/images')
      const ask = (answer: unknown) => held('GET', '/api/images', 200, 'application/json', () => answer)
      expect(ask(body)).toBeNull()
      expect(ask(spoil(body))).toContain(named)
    } finally {
      await server.stop()
    }
  })

  it('of a status or a type that nobody described are told apart', async () => {
    const held = holdAgainst(await publicDocument())
    expect(held('GET', '/api/images', 204, 'application/json', () => [])).toContain('is not described')
    expect(held('GET', '/api/images', 200, 'text/plain', () => '')).toContain('is not described')
    expect(held('GET', '/api/images', 404, 'application/problem+json', () => ({}))).toContain('required')
  })
})
