import type * as image from '@bench-wake/core/image'
import { toldBys } from '@bench-wake/core/image'
import * as v from 'valibot'
import { held } from '../held'

export const ImageFormat = held<image.ImageFormat>()(
  'ImageFormat',
  v.picklist(['ihex', 'srec', 'elf', 'uf2', 'bin']),
)

export const ImageIdentity = held<image.ImageIdentity>()(
  'ImageIdentity',
  v.object({
    familyId: v.string(),
    componentId: v.string(),
    toldBy: v.exactOptional(v.picklist(toldBys)),
    filledBy: v.exactOptional(
      v.object({
        version: v.exactOptional(v.picklist(toldBys)),
        hardwareMajor: v.exactOptional(v.picklist(toldBys)),
        sequence: v.exactOptional(v.picklist(toldBys)),
      }),
    ),
    alsoToldBy: v.exactOptional(v.array(v.picklist(toldBys))),
    contradictions: v.exactOptional(v.array(v.string())),
    statement: v.exactOptional(v.object({ by: v.string(), from: v.string(), at: v.number() })),
    deviceIdentifier: v.exactOptional(v.string()),
    hardwareMajor: v.exactOptional(v.number()),
    hardwareMinor: v.exactOptional(v.number()),
    model: v.exactOptional(v.string()),
    version: v.exactOptional(v.string()),
    buildTime: v.exactOptional(v.number()),
    release: v.exactOptional(v.string()),
    serial: v.exactOptional(v.string()),
    variant: v.exactOptional(v.string()),
    options: v.exactOptional(v.string()),
    layout: v.exactOptional(v.string()),
    sequence: v.exactOptional(v.number()),
    requiresFrom: v.exactOptional(v.string()),
    requiresBelow: v.exactOptional(v.string()),
    precursor: v.exactOptional(v.string()),
    length: v.exactOptional(v.number()),
    vendorId: v.exactOptional(v.string()),
    classId: v.exactOptional(v.string()),
    intact: v.exactOptional(v.object({ ok: v.boolean(), expected: v.number(), found: v.number() })),
  }),
)

export const ManifestClaim = held<image.ManifestClaim>()(
  'ManifestClaim',
  v.object({
    component: v.string(),
    sequence: v.number(),
    vendorId: v.exactOptional(v.string()),
    classId: v.exactOptional(v.string()),
    version: v.exactOptional(v.string()),
    precursor: v.exactOptional(v.string()),
    requiresFrom: v.exactOptional(v.string()),
    requiresBelow: v.exactOptional(v.string()),
  }),
)

export const DfuSuffix = held<image.DfuSuffix>()(
  'DfuSuffix',
  v.object({ vendorId: v.number(), productId: v.number(), deviceRelease: v.number(), length: v.number() }),
)

export const ImageStatement = held<image.ImageStatement>()(
  'ImageStatement',
  v.object({
    familyId: v.string(),
    componentId: v.string(),
    version: v.exactOptional(v.string()),
    hardwareMajor: v.exactOptional(v.number()),
    by: v.string(),
    from: v.string(),
    at: v.number(),
  }),
)
