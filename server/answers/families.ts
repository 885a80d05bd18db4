import type * as familiesTypes from '../store/families'
import { FamilyProfile } from '@bench-wake/core/family'
import * as v from 'valibot'
import { held } from './held'

export const FamilyRevision = held<familiesTypes.FamilyRevision>()(
  'FamilyRevision',
  v.object({ revision: v.number(), addedAt: v.number(), runs: v.number() }),
)

export const FamilyHistory = held<familiesTypes.FamilyHistory>()(
  'FamilyHistory',
  v.object({ document: FamilyProfile, revisions: v.array(FamilyRevision), units: v.number() }),
)
