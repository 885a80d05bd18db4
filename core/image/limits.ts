import { bytesText, Problem } from '../kernel'

/** No image file of this trade is larger; what is, is something else. */
export const maxFileBytes = 256 * 1024 * 1024
/** Pieces an image may consist of; real ones have a handful, a hostile one a million. */
export const maxSegments = 65_536

/** @throws Problem `too-large`. */
export function refuseTooLarge(size: number): void {
  if (size <= maxFileBytes) return
  throw new Problem({
    kind: 'too-large',
    place: { offset: maxFileBytes },
    says: 'the file is larger than any image',
    expected: `at most ${bytesText(maxFileBytes)}`,
    found: bytesText(size),
    remedy: 'Take the image alone, without pictures and films.',
  })
}
