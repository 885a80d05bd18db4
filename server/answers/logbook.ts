import * as v from 'valibot'

/** What the program refused, newest first. */
export const Refusal = v.object({
  kind: v.string(),
  id: v.number(),
  says: v.string(),
  found: v.nullable(v.string()),
  at: v.number(),
  thing: v.nullable(v.string()),
  asked: v.string(),
})
