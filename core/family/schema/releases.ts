import * as v from 'valibot'
import { slug, text, whole } from './fields'

/** One release that is known by its digest: what an image is that carries no label of its own. */
export const KnownRelease = v.strictObject({
  sha256: v.pipe(
    v.string(),
    v.trim(),
    v.regex(/^[0-9a-f]{64}$/, 'Write a SHA-256 as 64 hexadecimal digits in lower case'),
    v.description('SHA-256 of the file as it is handed out, or of the bytes it sets in memory'),
  ),
  version: text('The version it is'),
  component: v.exactOptional(slug('Component it is for; the only one when absent')),
  hardware: v.exactOptional(whole('Hardware major revision it is for; not told when absent')),
  date: v.exactOptional(
    v.pipe(v.string(), v.isoDate('Write a day as 2026-03-31'), v.description('Day it came out')),
  ),
  notes: v.exactOptional(text('What is new in it, what to mind')),
})
export type KnownRelease = v.InferOutput<typeof KnownRelease>

/** Releases that are known by their digest. */
export const KnownReleases = v.pipe(
  v.array(KnownRelease),
  v.description('Releases known by their digest, where images have no label inside'),
)
