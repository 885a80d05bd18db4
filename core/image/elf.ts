import { addressText, bytesText, Problem } from '../kernel'
import { layOut, type Piece } from './lay-out'
import type { MemoryMap } from './memory-map'

/*
 * ELF32, System V ABI, chapter 4 "Object Files" and 5 "Program Loading". What goes into the unit are the PT_LOAD
 * segments that have bytes in the file, at their physical address (p_paddr).
 */

/** What an ELF file says: loadable segments, and where to start. */
export interface Elf {
  memory: MemoryMap
  start?: { kind: 'linear'; address: number }
  endian: 'little' | 'big'
}

const loadable = 1
const maxHeaders = 4096

/**
 * Reads the load segments of an ELF32 executable, little or big endian.
 * @throws Problem of kind `elf-…` with the byte offset.
 */
export function readElf(file: Uint8Array): Elf {
  if (file.length < 52) throw bad('truncated', 0, 'the header is cut off', '52 bytes', bytesText(file.length))
  if (file[0] !== 0x7f || file[1] !== 0x45 || file[2] !== 0x4c || file[3] !== 0x46) {
    throw bad('magic', 0, 'this is not an ELF file', '7F 45 4C 46', 'other bytes')
  }
  if (file[4] !== 1) throw bad('class', 4, 'this is not a 32-bit ELF file', 'class 1', `class ${file[4]}`)
  if (file[5] !== 1 && file[5] !== 2)
    throw bad('endian', 5, 'the byte order is not known', '1 or 2', String(file[5]))
  const little = file[5] === 1
  const view = new DataView(file.buffer, file.byteOffset, file.byteLength)
  const word = (at: number) => view.getUint32(at, little)
  const half = (at: number) => view.getUint16(at, little)
  const type = half(16)
  if (type !== 2) throw bad('type', 16, 'this is not an executable', 'type 2', `type ${type}`)
  const [table, size, count] = [word(28), half(42), half(44)]
  if (count === 0)
    throw bad('no-segments', 44, 'there is nothing to load in it', 'at least one program header', '0')
  if (size < 32)
    throw bad('header-size', 42, 'a program header is too small', 'at least 32 bytes', String(size))
  if (count > maxHeaders)
    throw bad(
      'header-count',
      44,
      'there are absurdly many program headers',
      `at most ${maxHeaders}`,
      String(count),
    )
  if (table < 52 || table + size * count > file.length) {
    throw bad(
      'header-place',
      28,
      'the program headers lie outside the file',
      `between byte 52 and ${file.length}`,
      `byte ${table}, ${size * count} long`,
    )
  }
  const pieces: Piece[] = []
  const claimed: { from: number; to: number }[] = []
  for (let index = 0; index < count; index++) {
    const at = table + index * size
    if (word(at) !== loadable) continue
    const [offset, address, inFile, inMemory] = [word(at + 4), word(at + 12), word(at + 16), word(at + 20)]
    if (inFile === 0) continue
    if (offset + inFile > file.length) {
      throw bad(
        'segment-place',
        at + 4,
        'a segment lies outside the file',
        `at most byte ${file.length}`,
        `bytes ${offset} to ${offset + inFile - 1}`,
      )
    }
    if (inFile > inMemory)
      throw bad(
        'segment-size',
        at + 16,
        'a segment is larger in the file than in memory',
        `at most ${inMemory}`,
        String(inFile),
      )
    if (offset < table + size * count && table < offset + inFile && offset !== 0) {
      throw bad(
        'header-overlap',
        at + 4,
        'a segment overlaps the program headers',
        `behind byte ${table + size * count}`,
        `byte ${offset}`,
      )
    }
    const twice = claimed.find((other) => offset < other.to && other.from < offset + inFile)
    if (twice)
      throw bad(
        'segment-overlap',
        at + 4,
        'two segments take the same bytes of the file',
        'disjoint segments',
        `byte ${offset}`,
      )
    claimed.push({ from: offset, to: offset + inFile })
    if (address + inFile > 0x1_0000_0000) {
      throw bad(
        'range',
        at + 12,
        'a segment runs past the end of 32-bit memory',
        'addresses up to 0xFFFFFFFF',
        addressText(address),
      )
    }
    pieces.push({
      address,
      bytes: file.subarray(offset, offset + inFile),
      place: { offset: at, at: `segment ${index}` },
    })
  }
  if (pieces.length === 0)
    throw bad('no-segments', table, 'no segment has bytes to load', 'a load segment', 'none')
  const entry = word(24)
  return {
    memory: layOut(pieces, 'elf'),
    endian: little ? 'little' : 'big',
    ...(entry ? { start: { kind: 'linear' as const, address: entry } } : {}),
  }
}

function bad(kind: string, offset: number, says: string, expected: string, found: string): Problem {
  return new Problem({
    kind: `elf-${kind}`,
    place: { offset },
    says,
    expected,
    found,
    remedy: 'Fetch the file again, or ask the supplier for Intel HEX.',
  })
}
