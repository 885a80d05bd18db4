import type { Family } from '../family'
import type { ImageIdentity } from './image-identity'

/** By its digest in a profile's list of known releases. @param digests SHA-256 of the file, and of what it sets in memory. */
export function byRelease(digests: readonly string[], families: readonly Family[]): ImageIdentity | null {
  if (digests.length === 0) return null
  for (const { id, components, releases = [] } of families) {
    const release = releases.find(({ sha256 }) => digests.includes(sha256))
    if (!release) continue
    const { component = components[0]!.id, version, hardware, date } = release
    return {
      familyId: id,
      componentId: component,
      toldBy: 'release',
      version,
      ...(hardware === undefined ? {} : { hardwareMajor: hardware }),
      ...(date === undefined ? {} : { buildTime: Date.parse(date) }),
    }
  }
  return null
}
