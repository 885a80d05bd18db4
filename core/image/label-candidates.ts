import { asciiBytes, asciiText } from '../kernel'
import { findBytes } from './find-bytes'
import { bytesAt, holdsRange, type MemoryMap } from './memory-map'

/** A way in which images of one kind may say their version, found by holding two of known versions side by side. */
export type LabelCandidate =
  | {
      kind: 'text'
      /** As `versionText` of a component takes it: "FW v{version} ". */
      template: string
      /** Where it stands in each. */
      addresses: [number, number]
    }
  | {
      kind: 'block'
      address: number
      magic: string
      /** Of the version, from the mark's first byte. */
      offset: number
      /** Bytes of the version's field, its end among them. */
      length: number
    }

/** An image and the version that a person knows it to be. */
export interface KnownVersion {
  memory: MemoryMap
  version: string
}

/** Characters before a version that are taken into the text; fewer than `minBefore` tell nothing. */
const maxBefore = 24
const minBefore = 4
/** Bytes before a version at the same address in which a mark of a block is looked for. */
const markReach = 64
const maxCandidates = 12

/**
 * What could be the label of images like these two: a text around their versions, or a block at the same address in both.
 * Texts that stand at the same address in both come first.
 */
export function labelCandidates(first: KnownVersion, second: KnownVersion): LabelCandidate[] {
  const [a, b] = [first.version.trim(), second.version.trim()]
  if (a === '' || b === '' || a === b) return []
  const texts = new Map<string, LabelCandidate & { kind: 'text' }>()
  const blocks = new Map<string, LabelCandidate & { kind: 'block' }>()
  const inSecond = findBytes(second.memory, asciiBytes(b), 400)
  for (const address of findBytes(first.memory, asciiBytes(a), 400)) {
    for (const other of inSecond) {
      const text = textAround(first.memory, address, a, second.memory, other, b)
      if (text !== null && (!texts.has(text) || address === other))
        texts.set(text, { kind: 'text', template: text, addresses: [address, other] })
      if (address !== other) continue
      const block = blockBefore(first.memory, second.memory, address, a, b)
      if (block) blocks.set(block.magic, block)
    }
  }
  const sameFirst = [...texts.values()].sort(
    (x, y) =>
      Number(y.addresses[0] === y.addresses[1]) - Number(x.addresses[0] === x.addresses[1]) ||
      y.template.length - x.template.length,
  )
  return [...sameFirst, ...blocks.values()].slice(0, maxCandidates)
}

/** What stands alike before both versions, and the character after them; null where too little does. */
function textAround(
  first: MemoryMap,
  at: number,
  a: string,
  second: MemoryMap,
  other: number,
  b: string,
): string | null {
  let before = ''
  while (before.length < maxBefore) {
    const [one, two] = [charAt(first, at - before.length - 1), charAt(second, other - before.length - 1)]
    if (one === null || one !== two || one === '{' || one === '}') break
    before = one + before
  }
  if (before.trim().length < minBefore) return null
  const [one, two] = [charAt(first, at + a.length), charAt(second, other + b.length)]
  // A version that goes on is another version.
  if (/[0-9a-z]/i.test(one ?? '') || /[0-9a-z]/i.test(two ?? '')) return null
  return `${before}{version}${one !== null && one === two && one !== '{' && one !== '}' ? one : ''}`
}

/** A mark that stands alike at the same address before both versions, as a block has one. */
function blockBefore(
  first: MemoryMap,
  second: MemoryMap,
  at: number,
  a: string,
  b: string,
): (LabelCandidate & { kind: 'block' }) | null {
  // A field of a block ends at zero.
  const ends = (memory: MemoryMap, address: number) =>
    holdsRange(memory, address, 1) && byteAt(memory, address) === 0
  if (!ends(first, at + a.length) || !ends(second, at + b.length)) return null
  for (let back = minBefore; back <= markReach; back++) {
    const magic = markAt(first, at - back, back)
    if (magic === null || magic !== markAt(second, at - back, back)) continue
    let length = Math.max(a.length, b.length) + 1
    while (length < 32 && ends(first, at + length) && ends(second, at + length)) length++
    return { kind: 'block', address: at - back, magic, offset: back, length }
  }
  return null
}

/** The letters and digits that begin at an address where none stands before them; null for fewer than four. */
function markAt(memory: MemoryMap, address: number, max: number): string | null {
  if (charAt(memory, address - 1) !== null) return null
  let mark = ''
  while (mark.length < Math.min(max, 16)) {
    const letter = charAt(memory, address + mark.length)
    if (letter === null || !/[\x21-\x7e]/.test(letter)) break
    mark += letter
  }
  return mark.length >= minBefore ? mark : null
}

const byteAt = (memory: MemoryMap, address: number): number => bytesAt(memory, address, 1, 0xff)[0]!

/** The printable character at an address; null for any other byte and for a gap. */
function charAt(memory: MemoryMap, address: number): string | null {
  if (address < 0 || !holdsRange(memory, address, 1)) return null
  const byte = byteAt(memory, address)
  return byte >= 0x20 && byte <= 0x7e ? asciiText(Uint8Array.of(byte)) : null
}
