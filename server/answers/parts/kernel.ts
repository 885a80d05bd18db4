import type * as kernel from '@bench-wake/core/kernel'
import * as v from 'valibot'
import { held } from '../held'

export const Verdict = held<kernel.Verdict>()(
  'Verdict',
  v.picklist(['hold', 'note', 'go', 'stop', 'unknown']),
)

export const Level = held<kernel.Level>()('Level', v.picklist(['hold', 'note', 'go', 'stop']))

export const Finding = held<kernel.Finding>()(
  'Finding',
  v.object({
    rule: v.string(),
    level: Level,
    says: v.string(),
    because: v.string(),
    remedy: v.exactOptional(v.string()),
    numbers: v.exactOptional(v.record(v.string(), v.number())),
  }),
)

export const Place = held<kernel.Place>()(
  'Place',
  v.object({
    line: v.exactOptional(v.number()),
    offset: v.exactOptional(v.number()),
    at: v.exactOptional(v.string()),
  }),
)

export const ProblemFacts = held<kernel.ProblemFacts>()(
  'ProblemFacts',
  v.object({
    kind: v.string(),
    thing: v.exactOptional(v.string()),
    place: v.exactOptional(Place),
    says: v.string(),
    expected: v.exactOptional(v.string()),
    found: v.exactOptional(v.string()),
    remedy: v.string(),
  }),
)

export const Measure = held<kernel.Measure>()(
  'Measure',
  v.picklist([
    'volts',
    'watts',
    'hertz',
    'celsius',
    'metres',
    'amps',
    'ohms',
    'bytes',
    'count',
    'ampere-hours',
    'watt-hours',
    'square-millimetres',
    'percent',
    'milliseconds',
    'baud',
  ]),
)
