import type * as fit from '@bench-wake/core/fit'
import { Finding, Verdict } from './kernel'
import * as v from 'valibot'
import { held } from '../held'

export const Hop = held<fit.Hop>()(
  'Hop',
  v.object({
    componentId: v.string(),
    imageId: v.string(),
    imageName: v.string(),
    from: v.exactOptional(v.string()),
    to: v.exactOptional(v.string()),
    predictedMs: v.number(),
    noWayBack: v.exactOptional(v.string()),
  }),
)

export const Fit = held<fit.Fit>()(
  'Fit',
  v.object({
    verdict: Verdict,
    findings: v.array(Finding),
    path: v.array(Hop),
    totalMs: v.number(),
    rollback: v.nullable(v.array(Hop)),
  }),
)

export const ReasonKind = held<fit.ReasonKind>()('ReasonKind', v.picklist(['fault', 'feature', 'currency']))

export const Symptom = held<fit.Symptom>()(
  'Symptom',
  v.object({ says: v.string(), often: v.string(), since: v.string() }),
)

export const Need = held<fit.Need>()(
  'Need',
  v.object({
    answer: v.picklist(['do', 'unknown', 'nothing', 'ask']),
    finding: Finding,
    advisories: v.array(
      v.object({ id: v.string(), says: v.string(), fixedIn: v.string(), matched: v.boolean() }),
    ),
  }),
)

export const SupplierRequest = held<fit.SupplierRequest>()(
  'SupplierRequest',
  v.object({
    id: v.string(),
    unitId: v.string(),
    asked: v.string(),
    of: v.string(),
    askedAt: v.number(),
    dueDay: v.string(),
    answer: v.nullable(v.object({ says: v.string(), by: v.string(), at: v.number() })),
    imageId: v.nullable(v.string()),
    closedAt: v.nullable(v.number()),
  }),
)
