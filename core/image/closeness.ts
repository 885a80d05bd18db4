import { crc32 } from '../kernel'
import type { MemoryMap } from './memory-map'

/*
 * How close two images are, block by block: two builds of one program share most of their bytes, but a few inserted
 * at the front move everything behind. So blocks are not cut at fixed places but where the bytes themselves say so
 * (content-defined chunking; Muthitacharoen, Chen, Mazières, "A Low-bandwidth Network File System", SOSP 2001, §3.1,
 * with a gear hash instead of Rabin's). An inserted byte then changes the block around it and no other.
 */

/** Digests of an image's blocks with their lengths, side by side: digest, length, digest, length … */
export type BlockSketch = Uint32Array

const minBlock = 256
const maxBlock = 4096
/** A boundary every 1 024 bytes on average. */
const mask = 0x3ff << 14

/** Gear table: 256 fixed random words (xorshift32, Marsaglia 2003). */
const gear = Uint32Array.from(
  (function* () {
    let state = 0x9e3779b9
    for (let index = 0; index < 256; index++) {
      state ^= state << 13
      state ^= state >>> 17
      state ^= state << 5
      yield state >>> 0
    }
  })(),
)

/** Cuts an image into blocks; stretches of one repeated value count for nothing, since every image has them. */
export function sketchOf(memory: MemoryMap): BlockSketch {
  const sketch: number[] = []
  for (const { bytes } of memory) {
    let from = 0
    let hash = 0
    for (let at = 0; at < bytes.length; at++) {
      hash = ((hash << 1) + gear[bytes[at]!]!) | 0
      const length = at + 1 - from
      if (length < minBlock) continue
      if ((hash & mask) !== 0 && length < maxBlock && at + 1 < bytes.length) continue
      add(sketch, bytes.subarray(from, at + 1))
      from = at + 1
      hash = 0
    }
    if (from < bytes.length) add(sketch, bytes.subarray(from))
  }
  return Uint32Array.from(sketch)
}

function add(sketch: number[], block: Uint8Array): void {
  const first = block[0]!
  if (block.every((byte) => byte === first)) return
  sketch.push(crc32(block), block.length)
}

/** Share of the smaller image's bytes whose blocks the other has too, 0 to 1. */
export function closeness(first: BlockSketch, second: BlockSketch): number {
  const [small, large] = bytesIn(first) <= bytesIn(second) ? [first, second] : [second, first]
  const total = bytesIn(small)
  if (total === 0) return 0
  const known = new Set<number>()
  for (let at = 0; at < large.length; at += 2) known.add(large[at]!)
  let shared = 0
  for (let at = 0; at < small.length; at += 2) if (known.has(small[at]!)) shared += small[at + 1]!
  return shared / total
}

function bytesIn(sketch: BlockSketch): number {
  let sum = 0
  for (let at = 1; at < sketch.length; at += 2) sum += sketch[at]!
  return sum
}
