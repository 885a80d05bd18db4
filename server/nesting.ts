import { Problem } from '@bench-wake/core/kernel'
import type { MiddlewareHandler } from 'hono'
import { answerProblem } from './problem'

/** The deepest document of this trade, a profile with link scripts, nests some 20 levels. */
export const maxDepth = 64

/** How deep a JSON text nests, whatever else is wrong with it; counting ends beyond the limit. */
export function depthOf(text: string): number {
  let [depth, deepest] = [0, 0]
  let inText = false
  for (let at = 0; at < text.length && deepest <= maxDepth; at++) {
    const letter = text[at]
    if (inText) {
      if (letter === '\\') at++
      else if (letter === '"') inText = false
    } else if (letter === '"') inText = true
    else if (letter === '{' || letter === '[') deepest = Math.max(deepest, ++depth)
    else if (letter === '}' || letter === ']') depth--
  }
  return deepest
}

/** Refuses JSON that nests deeper than any document of this trade, before anything walks through it. */
export function boundNesting(): MiddlewareHandler {
  return async (c, next) => {
    if (!c.req.header('content-type')?.startsWith('application/json')) return next()
    if (depthOf(await c.req.text()) <= maxDepth) return next()
    return answerProblem(
      c,
      new Problem({
        kind: 'input',
        place: { at: 'json' },
        says: 'this nests deeper than any document of the program',
        expected: `${maxDepth} levels at most`,
        remedy: 'Send it as it is described under /api/openapi.json.',
      }),
    )
  }
}
