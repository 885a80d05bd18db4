import { hexNumber, Problem } from '../kernel'
import {
  afterEnd,
  badRecord,
  emptyFile,
  noData,
  notARecord,
  overlap,
  pastEnd,
  tooLong,
  wrongLength,
} from './intel-hex-faults'
import {
  dataRecord,
  endRecord,
  linearBase,
  linearStart,
  segmentBase,
  segmentStart,
  type StartRecord,
} from './intel-hex-records'
import type { MemoryMap, Segment } from './memory-map'

/*
 * Intel HEX: Intel, "Hexadecimal Object File Format Specification", Revision A, January 6, 1988.
 * A record is `:` count, offset, type, data, checksum, each byte as two hexadecimal digits; the sum of all
 * bytes of a record is 0 modulo 256.
 */

/** What an Intel HEX file says: memory, and where to start. */
export interface IntelHex {
  memory: MemoryMap
  /** Where the program starts, by a type 03 or 05 record. */
  start?: StartRecord
  /** Records read, end record included. */
  records: number
}

/** Bytes laid down without a break; `at` is their place in the buffer, `line` where they begin. */
interface Run {
  address: number
  at: number
  length: number
}

/**
 * The byte that two characters stand for, by (first << 8 | second); 0x100 where either is not a hexadecimal
 * digit. The 22 rows and columns in use fit into the processor's first cache.
 */
const byteOf = new Uint16Array(0x1_0000).fill(0x100)
for (let byte = 0; byte < 256; byte++) {
  const [high, low] = [byte >> 4, byte & 15].map((value) => {
    const digit = value.toString(16)
    return [digit.charCodeAt(0), digit.toUpperCase().charCodeAt(0)]
  })
  for (const first of high!) for (const second of low!) byteOf[(first << 8) | second] = byte
}

const LF = 10
const CR = 13
const SPACE = 32
const TAB = 9
const COLON = 58

/**
 * Reads an Intel HEX file. Records may come in any order and of any length; lines end in LF, CR LF or CR.
 * Address arithmetic as the specification orders it: under an extended segment base the offset wraps at 64 KiB;
 * under a linear base it carries on, and running past 32 bits is refused.
 *
 * All data goes into one buffer in file order; runs that follow each other are one run. Only at the end are
 * runs sorted, joined and searched for overlaps, so that the usual file (in order) costs one pass.
 *
 * @param text the file's bytes.
 * @throws Problem of kind `hex-…` with the line, what was expected and what was found.
 */
export function readIntelHex(text: Uint8Array): IntelHex {
  const size = text.length
  const data = new Uint8Array(size >> 1)
  const runs: Run[] = []
  let run: Run | undefined
  let used = 0
  let base = 0
  let wraps = false
  let start: StartRecord | undefined
  let line = 1
  let records = 0
  let ended = false
  let at = 0

  while (at < size) {
    const first = text[at]!
    if (first === LF || first === CR) {
      at += first === CR && text[at + 1] === LF ? 2 : 1
      line++
      continue
    }
    if (first === SPACE || first === TAB) {
      at++
      continue
    }
    if (first !== COLON) throw notARecord(text, at, line)
    if (ended) throw afterEnd(text, at, line)

    const count = byteOf[(text[at + 1]! << 8) | text[at + 2]!]!
    const end = at + 11 + 2 * count
    if (count > 255 || end > size) throw badRecord(text, at, line)
    const b1 = byteOf[(text[at + 3]! << 8) | text[at + 4]!]!
    const b2 = byteOf[(text[at + 5]! << 8) | text[at + 6]!]!
    const type = byteOf[(text[at + 7]! << 8) | text[at + 8]!]!
    // A bad digit makes its byte 0x100 and OR keeps that: one test at the record's end finds any of them.
    let bad = b1 | b2 | type
    let sum = count + b1 + b2 + type
    const recordStart = used
    for (let from = at + 9; from < end - 2; from += 2) {
      const byte = byteOf[(text[from]! << 8) | text[from + 1]!]!
      bad |= byte
      sum += byte
      data[used++] = byte
    }
    const checksum = byteOf[(text[end - 2]! << 8) | text[end - 1]!]!
    if ((bad | checksum) > 255 || ((sum + checksum) & 255) !== 0) throw badRecord(text, at, line)
    records++

    if (type === dataRecord) {
      if (count > 0) {
        const offset = (b1 << 8) | b2
        const address = base + offset
        if (address + count > 0x1_0000_0000) throw pastEnd(line, address, count)
        const beforeWrap = wraps ? Math.min(count, 0x1_0000 - offset) : count
        if (run && run.address + run.length === address && beforeWrap === count) run.length += count
        else {
          run = { address, at: recordStart, length: beforeWrap }
          runs.push(run)
          if (beforeWrap < count) {
            run = { address: base, at: recordStart + beforeWrap, length: count - beforeWrap }
            runs.push(run)
          }
        }
      }
    } else {
      used = recordStart
      if (type === endRecord) {
        if (count !== 0) throw wrongLength(line, type, 0, count)
        ended = true
      } else if (type === segmentBase || type === linearBase) {
        if (count !== 2) throw wrongLength(line, type, 2, count)
        const upper = (data[used]! << 8) | data[used + 1]!
        wraps = type === segmentBase
        base = wraps ? upper * 16 : upper * 0x1_0000
      } else if (type === segmentStart || type === linearStart) {
        if (count !== 4) throw wrongLength(line, type, 4, count)
        const high = (data[used]! << 8) | data[used + 1]!
        const low = (data[used + 2]! << 8) | data[used + 3]!
        start =
          type === segmentStart
            ? { kind: 'segment', address: high * 16 + low }
            : { kind: 'linear', address: high * 0x1_0000 + low }
      } else {
        throw new Problem({
          kind: 'hex-type',
          place: { line },
          says: 'this kind of record is not part of Intel HEX',
          expected: 'type 00 to 05',
          found: `type ${hexNumber(type, 2)}`,
          remedy: 'Ask for the file again, as Intel HEX.',
        })
      }
    }
    at = end
    while (at < size && (text[at] === SPACE || text[at] === TAB)) at++
    if (at < size && text[at] !== LF && text[at] !== CR) throw tooLong(text, at, line, count)
  }

  if (records === 0) throw emptyFile(size)
  if (!ended) {
    throw new Problem({
      kind: 'hex-no-end',
      place: { line: line - (text[size - 1] === LF || text[size - 1] === CR ? 1 : 0) },
      says: 'the file stops without its end record',
      expected: ':00000001FF',
      found: 'the end of the file',
      remedy: 'The file was cut short. Fetch it again and compare the size.',
    })
  }
  const memory = joinRuns(text, runs, fitting(data, used))
  if (memory.length === 0) throw noData()
  return start ? { memory, start, records } : { memory, records }
}

/** The used part: as it lies where it is most of the buffer, else cut out, so that no empty buffer is kept. */
function fitting(data: Uint8Array, used: number): Uint8Array {
  return used * 2 >= data.length ? data.subarray(0, used) : data.slice(0, used)
}

function joinRuns(text: Uint8Array, runs: Run[], data: Uint8Array): Segment[] {
  let sorted = true
  for (let index = 1; index < runs.length && sorted; index++) {
    sorted = runs[index - 1]!.address <= runs[index]!.address
  }
  if (!sorted) runs.sort((a, b) => a.address - b.address || a.at - b.at)
  const segments: Segment[] = []
  for (let first = 0; first < runs.length;) {
    let behind = first + 1
    let end = runs[first]!.address + runs[first]!.length
    for (; behind < runs.length && runs[behind]!.address <= end; behind++) {
      if (runs[behind]!.address < end) throw overlap(text, runs[behind]!.address)
      end += runs[behind]!.length
    }
    const { address, at } = runs[first]!
    const together = runs.slice(first, behind)
    // Runs in a row, as a file in order has them, need no second copy.
    if (together.every((each) => each.at - at === each.address - address)) {
      segments.push({ address, bytes: data.subarray(at, at + end - address) })
    } else {
      const bytes = new Uint8Array(end - address)
      for (const each of together) {
        bytes.set(data.subarray(each.at, each.at + each.length), each.address - address)
      }
      segments.push({ address, bytes })
    }
    first = behind
  }
  return segments
}
