import { addressText, bytesText, hexNumber, Problem } from '../../kernel'
import type { EraseType } from './commands'

/*
 * The chip's own table of parameters (JESD216, "Serial Flash Discoverable Parameters"): read by 5A, all of it little-endian.
 * A header of 8 bytes, one of 8 bytes for each table, and the tables of 32-bit words. Of these two are used: the basic one
 * (FF00) and that of instructions with four address bytes (FF84).
 */

/** What the table says of the chip. */
export interface FlashTable {
  /** Revision of the standard, as the header says it: "1.6". */
  revision: string
  bytes: number
  /** How addresses go: three bytes, three or four, four alone. */
  addressing: 'three' | 'both' | 'four'
  eraseTypes: EraseType[]
  pageBytes: number
  program: { usualMs: number | null; maxMs: number | null }
  /** How four address bytes are reached; null where the table does not say. */
  fourByte: 'commands' | 'enter' | 'enable-and-enter' | 'always' | null
  /** Erase commands that take four address bytes, by the command with three. */
  fourByteErase: ReadonlyMap<number, number>
  /** Writing one byte of status would clear the second: both are written. */
  statusBytes: 1 | 2
}

const signature = 0x50444653
const basicTable = 0xff00
const fourByteTable = 0xff84
const headerBytes = 8
/** Words of the basic table in the standard's first edition; no table is shorter. */
const minWords = 9
/** Where the table may not reach: its addresses have 24 bits, and no part has more than some kilobytes of it. */
const maxBytes = 0x2000

/** How many bytes of the table's space must be read to have all of it; null where none begins here. */
export function tableExtent(header: Uint8Array): number | null {
  const words = new DataView(header.buffer, header.byteOffset, header.byteLength)
  if (header.length < headerBytes || words.getUint32(0, true) !== signature) return null
  return headerBytes * (2 + header[6]!)
}

/**
 * Reads a table. @param bytes the table's space from 0.
 * @param more reads on where a table lies further on.
 * @returns null where the chip has no table.
 * @throws Problem `flash-table` that names the word, for one that is damaged.
 */
export async function readFlashTable(
  read: (address: number, length: number) => Promise<Uint8Array>,
  thing: string,
): Promise<FlashTable | null> {
  const extent = tableExtent(await read(0, headerBytes))
  if (extent === null) return null
  const headers = await read(0, extent)
  const tables = new Map<number, DataView>()
  const revisions = new Map<number, string>()
  for (let at = headerBytes; at + headerBytes <= headers.length; at += headerBytes) {
    const id = headers[at]! | (headers[at + 7]! << 8)
    const [minor, major, words] = [headers[at + 1]!, headers[at + 2]!, headers[at + 3]!]
    const pointer = headers[at + 4]! | (headers[at + 5]! << 8) | (headers[at + 6]! << 16)
    if (id !== basicTable && id !== fourByteTable) continue
    if (pointer % 4 !== 0 || pointer + words * 4 > maxBytes)
      throw damaged(thing, at, `table ${hexNumber(id, 4)} lies at ${addressText(pointer)}`)
    // A later header of the same table is of a later edition, and longer.
    if ((tables.get(id)?.byteLength ?? 0) > words * 4) continue
    const bytes = await read(pointer, words * 4)
    tables.set(id, new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength))
    revisions.set(id, `${major}.${minor}`)
  }
  const basic = tables.get(basicTable)
  if (!basic || basic.byteLength < minWords * 4)
    throw damaged(thing, 0, 'its basic table is missing or short')
  return basicOf(basic, revisions.get(basicTable)!, tables.get(fourByteTable), thing)
}

function basicOf(table: DataView, revision: string, four: DataView | undefined, thing: string): FlashTable {
  const words = table.byteLength / 4
  /** Words are counted from 1, as the standard does. */
  const word = (number: number) => (number <= words ? table.getUint32((number - 1) * 4, true) : 0)
  const bits = (number: number, from: number, count: number) => (word(number) >>> from) & (2 ** count - 1)

  const density = word(2)
  const sizeBits = density & 0x80000000 ? 2 ** (density & 0x7fffffff) : density + 1
  const bytes = sizeBits / 8
  if (!Number.isInteger(bytes) || bytes < 256 || bytes > 2 ** 32)
    throw damaged(thing, 4, `its size would be ${sizeBits} bits`)
  const addressing = (['three', 'both', 'four'] as const)[bits(1, 17, 2)]
  if (!addressing) throw damaged(thing, 0, 'its address bytes are said to be none that there are')

  // Words 8 and 9: size as a power of two and its command. Word 10: times; longest = 2 × (count + 1) × usual.
  const timed = words >= 10 && word(10) !== 0xffffffff
  const longest = 2 * (bits(10, 0, 4) + 1)
  const eraseTypes = [0, 1, 2, 3].flatMap((index): EraseType[] => {
    const [size, command] = [
      bits(8 + (index >> 1), (index & 1) * 16, 8),
      bits(8 + (index >> 1), (index & 1) * 16 + 8, 8),
    ]
    if (size === 0 || size === 0xff) return []
    if (size > 31 || 2 ** size > bytes)
      throw damaged(thing, 28 + index * 2, `a block would be 2^${size} bytes`)
    const usualMs = timed
      ? (bits(10, 4 + index * 7, 5) + 1) * [1, 16, 128, 1000][bits(10, 9 + index * 7, 2)]!
      : null
    return [{ bytes: 2 ** size, command, usualMs, maxMs: usualMs === null ? null : longest * usualMs }]
  })
  const fourKilobytes = bits(1, 8, 8)
  if (eraseTypes.length === 0 && bits(1, 0, 2) === 1)
    eraseTypes.push({ bytes: 4096, command: fourKilobytes, usualMs: null, maxMs: null })
  if (eraseTypes.length === 0) throw damaged(thing, 28, 'it names no block that can be erased')

  // Word 11: page as a power of two, its time in 8 or 64 µs.
  const has11 = words >= 11 && word(11) !== 0xffffffff
  const pageBytes = has11 ? 2 ** bits(11, 4, 4) : bits(1, 2, 1) ? 256 : 1
  const programMs = has11 ? ((bits(11, 8, 5) + 1) * (bits(11, 13, 1) ? 64 : 8)) / 1000 : null
  const entering = words >= 16 ? bits(16, 24, 8) : 0
  const quad = words >= 15 ? bits(15, 20, 3) : 0
  const dedicated = four !== undefined && (four.getUint32(0, true) & 0x41) === 0x41
  return {
    revision,
    bytes,
    addressing,
    eraseTypes: eraseTypes.sort((a, b) => a.bytes - b.bytes),
    pageBytes,
    program: {
      usualMs: programMs,
      maxMs: programMs === null ? null : 2 * (bits(11, 0, 4) + 1) * programMs,
    },
    fourByte:
      addressing === 'four' || entering & 0x40
        ? 'always'
        : dedicated || entering & 0x20
          ? 'commands'
          : entering & 1
            ? 'enter'
            : entering & 2
              ? 'enable-and-enter'
              : null,
    fourByteErase: fourByteErases(four, table),
    // Word 15, bits 20 to 22: 001 and 101 keep QE in the second byte, and 001 loses it where one byte is written.
    statusBytes: quad === 1 || quad === 5 ? 2 : 1,
  }
}

/** Word 1 of the second table has a bit for each of the four types (9 to 12), word 2 their commands. */
function fourByteErases(four: DataView | undefined, basic: DataView): ReadonlyMap<number, number> {
  if (!four || four.byteLength < 8) return new Map()
  const supported = four.getUint32(0, true)
  return new Map(
    [0, 1, 2, 3].flatMap((index): [number, number][] =>
      (supported >>> (9 + index)) & 1 ? [[basic.getUint8(28 + index * 2 + 1), four.getUint8(4 + index)]] : [],
    ),
  )
}

const damaged = (thing: string, offset: number, found: string) =>
  new Problem({
    kind: 'flash-table',
    thing,
    place: { offset },
    says: 'the chip’s own table of parameters is damaged',
    found,
    remedy:
      'Seat the clip anew and read it again. Where it says the same each time, let the profile leave the table out, and describe the chip by its sheet.',
  })

/** What a person is told of a chip: "1 048 576 bytes, blocks of 4, 32 and 64 KiB, pages of 256". */
export const flashText = ({
  bytes,
  eraseTypes,
  pageBytes,
}: Pick<FlashTable, 'bytes' | 'eraseTypes' | 'pageBytes'>) =>
  `${bytesText(bytes)}, erased by ${eraseTypes.map((type) => bytesText(type.bytes)).join(' or ')}, programmed by ${bytesText(pageBytes)}`
