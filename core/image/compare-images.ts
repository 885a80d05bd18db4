import { spanOf, type MemoryMap } from './memory-map'

/** A stretch in which two images differ. */
export interface ImageDifference {
  address: number
  length: number
  /** `changed`: other bytes; `only-first`, `only-second`: one of them sets nothing there. */
  kind: 'changed' | 'only-first' | 'only-second'
  /** Bytes within the stretch that differ. */
  bytes: number
}

/** How two images differ, counted in bytes. */
export interface ImageComparison {
  same: boolean
  /** Bytes set by both and equal. */
  equalBytes: number
  changedBytes: number
  onlyFirstBytes: number
  onlySecondBytes: number
  /** Lowest address first, at most `maxDifferences`. */
  differences: ImageDifference[]
  /** Stretches beyond those listed. */
  more: number
}

/** Differing stretches that are listed; what is beyond is counted only. */
export const maxDifferences = 2000
/** Equal bytes between two changes that still count as one stretch, for a person's eyes. */
const bridge = 8

/** Compares two images address by address. */
export function compareImages(first: MemoryMap, second: MemoryMap): ImageComparison {
  const result: ImageComparison = {
    same: false,
    equalBytes: 0,
    changedBytes: 0,
    onlyFirstBytes: 0,
    onlySecondBytes: 0,
    differences: [],
    more: 0,
  }
  let open: ImageDifference | undefined
  const put = (difference: ImageDifference) => {
    if (
      open?.kind === difference.kind &&
      difference.address <= open.address + open.length + (difference.kind === 'changed' ? bridge : 0)
    ) {
      open.length = difference.address + difference.length - open.address
      open.bytes += difference.bytes
      return
    }
    open = difference
    if (result.differences.length < maxDifferences) result.differences.push(difference)
    else result.more++
  }
  for (const { from, to } of stretches(first, second)) {
    const a = at(first, from)
    const b = at(second, from)
    const length = to - from
    if (a && b) {
      const [one, two] = [
        a.bytes.subarray(from - a.address, to - a.address),
        b.bytes.subarray(from - b.address, to - b.address),
      ]
      for (let index = 0; index < length;) {
        if (one[index] === two[index]) {
          index++
          continue
        }
        let end = index + 1
        while (end < length && one[end] !== two[end]) end++
        put({ address: from + index, length: end - index, kind: 'changed', bytes: end - index })
        result.changedBytes += end - index
        index = end
      }
    } else if (a) {
      put({ address: from, length, kind: 'only-first', bytes: length })
      result.onlyFirstBytes += length
    } else if (b) {
      put({ address: from, length, kind: 'only-second', bytes: length })
      result.onlySecondBytes += length
    }
    if (a && b) result.equalBytes += length
  }
  result.equalBytes -= result.changedBytes
  result.same = result.changedBytes + result.onlyFirstBytes + result.onlySecondBytes === 0
  return result
}

/** The address line cut wherever a segment of either begins or ends. */
function stretches(first: MemoryMap, second: MemoryMap): { from: number; to: number }[] {
  const cuts = new Set<number>()
  for (const memory of [first, second]) {
    if (!spanOf(memory)) continue
    for (const { address, bytes } of memory) {
      cuts.add(address)
      cuts.add(address + bytes.length)
    }
  }
  const sorted = [...cuts].sort((a, b) => a - b)
  return sorted.slice(1).map((to, index) => ({ from: sorted[index]!, to }))
}

/** The segment that holds an address; segments are sorted, so by halving. */
function at(memory: MemoryMap, address: number) {
  let [low, high] = [0, memory.length - 1]
  while (low <= high) {
    const middle = (low + high) >> 1
    const segment = memory[middle]!
    if (address < segment.address) high = middle - 1
    else if (address >= segment.address + segment.bytes.length) low = middle + 1
    else return segment
  }
  return undefined
}
