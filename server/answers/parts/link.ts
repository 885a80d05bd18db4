import type * as link from '@bench-wake/core/link'
import * as v from 'valibot'
import { held } from '../held'

export const Verification = held<link.Verification>()(
  'Verification',
  v.object({
    outcome: v.picklist(['equal-read-back', 'equal-checksum', 'version-only', 'not-comparable', 'different']),
    by: v.exactOptional(v.string()),
    expected: v.string(),
    found: v.string(),
  }),
)

export const BusScan = held<link.BusScan>()(
  'BusScan',
  v.object({
    found: v.array(v.object({ address: v.number(), product: v.exactOptional(v.string()) })),
    garbled: v.array(v.number()),
    silent: v.number(),
  }),
)
