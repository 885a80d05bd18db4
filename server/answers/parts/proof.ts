import type * as proof from '@bench-wake/core/proof'
import * as v from 'valibot'
import { held } from '../held'

export const Compared = held<proof.Compared>()(
  'Compared',
  v.object({
    field: v.string(),
    label: v.string(),
    before: v.exactOptional(v.string()),
    after: v.exactOptional(v.string()),
    change: v.picklist(['must', 'must-not', 'may']),
    ok: v.nullable(v.boolean()),
  }),
)
