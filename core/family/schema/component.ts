import * as v from 'valibot'
import { versionSchemes } from '../version-schemes'
import { amount, hexadecimal, slug, text, whole } from './fields'

const Region = v.strictObject({
  name: text('What the region is called in the unit’s manual'),
  use: v.pipe(
    v.picklist(['application', 'bootloader', 'settings', 'reserved']),
    v.description('Only `application` may be written by an image'),
  ),
  address: hexadecimal('First byte'),
  length: hexadecimal('Bytes'),
  sectorBytes: v.exactOptional(whole('Smallest piece that can be erased', 1)),
  pageBytes: v.exactOptional(whole('Piece that is programmed at once', 1)),
  eraseMsPerSector: v.exactOptional(amount('Usual time to erase a sector, ms')),
  programMsPerPage: v.exactOptional(amount('Usual time to program a page, ms')),
})

/** Everything that a profile can find in an image's identity block. */
export const identityFields = [
  'deviceIdentifier',
  'hardwareMajor',
  'hardwareMinor',
  'component',
  'model',
  'version',
  'buildTime',
  'release',
  'serial',
  'variant',
  'options',
  'layout',
  'sequence',
  'requiresFrom',
  'requiresBelow',
  'precursor',
  'length',
] as const
export type IdentityFieldName = (typeof identityFields)[number]

const IdentityField = v.strictObject({
  field: v.pipe(v.picklist(identityFields), v.description('What the bytes mean')),
  offset: hexadecimal('From the first byte of the identity block'),
  type: v.pipe(
    v.picklist(['ascii', 'hex', 'u8', 'u16le', 'u32le', 'u16be', 'u32be', 'unix32le', 'unix32be']),
    v.description(
      '`ascii` ends at its length or the first zero; `hex` is bytes as digits; `unix32…` is seconds since 1970 UTC',
    ),
  ),
  length: v.exactOptional(whole('Bytes, for `ascii` and `hex`', 1)),
  names: v.exactOptional(
    v.pipe(
      v.record(v.string(), v.string()),
      v.description('What a number stands for: {"0": "production", "1": "test"}'),
    ),
  ),
})

const IdentityBlock = v.strictObject({
  address: v.exactOptional(
    hexadecimal('Where the identity block lies in the unit’s memory; its mark is searched for when absent'),
  ),
  magic: text('Characters that the block begins with; they tell that an image is of this family'),
  fields: v.pipe(v.array(IdentityField), v.minLength(1)),
  integrity: v.exactOptional(
    v.pipe(
      v.picklist(['crc32-trailer']),
      v.description(
        'CRC-32/ISO-HDLC over the first `length` bytes less four, kept little-endian in those four',
      ),
    ),
  ),
})

/** A processor that holds firmware of its own: its memory, and how its images say what they are. */
export const Component = v.strictObject({
  id: slug('Short name, used in paths and commands'),
  name: text('Name to a person: "Main processor"'),
  onlyOn: v.exactOptional(
    v.pipe(v.array(text('A model')), v.minLength(1), v.description('Models that have it; all when absent')),
  ),
  memory: v.strictObject({
    erasedByte: whole('What an erased byte reads as, 255 for NOR flash'),
    regions: v.pipe(v.array(Region), v.minLength(1)),
  }),
  identity: v.exactOptional(
    v.pipe(IdentityBlock, v.description('The identity block in its images; left out where they have none')),
  ),
  versionText: v.exactOptional(
    v.pipe(
      v.array(
        text('A text of the image with its version: "FW v{version} ", with {hardware} where it stands there'),
      ),
      v.minLength(1),
      v.description('Texts that its images hold around their version, where no identity block says it'),
    ),
  ),
  version: v.strictObject({
    scheme: v.pipe(
      v.picklist(versionSchemes),
      v.description(
        'How versions are ordered. `dotted`: 1.9 before 1.10. `decimal`: 1.10 before 1.9. `semver`: Semantic Versioning 2.0.0. `date`. `lettered`: 4.07 before 4.07b. `line`: leading digits name the hardware line, the rest is dotted. `opaque`: equal or not, never older',
      ),
    ),
    downgrade: v.pipe(
      v.picklist(['refused', 'held', 'allowed']),
      v.description('What the unit does with an image older than its own; `held` asks a named person'),
    ),
  }),
  options: v.exactOptional(
    v.pipe(
      v.array(
        v.strictObject({
          bit: whole('Bit of the image’s `options` number'),
          id: slug('Short name'),
          name: text('What it turns on'),
        }),
      ),
      v.description('What an image of this component can be built with'),
    ),
  ),
  usualMs: v.exactOptional(amount('Usual time of a whole update of it, ms, where the link does not tell')),
})
export type Component = v.InferOutput<typeof Component>
/** A stretch of a component’s memory. */
export type Region = Component['memory']['regions'][number]
