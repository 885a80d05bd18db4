import type { EraseType } from './commands'

/** A block to erase. */
export interface EraseBlock extends EraseType {
  address: number
}

/** Usual times of blocks where nobody tells them (from memory, many sheets): a block of 4 KiB 45 ms, of 64 KiB 150 ms. */
export const usualEraseMs = ({ bytes, usualMs }: Pick<EraseType, 'bytes' | 'usualMs'>): number =>
  usualMs ?? (bytes <= 4096 ? 45 : bytes <= 32_768 ? 120 : (150 * bytes) / 65_536)

/**
 * The blocks that erase a range in the least time: large ones where they lie whole within what has to go anyway, small ones
 * at the edges. Every block lies at a multiple of its size.
 * @returns blocks in the order of their addresses; nothing for an empty range.
 */
export function planErase(
  { address, length }: { address: number; length: number },
  types: readonly EraseType[],
): EraseBlock[] {
  const unit = Math.min(...types.map(({ bytes }) => bytes))
  const first = Math.floor(address / unit)
  const last = Math.ceil((address + length) / unit)
  if (length <= 0) return []
  const count = last - first
  /** Least time from a unit to the end, and the type that it begins with. */
  const least = new Float64Array(count + 1).fill(Infinity)
  const choice = new Uint8Array(count)
  least[count] = 0
  for (let at = count - 1; at >= 0; at--) {
    types.forEach((type, index) => {
      const units = type.bytes / unit
      if ((first + at) % units !== 0 || at + units > count) return
      const ms = usualEraseMs(type) + least[at + units]!
      if (ms < least[at]!) {
        least[at] = ms
        choice[at] = index
      }
    })
  }
  const blocks: EraseBlock[] = []
  for (let at = 0; at < count;) {
    const type = types[choice[at]!]!
    blocks.push({ ...type, address: (first + at) * unit })
    at += type.bytes / unit
  }
  return blocks
}
