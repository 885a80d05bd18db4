import { addressText, concatBytes, Problem } from '../kernel'
import { maxSegments } from './limits'
import type { MemoryMap, Segment } from './memory-map'

/** Bytes that a file puts at an address, with the place in the file that says so. */
export interface Piece {
  address: number
  bytes: Uint8Array
  /** Line (text files) or byte offset (binary files) of the piece. */
  place: { line?: number; offset?: number; at?: string }
}

/**
 * Sorts pieces by address and joins those that touch into segments.
 * @throws Problem `<kind>-overlap` when two pieces set the same address; `<kind>-range` past 32 bits.
 */
export function layOut(pieces: readonly Piece[], kind: string): MemoryMap {
  const sorted = pieces.filter(({ bytes }) => bytes.length > 0)
  let rising = true
  for (let at = 1; at < sorted.length && rising; at++) rising = sorted[at]!.address >= sorted[at - 1]!.address
  if (!rising) sorted.sort((a, b) => a.address - b.address)
  const segments: Segment[] = []
  for (let from = 0; from < sorted.length;) {
    const first = sorted[from]!
    let end = first.address + first.bytes.length
    let to = from + 1
    for (; to < sorted.length && sorted[to]!.address <= end; to++) {
      const piece = sorted[to]!
      if (piece.address < end) throw overlap(piece, kind)
      end = piece.address + piece.bytes.length
    }
    if (end > 0x1_0000_0000) throw pastEnd(sorted[to - 1]!, kind)
    const parts = sorted.slice(from, to)
    segments.push({
      address: first.address,
      bytes: parts.length === 1 ? first.bytes : concatBytes(parts.map(({ bytes }) => bytes)),
    })
    if (segments.length > maxSegments) throw shattered(sorted[to - 1]!, kind)
    from = to
  }
  return segments
}

function overlap(piece: Piece, kind: string): Problem {
  return new Problem({
    kind: `${kind}-overlap`,
    place: piece.place,
    says: `the byte at ${addressText(piece.address)} is set twice`,
    expected: 'every address set once',
    found: `a second piece at ${addressText(piece.address)}`,
    remedy: 'Two images were put into one file. Fetch them apart.',
  })
}

function pastEnd(piece: Piece, kind: string): Problem {
  return new Problem({
    kind: `${kind}-range`,
    place: piece.place,
    says: 'the data runs past the end of 32-bit memory',
    expected: 'addresses up to 0xFFFFFFFF',
    found: `${piece.bytes.length} bytes at ${addressText(piece.address)}`,
    remedy: 'The file is damaged or for another kind of processor. Fetch it again.',
  })
}

function shattered(piece: Piece, kind: string): Problem {
  return new Problem({
    kind: `${kind}-shattered`,
    place: piece.place,
    says: `the file sets more than ${maxSegments} separate pieces`,
    expected: 'a handful of ranges, as a linker lays them',
    remedy: 'This is not an image for a processor. Fetch it again from where it came.',
  })
}
