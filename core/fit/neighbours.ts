import type { ImageIdentity } from '../image'
import type { ShelfNeighbours } from './judge-image'

/** What a look along the shelf has to know of an image. */
export interface OnShelf {
  id: string
  /** Every name it came under, oldest first. */
  names: readonly string[]
  identity: ImageIdentity | null
}

/** `update (2).hex`, `update(1).hex` and `update - copy.hex` are downloads of `update.hex` (PRACTICE B2). */
export function plainName(name: string): string {
  return name
    .toLowerCase()
    .replace(/(?:\s*\(\d{1,3}\)|\s*-\s*copy(?:\s*\(\d{1,3}\))?)(?=(?:\.[a-z0-9]{1,5})?$)/, '')
    .trim()
}

/**
 * Looks along the whole shelf once: who has the same name with a number after it, and who says the same version
 * with other bytes. One row an image, by id.
 */
export function neighboursOf(images: readonly OnShelf[]): Map<string, ShelfNeighbours> {
  const byName = new Map<string, OnShelf[]>()
  const byVersion = new Map<string, OnShelf[]>()
  const put = (map: Map<string, OnShelf[]>, key: string, image: OnShelf) => {
    const list = map.get(key)
    if (!list) map.set(key, [image])
    else if (list.at(-1) !== image) list.push(image)
  }
  for (const image of images) {
    for (const name of image.names) put(byName, plainName(name), image)
    const key = versionKey(image.identity)
    if (key !== undefined) put(byVersion, key, image)
  }
  return new Map(
    images.map((image) => {
      const others = (list: readonly OnShelf[] | undefined) =>
        (list ?? []).filter(({ id }) => id !== image.id).map(({ names }) => names[0] ?? 'an image')
      const key = versionKey(image.identity)
      return [
        image.id,
        {
          otherNames: image.names.slice(1),
          twins: [...new Set(image.names.flatMap((name) => others(byName.get(plainName(name)))))],
          sameVersion: key === undefined ? [] : others(byVersion.get(key)),
        },
      ]
    }),
  )
}

/** All that tells one release of one build from another; undefined where the image does not say its version. */
function versionKey(identity: ImageIdentity | null): string | undefined {
  if (identity?.version === undefined) return undefined
  const { familyId, componentId, deviceIdentifier, hardwareMajor, model, version } = identity
  const { variant, options, serial, layout, release } = identity
  return JSON.stringify([
    familyId,
    componentId,
    deviceIdentifier,
    hardwareMajor,
    model,
    version,
    variant,
    options,
    serial,
    layout,
    release,
  ])
}
