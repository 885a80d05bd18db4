/**
 * JSON with sorted keys and no white space, so that equal values give equal text and so equal digests
 * (the idea of RFC 8785; numbers and strings are written as JSON.stringify writes them, as it asks).
 * Members that are undefined are left out.
 */
export function canonicalJson(value: unknown): string {
  if (value === null || typeof value !== 'object') return JSON.stringify(value) ?? 'null'
  if (Array.isArray(value)) return `[${value.map(canonicalJson).join(',')}]`
  const members = Object.entries(value)
    .filter(([, member]) => member !== undefined)
    .sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0))
    .map(([key, member]) => `${JSON.stringify(key)}:${canonicalJson(member)}`)
  return `{${members.join(',')}}`
}
