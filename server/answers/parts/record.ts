import type * as record from '@bench-wake/core/record'
import { endings } from '@bench-wake/core/job'
import { stepKinds, tasks } from '@bench-wake/core/run'
import * as v from 'valibot'
import { held } from '../held'

export const Strip = held<record.Strip>()(
  'Strip',
  v.object({
    totalMs: v.number(),
    phases: v.array(
      v.object({
        kind: v.picklist(stepKinds),
        fromMs: v.number(),
        toMs: v.number(),
        state: v.picklist(['open', 'done', 'waiting', 'broken']),
        torn: v.exactOptional(v.literal(true)),
      }),
    ),
    retriesMs: v.array(v.number()),
    questionsMs: v.array(v.number()),
    dips: v.array(v.object({ atMs: v.number(), depth: v.number() })),
    torn: v.boolean(),
  }),
)

export const LogbookRow = held<record.LogbookRow>()(
  'LogbookRow',
  v.object({
    runId: v.string(),
    jobId: v.string(),
    unitId: v.string(),
    unitName: v.string(),
    place: v.string(),
    serial: v.string(),
    family: v.string(),
    component: v.string(),
    task: v.picklist(tasks),
    imageName: v.string(),
    imageSha256: v.string(),
    foundOut: v.nullable(v.string()),
    from: v.nullable(v.string()),
    to: v.nullable(v.string()),
    cameTo: v.nullable(v.picklist(endings)),
    outcome: v.picklist(['failed', 'cut', 'proved', 'done', 'abandoned', 'running', 'damaged']),
    trouble: v.nullable(v.string()),
    legs: v.number(),
    legTroubles: v.array(v.string()),
    check: v.nullable(
      v.picklist(['equal-read-back', 'equal-checksum', 'version-only', 'not-comparable', 'different']),
    ),
    verifiedBy: v.nullable(v.picklist(['read-back', 'checksum'])),
    startedAt: v.number(),
    tookMs: v.number(),
    bytesAcknowledged: v.number(),
    retries: v.number(),
    lowestVolts: v.nullable(v.number()),
    port: v.string(),
    adapter: v.nullable(v.string()),
    standIn: v.boolean(),
    strip: Strip,
  }),
)
