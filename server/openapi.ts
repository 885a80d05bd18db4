import type { Env, Hono } from 'hono'
import { generateSpecs } from 'hono-openapi'

const text = { type: 'string' } as const
const problem = {
  type: 'object' as const,
  required: ['type', 'title', 'status', 'detail', 'kind', 'says', 'remedy'],
  properties: {
    type: text,
    title: text,
    status: { type: 'integer' as const },
    detail: text,
    kind: text,
    says: text,
    thing: text,
    place: {
      type: 'object' as const,
      properties: { line: { type: 'integer' as const }, offset: { type: 'integer' as const }, at: text },
    },
    expected: text,
    found: text,
    remedy: text,
  },
}

/**
 * An OpenAPI 3.1 document of the public paths: what each takes, as it is validated at the door, and what it answers.
 * @param places what each first part of a path is about.
 */
export async function openApi<E extends Env>(
  paths: Hono<E>,
  places: Readonly<Record<string, string>>,
  version: string,
) {
  const document = await generateSpecs(paths, {
    defaultValidationErrorResponse: false,
    documentation: {
      info: {
        title: 'Bench Wake',
        version,
        description: 'Paths that outside tools may rely on. They grow; they are not renamed.',
      },
      tags: Object.entries(places).map(([name, description]) => ({ name, description })),
      components: {
        schemas: { Problem: problem },
        responses: {
          Problem: {
            description: 'What was wrong, where, and the way out (RFC 9457)',
            content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
          },
        },
      },
    },
  })
  for (const [path, operations] of Object.entries(document.paths)) {
    for (const operation of Object.values(operations ?? {})) {
      if (typeof operation === 'object' && 'responses' in operation) operation.tags = [path.split('/')[2]!]
    }
  }
  return document
}
