import type * as runsTypes from '../store/runs'
import { RunState } from './parts/run'
import * as v from 'valibot'
import { held } from './held'

export const KeptRun = held<runsTypes.KeptRun>()(
  'KeptRun',
  v.object({ id: v.string(), jobId: v.string(), state: RunState, brokenAt: v.nullable(v.number()) }),
)

export const ListedRun = held<runsTypes.ListedRun>()(
  'ListedRun',
  v.object({ id: v.string(), jobId: v.string(), state: RunState }),
)

export const KeptBackup = held<runsTypes.KeptBackup>()(
  'KeptBackup',
  v.object({
    runId: v.string(),
    at: v.number(),
    name: v.string(),
    address: v.number(),
    bytes: v.number(),
    sha256: v.string(),
    reads: v.number(),
    imageId: v.string(),
  }),
)
