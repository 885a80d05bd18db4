import type { MemoryMap } from './memory-map'

/** Addresses at which the bytes stand, lowest first, at most `most`; a match does not cross a gap. */
export function findBytes(memory: MemoryMap, wanted: Uint8Array, max = 100, from = 0): number[] {
  const found: number[] = []
  const first = wanted[0]
  if (first === undefined) return found
  for (const { address, bytes } of memory) {
    let at = Math.max(0, from - address)
    for (;;) {
      at = bytes.indexOf(first, at)
      if (at < 0 || at + wanted.length > bytes.length) break
      let same = 1
      while (same < wanted.length && bytes[at + same] === wanted[same]) same++
      if (same === wanted.length) {
        found.push(address + at)
        if (found.length >= max) return found
      }
      at++
    }
  }
  return found
}
