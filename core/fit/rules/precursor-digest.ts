import type { FitRule } from '../question'

/** Hexadecimal digits that tell one image from another: 32 bits. */
const minDigits = 8

/** RFC 9124, section 3.5 (from memory), precursor image digest: the very bytes that must be on the unit before. */
export const precursorDigest: FitRule = {
  id: 'precursor-digest',
  judge({ component, unit, image: { identity } }) {
    const wanted = identity?.precursor
    if (wanted === undefined) return null
    const present = unit.digests?.[component.id]
    // Fewer digits than these would fit many an image; none at all would fit every one.
    if (present === undefined || present.length < minDigits) {
      return {
        level: 'hold',
        says: 'The image goes on one certain image only, and what is on the unit is not known.',
        because: `It asks for the one with digest ${wanted.slice(0, 16)}….`,
        remedy: 'Read the unit’s digest, or put the full image on it instead.',
      }
    }
    const length = Math.min(wanted.length, present.length)
    return wanted.slice(0, length) === present.slice(0, length)
      ? {
          level: 'go',
          says: 'The unit holds the very image that this one goes on.',
          because: `Digest ${present.slice(0, 16)}….`,
        }
      : {
          level: 'stop',
          says: 'The unit holds another image than this one goes on.',
          because: `It asks for digest ${wanted.slice(0, 16)}…; the unit has ${present.slice(0, 16)}….`,
          remedy: 'Put the image on first that this one was made for, or take the full image.',
        }
  },
}
