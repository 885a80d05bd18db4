import type * as ready from '@bench-wake/core/ready'
import { Finding, Measure, Verdict } from './kernel'
import * as v from 'valibot'
import { held } from '../held'

export const KitEntry = held<ready.KitEntry>()(
  'KitEntry',
  v.object({
    for: v.array(v.string()),
    packed: v.boolean(),
    id: v.string(),
    name: v.string(),
    kind: v.picklist(['charger', 'adapter', 'protection', 'cable', 'card', 'tool', 'papers', 'spare']),
    essential: v.boolean(),
    why: v.exactOptional(v.string()),
  }),
)

export const Stretch = held<ready.Stretch>()(
  'Stretch',
  v.object({ name: v.string(), ms: v.number(), unitAmps: v.number() }),
)

export const Gate = held<ready.Gate>()(
  'Gate',
  v.object({
    id: v.string(),
    name: v.string(),
    verdict: Verdict,
    findings: v.array(Finding),
    numbers: v.record(v.string(), v.number()),
    unjudged: v.exactOptional(v.object({ says: v.string(), remedy: v.string() })),
  }),
)

export const SumField = held<ready.SumField>()(
  'SumField',
  v.object({
    id: v.string(),
    label: v.string(),
    measure: Measure,
    usual: v.string(),
    choices: v.exactOptional(v.array(v.string())),
    min: v.exactOptional(v.number()),
    max: v.exactOptional(v.number()),
  }),
)

export const SumPicture = held<ready.SumPicture>()(
  'SumPicture',
  v.union([
    v.object({
      kind: v.literal('bars'),
      unit: v.string(),
      rows: v.array(
        v.object({
          label: v.string(),
          parts: v.array(v.object({ label: v.string(), value: v.number() })),
          chosen: v.exactOptional(v.boolean()),
        }),
      ),
      limit: v.exactOptional(v.object({ label: v.string(), value: v.number() })),
    }),
    v.object({
      kind: v.literal('scale'),
      unit: v.string(),
      marks: v.array(v.object({ label: v.string(), value: v.number(), limit: v.exactOptional(v.boolean()) })),
      window: v.exactOptional(v.object({ from: v.number(), to: v.number() })),
    }),
    v.object({
      kind: v.literal('curve'),
      xUnit: v.string(),
      yUnit: v.string(),
      points: v.array(v.object({ x: v.number(), y: v.number() })),
      limit: v.object({ label: v.string(), value: v.number() }),
    }),
    v.object({ kind: v.literal('bits'), bits: v.number(), samples: v.array(v.number()) }),
    v.object({ kind: v.literal('bus'), terminators: v.nullable(v.number()) }),
  ]),
)

export const SumAnswer = held<ready.SumAnswer>()(
  'SumAnswer',
  v.object({
    numbers: v.record(v.string(), v.number()),
    says: v.array(v.object({ label: v.string(), value: v.string() })),
    findings: v.array(Finding),
    picture: SumPicture,
  }),
)
