/** Bits that the seed was turned by where a profile gave its secret alone. */
const turnedBy = 7

/**
 * Carries a profile document of an earlier form over into today's, before it is checked; a document that has nothing of
 * the kind comes back as it is. Until security access had its steps, a link gave one `secret`, and the key was the seed
 * turned left by seven bits and mixed with it.
 */
export function carryOver(document: unknown): unknown {
  if (!isRecord(document) || !Array.isArray(document['links'])) return document
  const links = document['links'] as unknown[]
  if (!links.some(hasSecret)) return document
  return { ...document, links: links.map((link) => (hasSecret(link) ? withSteps(link) : link)) }
}

type Fields = Record<string, unknown>
const isRecord = (value: unknown): value is Fields =>
  typeof value === 'object' && value !== null && !Array.isArray(value)
const hasSecret = (link: unknown): link is { drive: Fields } =>
  isRecord(link) && isRecord(link['drive']) && 'secret' in link['drive'] && !('key' in link['drive'])

function withSteps(link: { drive: Fields }): unknown {
  const { secret, ...drive } = link.drive
  const key = [
    { do: 'rotate', left: turnedBy },
    { do: 'xor', by: secret },
  ]
  return { ...link, drive: { ...drive, key } }
}
