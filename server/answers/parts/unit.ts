import type * as unit from '@bench-wake/core/unit'
import * as v from 'valibot'
import { held } from '../held'

export const UnitFacts = held<unit.UnitFacts>()(
  'UnitFacts',
  v.object({
    deviceIdentifier: v.exactOptional(v.string()),
    hardware: v.exactOptional(v.string()),
    hardwareMajor: v.exactOptional(v.number()),
    contradiction: v.exactOptional(v.string()),
    unknownSign: v.exactOptional(v.string()),
    model: v.exactOptional(v.string()),
    serial: v.exactOptional(v.string()),
    batch: v.exactOptional(v.string()),
    layout: v.exactOptional(v.string()),
    versions: v.record(v.string(), v.string()),
    options: v.exactOptional(v.record(v.string(), v.string())),
    sequences: v.exactOptional(v.record(v.string(), v.number())),
    digests: v.exactOptional(v.record(v.string(), v.string())),
    readAt: v.exactOptional(v.number()),
    inBootloader: v.exactOptional(v.literal(true)),
    source: v.exactOptional(v.picklist(['link', 'menu', 'boot-screen', 'app', 'label', 'chip-marking'])),
  }),
)

export const SnapshotLine = held<unit.SnapshotLine>()(
  'SnapshotLine',
  v.object({
    field: v.string(),
    label: v.string(),
    value: v.string(),
    source: v.exactOptional(v.picklist(['link', 'menu', 'boot-screen', 'app', 'label', 'chip-marking'])),
  }),
)

export const Snapshot = held<unit.Snapshot>()(
  'Snapshot',
  v.object({
    at: v.number(),
    source: v.picklist(['link', 'menu', 'boot-screen', 'app', 'label', 'chip-marking']),
    lines: v.array(SnapshotLine),
    inBootloader: v.exactOptional(v.literal(true)),
  }),
)

export const Unit = held<unit.Unit>()(
  'Unit',
  v.object({ id: v.string(), familyId: v.string(), name: v.string(), place: v.string(), serial: v.string() }),
)

export const ClockJump = held<unit.ClockJump>()('ClockJump', v.object({ from: v.number(), to: v.number() }))
