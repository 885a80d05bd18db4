import { hexNumber, Problem } from '../kernel'
import { layOut, type Piece } from './lay-out'
import type { MemoryMap } from './memory-map'

/*
 * UF2, "USB Flashing Format" (the open format description): blocks of 512 bytes, each with three magic numbers,
 * flags, target address, payload size (at most 476), number of the block and of all blocks, and the family of the
 * processor. A file may hold several families after each other; each counts its own blocks.
 */

const magic = [0x0a324655, 0x9e5d5157, 0x0ab16f30] as const
const flags = { notMainFlash: 0x1, fileContainer: 0x1000, familyPresent: 0x2000 } as const
/** Payload of a written block; readers take any up to 476. */
const written = 256

/** A stretch of one family in a UF2 file. */
export interface Uf2Part {
  /** Family of the processor; absent when the blocks name none. */
  family?: number
  memory: MemoryMap
}

/** What a UF2 file says: memory, by families where it carries several. */
export interface Uf2 {
  parts: Uf2Part[]
  /** Blocks that are not for the main flash, passed over as the format orders. */
  notMainFlash: number
}

/**
 * Reads a UF2 file. Blocks may come in any order within the file; one missing or doubled is refused.
 * @throws Problem of kind `uf2-…` with the block and its byte offset.
 */
export function readUf2(file: Uint8Array): Uf2 {
  if (file.length === 0 || file.length % 512 !== 0) {
    throw bad(
      'length',
      file.length - (file.length % 512),
      'the last block is cut off',
      'blocks of 512 bytes',
      `${file.length % 512} bytes over`,
    )
  }
  const view = new DataView(file.buffer, file.byteOffset, file.byteLength)
  const word = (at: number) => view.getUint32(at, true)
  const groups = new Map<number | undefined, { total: number; pieces: Piece[]; seen: Uint8Array }>()
  let notMainFlash = 0
  for (let at = 0; at < file.length; at += 512) {
    if (word(at) !== magic[0] || word(at + 4) !== magic[1] || word(at + 508) !== magic[2]) {
      throw bad(
        'magic',
        at,
        'this block does not carry the format’s marks',
        hexNumber(magic[0], 8),
        hexNumber(word(at), 8),
      )
    }
    const [flag, address, size, number, total] = [
      word(at + 8),
      word(at + 12),
      word(at + 16),
      word(at + 20),
      word(at + 24),
    ]
    if (flag & (flags.notMainFlash | flags.fileContainer)) {
      notMainFlash++
      continue
    }
    if (size === 0 || size > 476)
      throw bad('payload', at + 16, 'the payload’s size is impossible', '1 to 476', String(size))
    if (total === 0 || total > file.length / 512) {
      throw bad(
        'missing',
        at + 24,
        'blocks are missing',
        `${total} blocks`,
        `${file.length / 512} in the file`,
      )
    }
    if (number >= total)
      throw bad('number', at + 20, 'the block’s number is past the last', `below ${total}`, String(number))
    const family = flag & flags.familyPresent ? word(at + 28) : undefined
    const group = groups.get(family) ?? { total, pieces: [], seen: new Uint8Array(total) }
    groups.set(family, group)
    if (group.total !== total)
      throw bad('total', at + 24, 'blocks disagree on how many there are', String(group.total), String(total))
    if (group.seen[number])
      throw bad(
        'duplicate',
        at + 20,
        `block ${number} is there twice`,
        'each block once',
        `a second block ${number}`,
      )
    group.seen[number] = 1
    group.pieces.push({
      address,
      bytes: file.subarray(at + 32, at + 32 + size),
      place: { offset: at, at: `block ${number}` },
    })
  }
  const parts: Uf2Part[] = []
  for (const [family, { total, pieces, seen }] of groups) {
    if (pieces.length !== total) {
      throw bad(
        'missing',
        file.length,
        `block ${seen.indexOf(0)} is missing`,
        `${total} blocks`,
        `${pieces.length}`,
      )
    }
    parts.push({ memory: layOut(pieces, 'uf2'), ...(family === undefined ? {} : { family }) })
  }
  if (parts.length === 0) throw bad('empty', 0, 'no block is for the main flash', 'at least one', 'none')
  return { parts, notMainFlash }
}

const blockBytes = 512

/** Writes a memory map as UF2 in blocks of 256 bytes. */
export function writeUf2(memory: MemoryMap, family?: number): Uint8Array {
  const blocks = [...uf2Blocks(memory, family)]
  const file = new Uint8Array(blocks.length * blockBytes)
  blocks.forEach((block, number) => file.set(block, number * blockBytes))
  return file
}

/** The same block by block, 512 bytes each. */
export function* uf2Blocks(memory: MemoryMap, family?: number): Generator<Uint8Array> {
  const total = memory.reduce((sum, { bytes }) => sum + Math.ceil(bytes.length / written), 0)
  let number = 0
  for (const { address, bytes } of memory) {
    for (let from = 0; from < bytes.length; from += written, number++) {
      const block = new Uint8Array(blockBytes)
      const view = new DataView(block.buffer)
      const payload = bytes.subarray(from, from + written)
      const words = [
        magic[0],
        magic[1],
        family === undefined ? 0 : flags.familyPresent,
        address + from,
        payload.length,
        number,
        total,
        family ?? 0,
      ]
      words.forEach((word, index) => view.setUint32(index * 4, word, true))
      block.set(payload, 32)
      view.setUint32(508, magic[2], true)
      yield block
    }
  }
}

function bad(kind: string, offset: number, says: string, expected: string, found: string): Problem {
  return new Problem({
    kind: `uf2-${kind}`,
    place: { offset, at: `block at ${Math.floor(offset / 512)}` },
    says,
    expected,
    found,
    remedy: 'The file is damaged. Fetch it again from where it came.',
  })
}
