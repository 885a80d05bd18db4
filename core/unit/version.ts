/** How versions are ordered; the family's profile says which (PRACTICE A1, B1). */
export type VersionScheme = 'dotted' | 'opaque'

/** How the first stands to the second. */
export type VersionOrder = 'older' | 'same' | 'newer' | 'not-comparable'

/**
 * Compares two versions under a scheme.
 * - `dotted`: integers between dots, so 1.9 is older than 1.10; a missing part counts as 0; anything else
 *   than digits and dots is not comparable.
 * - `opaque`: equal texts are the same, others are not comparable. Nothing is guessed.
 */
export function compareVersions(scheme: VersionScheme, first: string, second: string): VersionOrder {
  if (first.trim() === second.trim()) return 'same'
  if (scheme === 'opaque') return 'not-comparable'
  const a = dottedParts(first)
  const b = dottedParts(second)
  if (!a || !b) return 'not-comparable'
  for (let index = 0; index < Math.max(a.length, b.length); index++) {
    const difference = (a[index] ?? 0) - (b[index] ?? 0)
    if (difference !== 0) return difference < 0 ? 'older' : 'newer'
  }
  return 'same'
}

function dottedParts(version: string): number[] | null {
  if (!/^\d{1,9}(\.\d{1,9})*$/.test(version.trim())) return null
  return version.trim().split('.').map(Number)
}
