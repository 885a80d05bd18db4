import * as v from 'valibot'

/** How this workshop works where a family leaves it open (PRACTICE A7, B5, C2). */
export const WorkshopRules = v.strictObject({
  /** `cure`: only to cure something or to add what is asked for; `current`: everything to the newest release. */
  update: v.picklist(['cure', 'current']),
  /** `sequential`: every release in order; `direct`: straight to the newest. */
  hops: v.picklist(['sequential', 'direct']),
  /** `any`: any decent adapter, try what you have; `own`: the maker's own part. */
  adapters: v.optional(v.picklist(['any', 'own']), 'any'),
  /** `family`: a firmware backup where every unit holds its own image; `always`: wherever the link can read (PRACTICE G4). */
  backup: v.exactOptional(v.picklist(['family', 'always'])),
})
export type WorkshopRules = v.InferOutput<typeof WorkshopRules>

/** What holds where a workshop has said nothing. */
export const usualWorkshopRules: WorkshopRules = { update: 'cure', hops: 'sequential', adapters: 'any' }
