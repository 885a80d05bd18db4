import { addressText, asciiText, hexNumber, Problem } from '../kernel'
import type { MemoryMap, Segment } from './memory-map'

/*
 * Intel HEX: Intel, "Hexadecimal Object File Format Specification", Revision A, January 6, 1988.
 * A record is `:` count, offset, type, data, checksum, each byte as two hexadecimal digits; the sum of all
 * bytes of a record is 0 modulo 256.
 */

const dataRecord = 0
const endRecord = 1
const segmentBase = 2
const segmentStart = 3
const linearBase = 4
const linearStart = 5

export interface IntelHex {
  memory: MemoryMap
  /** Where the program starts, by a type 03 or 05 record. */
  start?: { kind: 'segment' | 'linear'; address: number }
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
  let start: IntelHex['start']
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

export interface IntelHexForm {
  /** Data bytes a record, 1 to 255; 16 where nothing is said. */
  recordBytes?: number
  lineEnd?: '\n' | '\r\n'
  start?: IntelHex['start']
}

/**
 * Writes a memory map as Intel HEX with linear addresses (type 04), in rising order, no record across a 64 KiB
 * boundary. The first base record is left out while addresses are below 64 KiB.
 */
export function writeIntelHex(memory: MemoryMap, form: IntelHexForm = {}): string {
  const { recordBytes = 16, lineEnd = '\n', start } = form
  if (!(recordBytes >= 1 && recordBytes <= 255)) throw new RangeError('A record holds 1 to 255 bytes')
  const lines: string[] = []
  let upper = 0
  for (const { address, bytes } of memory) {
    for (let at = 0; at < bytes.length;) {
      const here = address + at
      const wanted = Math.floor(here / 0x1_0000)
      if (wanted !== upper) {
        upper = wanted
        lines.push(record(linearBase, 0, [upper >> 8, upper & 255]))
      }
      const length = Math.min(recordBytes, bytes.length - at, 0x1_0000 - (here % 0x1_0000))
      lines.push(record(dataRecord, here % 0x1_0000, bytes.subarray(at, at + length)))
      at += length
    }
  }
  if (start?.kind === 'linear') {
    const entry = start.address
    lines.push(record(linearStart, 0, [entry >>> 24, (entry >>> 16) & 255, (entry >>> 8) & 255, entry & 255]))
  } else if (start) {
    // CS and IP are not kept apart; the same place is written with the paragraph in CS.
    const paragraph = start.address >>> 4
    lines.push(record(segmentStart, 0, [paragraph >> 8, paragraph & 255, 0, start.address & 15]))
  }
  lines.push(record(endRecord, 0, []))
  return lines.join(lineEnd) + lineEnd
}

const pairs = Array.from({ length: 256 }, (_, byte) => hexNumber(byte, 2))

function record(type: number, offset: number, bytes: ArrayLike<number>): string {
  let sum = bytes.length + (offset >> 8) + (offset & 255) + type
  let line = `:${pairs[bytes.length]}${pairs[offset >> 8]}${pairs[offset & 255]}${pairs[type]}`
  for (let at = 0; at < bytes.length; at++) {
    sum += bytes[at]!
    line += pairs[bytes[at]!]
  }
  return line + pairs[-sum & 255]
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

/** The text of the line that `at` stands in, cut to what a person can read. */
function lineAt(text: Uint8Array, at: number): string {
  let end = at
  while (end < text.length && text[end] !== LF && text[end] !== CR) end++
  return asciiText(text.subarray(at, Math.min(end, at + 600))).trimEnd()
}

const fetchAgain = 'The file was damaged on its way. Fetch it again and compare size and digest.'

/** Finds out what is wrong with a record that did not read, slowly and exactly. */
function badRecord(text: Uint8Array, at: number, line: number): Problem {
  const record = lineAt(text, at)
  const wrong = /[^0-9A-Fa-f]/.exec(record.slice(1))
  if (wrong) {
    return new Problem({
      kind: 'hex-digit',
      place: { line, at: `column ${wrong.index + 2}` },
      says: 'a character is not a hexadecimal digit',
      expected: '0 to 9 or A to F',
      found: printable(wrong[0]),
      remedy: fetchAgain,
    })
  }
  const count = record.length < 3 ? undefined : parseInt(record.slice(1, 3), 16)
  if (count === undefined || record.length < 11 + 2 * count) {
    return new Problem({
      kind: 'hex-truncated',
      place: { line },
      says: 'the line is cut short',
      expected: count === undefined ? 'at least 11 characters' : `${11 + 2 * count} characters`,
      found: `${record.length}`,
      remedy: fetchAgain,
    })
  }
  let sum = 0
  for (let from = 1; from < 9 + 2 * count; from += 2) sum += parseInt(record.slice(from, from + 2), 16)
  return new Problem({
    kind: 'hex-checksum',
    place: { line },
    says: 'the checksum does not belong to the line',
    expected: hexNumber(-sum & 255, 2),
    found: record.slice(9 + 2 * count, 11 + 2 * count).toUpperCase(),
    remedy: fetchAgain,
  })
}

function tooLong(text: Uint8Array, at: number, line: number, count: number): Problem {
  return new Problem({
    kind: 'hex-too-long',
    place: { line },
    says: 'the line goes on behind its checksum',
    expected: `the line to end after ${11 + 2 * count} characters`,
    found: printable(lineAt(text, at).slice(0, 12)),
    remedy: fetchAgain,
  })
}

function notARecord(text: Uint8Array, at: number, line: number): Problem {
  return new Problem({
    kind: 'hex-not-a-record',
    place: { line },
    says: 'the line does not begin like an Intel HEX record',
    expected: 'a colon',
    found: printable(lineAt(text, at).slice(0, 12)),
    remedy: 'Take the colon lines alone, or ask for the file again as Intel HEX.',
  })
}

function afterEnd(text: Uint8Array, at: number, line: number): Problem {
  return new Problem({
    kind: 'hex-after-end',
    place: { line },
    says: 'a record stands behind the end record',
    expected: 'the end of the file',
    found: printable(lineAt(text, at).slice(0, 44)),
    remedy: 'Two files were joined. Split them and load each by itself.',
  })
}

function wrongLength(line: number, type: number, expected: number, found: number): Problem {
  return new Problem({
    kind: 'hex-length',
    place: { line },
    says: `a record of type ${hexNumber(type, 2)} has the wrong length`,
    expected: `${expected} bytes`,
    found: `${found}`,
    remedy: fetchAgain,
  })
}

function pastEnd(line: number, address: number, count: number): Problem {
  return new Problem({
    kind: 'hex-past-32-bits',
    place: { line },
    says: 'the data runs past the last 32-bit address',
    expected: `${0x1_0000_0000 - address} bytes at most from ${addressText(address)}`,
    found: `${count}`,
    remedy: 'This is no image for a 32-bit controller. Ask for the right file.',
  })
}

function emptyFile(size: number): Problem {
  return new Problem({
    kind: 'hex-empty',
    place: { line: 1 },
    says: 'the file is empty',
    expected: 'Intel HEX records',
    found: size === 0 ? '0 bytes' : 'only blank lines',
    remedy: 'Fetch the file again; the download was not finished.',
  })
}

function noData(): Problem {
  return new Problem({
    kind: 'hex-no-data',
    says: 'the file has its end record but no data',
    expected: 'at least one data record',
    found: 'none',
    remedy: 'Ask for the file again.',
  })
}

/** Names both lines that set the same byte. Only reached for a file that is refused, so it may be slow. */
function overlap(text: Uint8Array, address: number): Problem {
  const lines = recordsSetting(text, address)
  return new Problem({
    kind: 'hex-overlap',
    place: lines[1] === undefined ? {} : { line: lines[1] },
    says: `the byte at ${addressText(address)} is set twice, first in line ${lines[0] ?? 'unknown'}`,
    expected: 'each byte once',
    found: 'overlapping data',
    remedy: 'Nobody can know which is meant. Ask for the file again.',
  })
}

function recordsSetting(text: Uint8Array, wanted: number): number[] {
  const lines: number[] = []
  let base = 0
  let wraps = false
  asciiLines(text).forEach((record, index) => {
    const field = (from: number, digits: number) => parseInt(record.slice(from, from + digits), 16)
    const type = field(7, 2)
    if (type === segmentBase || type === linearBase) {
      wraps = type === segmentBase
      base = field(9, 4) * (wraps ? 16 : 0x1_0000)
    } else if (type === dataRecord) {
      const offset = field(3, 4)
      const behind = wanted - base - offset
      const into =
        wraps && wanted >= base && wanted < base + 0x1_0000 ? (behind + 0x1_0000) % 0x1_0000 : behind
      if (into >= 0 && into < field(1, 2)) lines.push(index + 1)
    }
  })
  return lines
}

function asciiLines(text: Uint8Array): string[] {
  return asciiText(text)
    .split(/\r\n|\n|\r/)
    .map((line) => line.trim())
}

function printable(found: string): string {
  return /^[\x20-\x7e]+$/.test(found)
    ? `"${found}"`
    : `bytes ${[...found].map((character) => hexNumber(character.charCodeAt(0), 2)).join(' ')}`
}
