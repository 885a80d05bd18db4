import { helps } from '@bench-wake/core/entry'
import * as v from 'valibot'

export const Practice = v.object({
  exerciseId: v.string(),
  by: v.string(),
  at: v.number(),
  help: v.picklist(helps),
  unsafe: v.number(),
  wrong: v.number(),
  tookMs: v.number(),
  score: v.number(),
})

export const DrillBench = v.object({ id: v.string(), told: v.array(v.string()) })

/** What a move showed, and whether all is well by now. */
export const DrillTold = v.object({ told: v.array(v.string()), holds: v.boolean() })
