import type { MemoryMap } from './memory-map'

/*
 * A hex view is rows of sixteen bytes, aligned to sixteen, with one row for each gap. Sixty-four megabytes are four
 * million rows; so rows are not made but found: which segment a row falls into is looked up, and only the rows that
 * are seen are read.
 */

/** Bytes of a row of the hex view. */
export const rowBytes = 16

/** Where a segment's rows begin. */
interface RowBlock {
  firstRow: number
  rows: number
  /** Address of its first row, a multiple of sixteen. */
  from: number
  address: number
  length: number
  /** Index of the segment. */
  segment: number
}

/** Which rows a hex view has: blocks of bytes, and one row for each gap. */
export interface HexLayout {
  /** All rows, those of gaps included. */
  rows: number
  blocks: RowBlock[]
}

/** A row of bytes, or the row that stands for a gap. */
export type HexRow =
  | { kind: 'bytes'; address: number; bytes: (number | null)[] }
  | { kind: 'gap'; address: number; length: number }

/** Lays out the rows of an image: those of each segment, and one for every gap between two. */
export function hexLayout(memory: MemoryMap): HexLayout {
  const blocks: RowBlock[] = []
  let next = 0
  memory.forEach(({ address, bytes }, segment) => {
    if (segment > 0) next++
    const from = Math.floor(address / rowBytes) * rowBytes
    const rows = Math.ceil((address + bytes.length - from) / rowBytes)
    blocks.push({ firstRow: next, rows, from, address, length: bytes.length, segment })
    next += rows
  })
  return { rows: next, blocks }
}

/** The row in which an address stands; the gap's row for one that no segment sets, the nearest outside of all. */
export function rowOf({ blocks, rows }: HexLayout, address: number): number {
  let [low, high] = [0, blocks.length - 1]
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if (blocks[middle]!.address <= address) low = middle
    else high = middle - 1
  }
  const block = blocks[low]
  if (!block || address < block.address) return 0
  const row = block.firstRow + Math.floor((address - block.from) / rowBytes)
  return Math.min(row, block.firstRow + block.rows, Math.max(0, rows - 1))
}

/** `count` rows from `first` on; fewer at the end. A byte that the image does not set is null. */
export function rowsAt(
  memory: MemoryMap,
  { blocks, rows }: HexLayout,
  first: number,
  count: number,
): HexRow[] {
  const found: HexRow[] = []
  let at = 0
  for (let row = Math.max(0, first); row < Math.min(rows, first + count); row++) {
    while (at < blocks.length - 1 && blocks[at + 1]!.firstRow <= row) at++
    const block = blocks[at]!
    const inside = row - block.firstRow
    if (inside >= block.rows) {
      const end = block.address + block.length
      found.push({ kind: 'gap', address: end, length: blocks[at + 1]!.address - end })
      continue
    }
    const address = block.from + inside * rowBytes
    const { bytes } = memory[block.segment]!
    found.push({
      kind: 'bytes',
      address,
      bytes: Array.from({ length: rowBytes }, (_, place) => bytes[address + place - block.address] ?? null),
    })
  }
  return found
}

/**
 * What a person typed into a search: bytes ("DE AD be ef", "0xDEAD") or, in quotes or otherwise, a text.
 * @returns null for nothing to look for.
 */
export function wantedBytes(typed: string): Uint8Array | null {
  const text = typed.trim()
  if (text === '') return null
  const digits = text.replace(/^0x/i, '').replace(/[\s,:]/g, '')
  const quoted = /^"(.*)"$/.exec(text)
  if (!quoted && /^([0-9a-f]{2})+$/i.test(digits)) {
    return Uint8Array.from(digits.match(/../g)!, (pair) => parseInt(pair, 16))
  }
  return Uint8Array.from(quoted?.[1] ?? text, (letter) => letter.charCodeAt(0) & 0xff)
}
