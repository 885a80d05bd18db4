import { Problem } from '@bench-wake/core/kernel'
import { vValidator } from '@hono/valibot-validator'
import type { ValidationTargets } from 'hono'
import * as v from 'valibot'

/** What a route takes, kept on its validator so that the OpenAPI document is made from the routes themselves. */
export interface TakenInput {
  target: keyof ValidationTargets
  schema: v.GenericSchema
}
const taken = new WeakMap<object, TakenInput>()
export const inputOf = (handler: object): TakenInput | undefined => taken.get(handler)

/** Validates an input at the door; what does not pass is a problem that names the field. */
export function valid<Target extends keyof ValidationTargets, Schema extends v.GenericSchema>(
  target: Target,
  schema: Schema,
) {
  const validator = vValidator(target, schema, (result) => {
    if (result.success) return
    const issue = result.issues[0]
    throw new Problem({
      kind: 'input',
      place: { at: v.getDotPath(issue) ?? target },
      says: issue.message.replace(/\.$/, ''),
      ...(issue.expected ? { expected: issue.expected } : {}),
      found: issue.received,
      remedy: 'Mend this field and send it again.',
    })
  })
  taken.set(validator, { target, schema })
  return validator
}

export const text = (most = 400) =>
  v.pipe(v.string(), v.trim(), v.minLength(1, 'This must not be empty'), v.maxLength(most))
export const release = v.object({ rule: text(80), name: text(80), reason: text() })
/** `12.4`, as a query writes it. */
export const volts = v.pipe(
  v.string(),
  v.regex(/^\d{1,3}([.,]\d+)?\s*V?$/i, 'Write volts as a number, for example 12.4'),
  v.transform((written) => Number(written.replace(/\s*V$/i, '').replace(',', '.'))),
)
/** `2026-11-24`. */
export const day = v.pipe(v.string(), v.isoDate('Write the day as 2026-11-24'))
