import type * as familiesTypes from '../store/families'
import type * as readyTypes from '@bench-wake/core/ready'
import { FamilyProfile, operations } from '@bench-wake/core/family'
import * as v from 'valibot'
import { held } from './held'
import { ProblemFacts } from './parts/kernel'

export const FamilyRevision = held<familiesTypes.FamilyRevision>()(
  'FamilyRevision',
  v.object({ revision: v.number(), addedAt: v.number(), runs: v.number() }),
)

export const FamilyHistory = held<familiesTypes.FamilyHistory>()(
  'FamilyHistory',
  v.object({ document: FamilyProfile, revisions: v.array(FamilyRevision), units: v.number() }),
)

/** One operation of a link as a proved run carried it out. */
export const KeptTrial = held<readyTypes.KeptTrial>()(
  'KeptTrial',
  v.object({
    linkId: v.string(),
    operation: v.picklist(operations),
    digest: v.string(),
    on: v.picklist(['stand-in', 'unit']),
    unit: v.string(),
    serial: v.string(),
    day: v.string(),
    by: v.nullable(v.string()),
    revision: v.number(),
    profile: v.string(),
  }),
)

/** What came of trying one operation of a link; bytes are pairs of hexadecimal digits. */
export const TrialAnswer = v.object({
  operation: v.string(),
  tookMs: v.number(),
  events: v.array(
    v.object({
      at: v.string(),
      ms: v.number(),
      says: v.string(),
      sent: v.exactOptional(v.string()),
      heard: v.exactOptional(v.string()),
    }),
  ),
  lines: v.array(v.string()),
  bytes: v.exactOptional(v.string()),
  problem: v.exactOptional(ProblemFacts),
})
export type TrialAnswer = v.InferOutput<typeof TrialAnswer>
