import type { DfuSuffix, ImageFormat, ReadImage } from '@bench-wake/core/image'

/** A file of an archive: an image on the shelf, a note to read, or something else and why it is none. */
export interface BundleRow {
  path: string
  size: number
  imageId?: string
  note?: string
  other?: string
}

/** What reading an image's bytes told, whatever the profiles say of it. */
export interface ImageFacts {
  format: ImageFormat
  segments: { address: number; length: number }[]
  placed: ReadImage['placed']
  /** First byte of a plain binary, which carries no address of its own. */
  address?: number
  header?: string
  dfu?: DfuSuffix
  uf2Family?: number
}
