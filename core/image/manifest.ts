import * as v from 'valibot'
import { Problem } from '../kernel'
import type { Family } from '../family'
import type { ImageIdentity } from './image-identity'

/*
 * A manifest by the information model of RFC 9124, as JSON of our own beside the images of a bundle. It says what the
 * image's bytes may not: vendor (section 3.3), class (3.4), precursor (3.5), required versions (3.6), sequence
 * number (3.2), component (3.11), digest (3.13), size (3.14). Section numbers from memory.
 */

const text = v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(400))
const uuid = v.pipe(
  v.string(),
  v.regex(/^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/, 'Write a UUID in lower case'),
)
const digest = v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/, 'Write a SHA-256 as 64 lower-case digits'))

/** A manifest by the information model of RFC 9124, as JSON of our own. */
export const Manifest = v.strictObject({
  format: v.literal('bench-wake/manifest'),
  formatVersion: v.literal(1),
  sequenceNumber: v.pipe(v.number(), v.integer(), v.minValue(0)),
  vendorId: v.exactOptional(uuid),
  classId: v.exactOptional(uuid),
  notes: v.exactOptional(v.pipe(v.string(), v.maxLength(20_000))),
  images: v.pipe(
    v.array(
      v.strictObject({
        file: text,
        component: text,
        digest: v.exactOptional(digest),
        size: v.exactOptional(v.pipe(v.number(), v.integer(), v.minValue(0))),
        version: v.exactOptional(text),
        precursorDigest: v.exactOptional(digest),
        requiresFrom: v.exactOptional(text),
        requiresBelow: v.exactOptional(text),
      }),
    ),
    v.minLength(1),
  ),
})
export type Manifest = v.InferOutput<typeof Manifest>
export type ManifestImage = Manifest['images'][number]

/**
 * Reads a note of a bundle as a manifest; null when it is none.
 * @throws Problem `manifest` when it says it is one and does not read.
 */
export function readManifest(note: string): Manifest | null {
  let document: unknown
  try {
    document = JSON.parse(note)
  } catch {
    return null
  }
  const marked =
    document !== null &&
    typeof document === 'object' &&
    (document as { format?: unknown }).format === 'bench-wake/manifest'
  if (!marked) return null
  const parsed = v.safeParse(Manifest, document)
  if (parsed.success) return parsed.output
  throw new Problem({
    kind: 'manifest',
    place: { at: v.getDotPath(parsed.issues[0]) ?? 'the document' },
    says: parsed.issues[0].message,
    remedy: 'Ask the supplier for a manifest that reads, or take the image without it.',
  })
}

/** What a manifest says of one file, as far as fit asks: kept with the image beside what its bytes say. */
export interface ManifestClaim {
  component: string
  sequence: number
  vendorId?: string
  classId?: string
  version?: string
  precursor?: string
  requiresFrom?: string
  requiresBelow?: string
}

/**
 * The claim for one file of a bundle; null when the manifest does not name it.
 * @throws Problem `manifest-digest`, `manifest-size` when the file is not the one that the manifest means.
 */
export function claimOf(
  manifest: Manifest,
  path: string,
  file: { sha256: string; size: number },
): ManifestClaim | null {
  const own = manifest.images.find((each) => path === each.file || path.endsWith(`/${each.file}`))
  if (!own) return null
  const refused = (kind: string, says: string, expected: string, found: string) =>
    new Problem({
      kind,
      thing: path,
      place: { at: 'manifest' },
      says,
      expected,
      found,
      remedy: 'Fetch the bundle again from where it came.',
    })
  if (own.digest !== undefined && own.digest !== file.sha256) {
    throw refused('manifest-digest', 'the file is not the one its manifest means', own.digest, file.sha256)
  }
  if (own.size !== undefined && own.size !== file.size) {
    throw refused(
      'manifest-size',
      'the file has another size than its manifest says',
      String(own.size),
      String(file.size),
    )
  }
  return {
    component: own.component,
    sequence: manifest.sequenceNumber,
    ...(manifest.vendorId ? { vendorId: manifest.vendorId } : {}),
    ...(manifest.classId ? { classId: manifest.classId } : {}),
    ...(own.version ? { version: own.version } : {}),
    ...(own.precursorDigest ? { precursor: own.precursorDigest } : {}),
    ...(own.requiresFrom ? { requiresFrom: own.requiresFrom } : {}),
    ...(own.requiresBelow ? { requiresBelow: own.requiresBelow } : {}),
  }
}

/**
 * Content first; the manifest fills what the content does not say, and tells whose an image is where the content does not:
 * by the class identifier of a profile.
 */
export function withClaim(
  identity: ImageIdentity | null,
  claim: ManifestClaim | null | undefined,
  families: readonly Pick<Family, 'id' | 'hardware' | 'components'>[] = [],
): ImageIdentity | null {
  if (!claim) return identity
  const { component, ...said } = claim
  if (identity) {
    const { version, sequence } = identity
    const filledBy = {
      ...identity.filledBy,
      ...(version === undefined && said.version !== undefined ? { version: 'manifest' as const } : {}),
      ...(sequence === undefined ? { sequence: 'manifest' as const } : {}),
    }
    return { ...said, ...identity, filledBy }
  }
  const own = families.filter(
    ({ hardware, components }) =>
      said.classId !== undefined &&
      hardware.classId === said.classId &&
      components.some(({ id }) => id === component),
  )
  return own.length === 1
    ? { familyId: own[0]!.id, componentId: component, toldBy: 'manifest', ...said }
    : null
}

/** Where content and manifest say different things, in words; such an image must not go on. */
export function disagreements(identity: ImageIdentity, claim: ManifestClaim): string[] {
  const pairs: [string, string | number | undefined, string | number | undefined][] = [
    ['component', identity.componentId, claim.component],
    ['version', identity.version, claim.version],
    ['sequence number', identity.sequence, claim.sequence],
    ['required version', identity.requiresFrom, claim.requiresFrom],
  ]
  return pairs.flatMap(([name, inside, said]) =>
    inside !== undefined && said !== undefined && inside !== said
      ? [`${name}: the bytes say ${inside}, the manifest says ${said}`]
      : [],
  )
}
