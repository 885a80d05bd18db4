import { convertVersion1 } from './convert'

/**
 * Carries a profile document of an earlier format version over into today's, before it is checked; any other comes back as
 * it is.
 */
export function inTodaysForm(document: unknown): unknown {
  const isObject = typeof document === 'object' && document !== null && !Array.isArray(document)
  if (!isObject || !('formatVersion' in document) || document.formatVersion !== 1) return document
  return convertVersion1(document as Record<string, unknown>)
}
