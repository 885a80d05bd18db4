import type * as loadShelfTypes from '../store/load-shelf'
import type * as shelfTypes from '../store/shelf'
import type * as answersTypes from '../routes/answers'
import { Finding } from './parts/kernel'
import { DfuSuffix, ImageFormat, ImageIdentity, ImageStatement, ManifestClaim } from './parts/image'
import type * as schemaTypes from '../db/schema'
import type * as arrivals from '../store/arrivals'
import * as v from 'valibot'
import { held } from './held'

export const ShelfImage = held<loadShelfTypes.ShelfImage>()(
  'ShelfImage',
  v.object({
    id: v.string(),
    name: v.string(),
    names: v.array(v.string()),
    format: ImageFormat,
    size: v.number(),
    bytes: v.number(),
    sha256: v.string(),
    contentSha256: v.string(),
    addedAt: v.number(),
    segments: v.array(v.object({ address: v.number(), length: v.number() })),
    identity: v.nullable(ImageIdentity),
    claim: v.nullable(ManifestClaim),
    statement: v.nullable(ImageStatement),
    placed: v.picklist(['by-file', 'by-person', 'by-profile', 'not-known']),
    origins: v.array(
      v.object({
        name: v.string(),
        at: v.number(),
        from: v.exactOptional(v.string()),
        bundleId: v.exactOptional(v.string()),
        bundle: v.exactOptional(v.string()),
        path: v.exactOptional(v.string()),
      }),
    ),
    notesCount: v.number(),
    header: v.exactOptional(v.string()),
    dfu: v.exactOptional(DfuSuffix),
    uf2Family: v.exactOptional(v.number()),
    findings: v.array(Finding),
  }),
)

export const BundleRow = held<schemaTypes.BundleRow>()(
  'BundleRow',
  v.object({
    path: v.string(),
    size: v.number(),
    imageId: v.exactOptional(v.string()),
    note: v.exactOptional(v.string()),
    other: v.exactOptional(v.string()),
  }),
)

export const ShelfBundle = held<shelfTypes.ShelfBundle>()(
  'ShelfBundle',
  v.object({
    id: v.string(),
    name: v.string(),
    size: v.number(),
    addedAt: v.number(),
    from: v.exactOptional(v.string()),
    entries: v.array(BundleRow),
  }),
)

export const SettledRequest = held<arrivals.SettledRequest>()(
  'SettledRequest',
  v.object({
    id: v.string(),
    unitId: v.string(),
    unitName: v.string(),
    asked: v.string(),
    imageId: v.string(),
  }),
)

export const AddedAnswer = held<answersTypes.AddedAnswer>()(
  'AddedAnswer',
  v.object({
    images: v.array(ShelfImage),
    bundle: v.nullable(ShelfBundle),
    settled: v.array(SettledRequest),
    ...ShelfImage.entries,
  }),
)

export const ImageNote = held<loadShelfTypes.ImageNote>()(
  'ImageNote',
  v.object({ path: v.string(), text: v.string() }),
)

export const FullImage = v.object({ ...ShelfImage.entries, notes: v.array(ImageNote) })

/** What a medium says of the files that are to lie on it. */
const Medium = v.object({
  name: v.string(),
  maxBytes: v.number(),
  files: v.array(v.object({ name: v.string(), component: v.string() })),
  othersAllowed: v.boolean(),
})

export const FullBundle = v.object({
  ...ShelfBundle.entries,
  media: v.array(v.object({ familyId: v.string(), medium: Medium, findings: v.array(Finding) })),
})

export const RemovedImage = v.object({ id: v.string(), name: v.string(), removedAt: v.number() })

export const CloseImage = v.object({ id: v.string(), name: v.string(), share: v.number() })
