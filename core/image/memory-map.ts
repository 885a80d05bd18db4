import { sha256OfParts } from '../kernel'

/*
 * An image is a handful of pieces scattered over a large address space: vectors here, program there, a
 * calibration page at the far end. An array from the first byte to the last would be mostly made up, and what
 * is made up would be written. So an image is kept as what it says and nothing else: sorted, disjoint,
 * non-touching segments.
 */

/** A stretch of an image: its bytes from an address on. */
export interface Segment {
  address: number
  bytes: Uint8Array
}

/** Segments in rising order of address, disjoint, with a gap between any two. */
export type MemoryMap = readonly Segment[]

/** Bytes the image holds. */
export function byteCount(memory: MemoryMap): number {
  return memory.reduce((sum, segment) => sum + segment.bytes.length, 0)
}

/** The ranges it sets, without their bytes. */
export function rangesOf(memory: MemoryMap): { address: number; length: number }[] {
  return memory.map(({ address, bytes }) => ({ address, length: bytes.length }))
}

/** First address and the one after the last; null for an empty map. */
export function spanOf(memory: MemoryMap): { from: number; to: number } | null {
  const first = memory[0]
  const last = memory[memory.length - 1]
  return first && last ? { from: first.address, to: last.address + last.bytes.length } : null
}

/**
 * The bytes from `address` on, gaps filled with `fill`. Returns a view where one segment holds it all, else a copy.
 */
export function bytesAt(memory: MemoryMap, address: number, length: number, fill: number): Uint8Array {
  const end = address + length
  const inside = segmentsWithin(memory, address, length)
  const only = inside[0]
  if (only && inside.length === 1 && only.address <= address && end <= only.address + only.bytes.length) {
    return only.bytes.subarray(address - only.address, end - only.address)
  }
  const bytes = new Uint8Array(length).fill(fill)
  for (const segment of inside) {
    const from = Math.max(address, segment.address)
    const to = Math.min(end, segment.address + segment.bytes.length)
    bytes.set(segment.bytes.subarray(from - segment.address, to - segment.address), from - address)
  }
  return bytes
}

/** True when every byte of the range is in the image. */
export function holdsRange(memory: MemoryMap, address: number, length: number): boolean {
  return memory.some(
    (segment) => segment.address <= address && address + length <= segment.address + segment.bytes.length,
  )
}

/** The segments that share at least a byte with the range. */
export function segmentsWithin(memory: MemoryMap, address: number, length: number): Segment[] {
  return memory.filter(
    (segment) => segment.address < address + length && address < segment.address + segment.bytes.length,
  )
}

/**
 * SHA-256 of what the image says, whatever file format said it: each segment as its address and length (32 bit,
 * big endian) followed by its bytes. Two files with this digest are one image with two names (PRACTICE B2).
 */
export function contentDigest(memory: MemoryMap): string {
  return sha256OfParts(
    (function* () {
      for (const { address, bytes } of memory) {
        const head = new DataView(new ArrayBuffer(8))
        head.setUint32(0, address)
        head.setUint32(4, bytes.length)
        yield new Uint8Array(head.buffer)
        yield bytes
      }
    })(),
  )
}
