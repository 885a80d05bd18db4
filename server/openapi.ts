import { toJsonSchema } from '@valibot/to-json-schema'
import type { Hono } from 'hono'
import { inputOf } from './routes/validate'

interface Operation {
  tags: string[]
  parameters: object[]
  requestBody?: object
  responses: Record<string, object>
}

const problem = {
  description: 'What was wrong, where, and the way out (RFC 9457)',
  content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
}

/**
 * An OpenAPI 3.1 document of the routes: their paths, methods and inputs as they are validated at the door.
 * @param places what each first part of a path is about.
 */
export function openApi(routes: Hono['routes'], places: Readonly<Record<string, string>>, version: string) {
  const paths: Record<string, Record<string, Operation>> = {}
  for (const { method, path, handler } of routes) {
    if (method === 'ALL') continue
    const name = path.replace(/:([a-zA-Z]+)/g, '{$1}').replace(/\/$/, '')
    const place = name.split('/')[1]!
    const operation = ((paths[`/api${name}`] ??= {})[method.toLowerCase()] ??= {
      tags: [place],
      parameters: [...name.matchAll(/\{(\w+)\}/g)].map(([, param]) => ({
        name: param,
        in: 'path',
        required: true,
        schema: { type: 'string' },
      })),
      responses: { '2XX': { description: 'As asked' }, default: problem },
    })
    const input = inputOf(handler)
    if (!input || input.target === 'param') continue
    const { $schema: _, ...schema } = toJsonSchema(input.schema, {
      typeMode: 'input',
      errorMode: 'ignore',
      ignoreActions: ['trim', 'transform'],
    })
    if (input.target === 'json') {
      operation.requestBody = { required: true, content: { 'application/json': { schema } } }
    } else {
      for (const [param, form] of Object.entries(schema.properties ?? {})) {
        operation.parameters.push({
          name: param,
          in: 'query',
          required: schema.required?.includes(param) ?? false,
          schema: form,
        })
      }
    }
  }
  const upload = paths['/api/images']?.['post']
  if (upload) {
    const file = {
      type: 'object',
      required: ['file'],
      properties: { file: { type: 'string', format: 'binary' } },
    }
    upload.requestBody = { required: true, content: { 'multipart/form-data': { schema: file } } }
  }
  const text = { type: 'string' }
  return {
    openapi: '3.1.0',
    info: {
      title: 'Bench Wake',
      version,
      description: 'Paths that outside tools may rely on. They grow; they are not renamed.',
    },
    tags: Object.entries(places).map(([name, description]) => ({ name, description })),
    paths,
    components: {
      schemas: {
        Problem: {
          type: 'object',
          required: ['type', 'title', 'status', 'detail', 'kind', 'says', 'remedy'],
          properties: {
            type: text,
            title: text,
            status: { type: 'integer' },
            detail: text,
            kind: text,
            says: text,
            thing: text,
            place: {
              type: 'object',
              properties: { line: { type: 'integer' }, offset: { type: 'integer' }, at: text },
            },
            expected: text,
            found: text,
            remedy: text,
          },
        },
      },
    },
  }
}
