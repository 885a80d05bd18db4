import type * as answersTypes from '../routes/answers'
import { Hop } from './parts/fit'
import { Finding, Level, Verdict } from './parts/kernel'
import { held } from './held'
import type * as arrivals from '../store/arrivals'
import * as v from 'valibot'

export const ImageFit = v.object({
  imageId: v.string(),
  verdict: Verdict,
  findings: v.array(Finding),
  path: v.array(Hop),
})

export const UnitFit = held<arrivals.UnitFit>()(
  'UnitFit',
  v.object({
    unitId: v.string(),
    name: v.string(),
    place: v.string(),
    verdict: Verdict,
    says: v.string(),
  }),
)

/** Every image against every column; see core/fit/matrix.ts. */
export const Matrix = held<answersTypes.MatrixAnswer>()(
  'Matrix',
  v.object({
    columns: v.array(v.object({ id: v.string(), label: v.string(), familyId: v.string() })),
    rows: v.array(
      v.object({
        id: v.string(),
        name: v.string(),
        familyId: v.nullable(v.string()),
        componentId: v.nullable(v.string()),
        version: v.nullable(v.string()),
        release: v.nullable(v.string()),
      }),
    ),
    reasons: v.array(v.object({ level: Level, rule: v.string(), says: v.string() })),
    cells: v.string(),
  }),
)
