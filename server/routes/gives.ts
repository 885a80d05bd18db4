import { describeRoute, resolver } from 'hono-openapi'
import * as v from 'valibot'

type Described = NonNullable<Parameters<typeof describeRoute>[0]['responses']>[string]

const problem = { $ref: '#/components/responses/Problem' }
const asWritten = {
  options: { target: 'draft-2020-12' as const, typeMode: 'input' as const, errorMode: 'ignore' as const },
}

/** Says what a route answers, for the OpenAPI document. @param status where it is not 200. */
export const gives = (schema: v.GenericSchema, status = 200) =>
  answers(status, {
    description: 'As asked',
    content: { 'application/json': { schema: resolver(schema, asWritten) } },
  })

/** Says that a route answers a file or a stream. */
export const givesFile = (description: string, ...types: string[]) =>
  answers(200, { description, content: Object.fromEntries(types.map((type) => [type, {}])) })

/** Says that a route takes a form with a file, and texts beside it. */
export const takesFile = (...texts: string[]) =>
  describeRoute({
    requestBody: {
      required: true,
      content: {
        'multipart/form-data': {
          schema: {
            type: 'object',
            required: ['file'],
            properties: {
              file: { type: 'string', format: 'binary' },
              ...Object.fromEntries(texts.map((name) => [name, { type: 'string' as const }])),
            },
          },
        },
      },
    },
  })

const answers = (status: number, described: Described) =>
  describeRoute({ responses: { [status]: described, default: problem } })

/** It was done, and there is nothing more to say. */
export const Done = v.object({ ok: v.literal(true) })
