import { isDay, Problem } from '@bench-wake/core/kernel'
import type { ValidationTargets } from 'hono'
import { validator as validating } from 'hono-openapi'
import * as v from 'valibot'

const all: { schema: v.GenericSchema }[] = []
/** Every input that the routes of this process take. */
export const takenInputs = (): readonly { schema: v.GenericSchema }[] => all

/** An input as it is written, before anything is read from it. */
const asWritten = {
  options: {
    target: 'draft-2020-12',
    typeMode: 'input',
    errorMode: 'ignore',
    ignoreActions: ['trim', 'transform'],
  },
} as const

/** Validates an input at the door; what does not pass is a problem that names the field. */
export function valid<Target extends keyof ValidationTargets, Schema extends v.GenericSchema>(
  target: Target,
  schema: Schema,
) {
  const validator = validating(
    target,
    schema,
    (result) => {
      if (result.success) return
      // The schemas are Valibot's, and so is what they find.
      const issue = result.error[0] as v.BaseIssue<unknown>
      throw new Problem({
        kind: 'input',
        place: { at: v.getDotPath(issue) ?? target },
        says: issue.message.replace(/\.$/, ''),
        ...(issue.expected ? { expected: issue.expected } : {}),
        found: issue.received,
        remedy: 'Mend this field and send it again.',
      })
    },
    asWritten,
  )
  all.push({ schema })
  return validator
}

export const text = (max = 400) =>
  v.pipe(v.string(), v.trim(), v.minLength(1, 'This must not be empty'), v.maxLength(max))
export const release = v.object({ rule: text(80), name: text(80), reason: text() })
/** `12.4`, as a query writes it. */
export const volts = v.pipe(
  v.string(),
  v.maxLength(20),
  v.regex(/^\d{1,3}([.,]\d+)?\s*V?$/i, 'Write volts as a number, for example 12.4'),
  v.transform((written) => Number(written.replace(/\s*V$/i, '').replace(',', '.'))),
)
/** `2026-11-24`. */
export const day = v.pipe(
  v.string(),
  v.isoDate('Write the day as 2026-11-24'),
  v.check(isDay, 'This day is in no calendar'),
)
/** A document that is read by its own schema once it is in; the body's limit is its own. */
export const openDocument = v.pipe(
  v.record(text(200), v.unknown()),
  v.maxEntries(500, 'This has more members than any document of this kind'),
  v.check((document) => allFinite(document), 'A number in it is beyond every figure'),
)

/** JSON's own numbers have no limit: 1e999 is read as infinite. */
function allFinite(value: unknown): boolean {
  if (typeof value === 'number') return Number.isFinite(value)
  return typeof value !== 'object' || value === null || Object.values(value).every(allFinite)
}
