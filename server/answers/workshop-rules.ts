import { causeIds } from '@bench-wake/core/entry'
import type * as rulesTypes from '../store/workshop-rules'
import * as v from 'valibot'
import { held } from './held'

export const KeptPolicy = held<rulesTypes.KeptPolicy>()(
  'KeptPolicy',
  v.object({
    by: v.exactOptional(v.string()),
    at: v.exactOptional(v.number()),
    update: v.picklist(['cure', 'current']),
    hops: v.picklist(['sequential', 'direct']),
    adapters: v.picklist(['any', 'own']),
    backup: v.exactOptional(v.picklist(['family', 'always'])),
  }),
)

/** What it was, the last time a unit did not answer. */
export const FoundCause = v.object({ cause: v.picklist(causeIds), at: v.number() })

export const KeptCause = v.object({ ...FoundCause.entries, familyId: v.string(), jobId: v.string() })
