import { SupplierRequest } from './parts/fit'
import { Verdict } from './parts/kernel'
import { LogbookRow } from './parts/record'
import { KeptBackup } from './runs'
import type { ReadOut as ReadOutType } from '../store/read-outs'
import type * as unitsTypes from '../store/units'
import { ClockJump, Snapshot, SnapshotLine, UnitFacts } from './parts/unit'
import * as v from 'valibot'
import { held } from './held'

export const KnownUnit = held<unitsTypes.KnownUnit>()(
  'KnownUnit',
  v.object({
    facts: UnitFacts,
    answers: v.record(v.string(), v.string()),
    id: v.string(),
    familyId: v.string(),
    name: v.string(),
    place: v.string(),
    serial: v.string(),
  }),
)

export const KeptSnapshot = held<unitsTypes.KeptSnapshot>()(
  'KeptSnapshot',
  v.object({
    id: v.exactOptional(v.number()),
    runId: v.exactOptional(v.string()),
    photo: v.exactOptional(v.string()),
    refused: v.exactOptional(v.string()),
    at: v.number(),
    source: v.picklist(['link', 'menu', 'boot-screen', 'app', 'label', 'chip-marking']),
    lines: v.array(SnapshotLine),
    inBootloader: v.exactOptional(v.literal(true)),
  }),
)

export const UnitAnswer = held<unitsTypes.UnitAnswer>()(
  'UnitAnswer',
  v.object({ question: v.string(), answer: v.string(), by: v.string(), at: v.number() }),
)

export const ReadOut = held<ReadOutType>()(
  'ReadOut',
  v.object({
    ...KeptBackup.entries,
    original: v.boolean(),
    restore: v.object({ verdict: Verdict, says: v.nullable(v.string()) }),
  }),
)

export const FullUnit = v.object({
  ...KnownUnit.entries,
  snapshots: v.array(KeptSnapshot),
  refused: v.array(KeptSnapshot),
  clockJumps: v.array(ClockJump),
  answered: v.array(UnitAnswer),
  runs: v.array(LogbookRow),
  requests: v.array(SupplierRequest),
  backups: v.array(ReadOut),
})

export const SavedSnapshot = v.object({ ...Snapshot.entries, id: v.number() })

/** Digest of a photo that was kept. */
export const SavedPhoto = v.object({ photo: v.string() })

/** The unit that stands for another one in practice, and the job to work on it. */
export const Practice = v.object({ unitId: v.string(), jobId: v.nullable(v.string()) })
