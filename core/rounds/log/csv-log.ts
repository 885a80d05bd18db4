import { concatBytes, groupedNumber, Problem, type Finding } from '../../kernel'
import { clockSeconds } from './clock-time'
import { sniffCsv, splitFields, type CsvDialect } from './dialect'
import type { Log } from './log'
import { takeTime, type Column } from './time-column'
import { Utf16Reader, wideOrder } from './wide-text'

/*
 * Logs run to millions of rows. Cutting them into texts first costs ten times what the figures cost, so each figure
 * is made straight from its bytes: up to fifteen digits and a decimal sign are exact that way (a whole number below
 * 2^53 divided by a power of ten up to 10^22 is rounded once; Clinger 1990). What looks otherwise goes the slow way.
 */

/** Bytes that are looked at before the first row is read. */
const headBytes = 64 * 1024
/** Cells that are held; a longer log is read as far as that. */
export const maxCells = 60_000_000
/** Faulty lines in a row after which nothing more of the file can be trusted. */
const maxFaultyLines = 50

const [tab, lf, cr, blank, quote, plus, minus] = [9, 10, 13, 32, 34, 43, 45]
const powers = Array.from({ length: 23 }, (_, index) => 10 ** index)

/** Reads a CSV log as it comes in, piece by piece. */
export class CsvLogReader {
  #head: Uint8Array[] = []
  #headLength = 0
  #dialect: CsvDialect | undefined
  #columns: Float64Array[] = []
  #row = 0
  #line = 0
  #bytes = 0
  #rest = new Uint8Array(0)
  #end: number = lf
  #stopped: Finding | undefined
  #skipped = { lines: 0, first: 0 }
  #faultyInARow = 0
  #headAgain: number[] = []
  /** Null where the file is none of UTF-16, undefined before its first two bytes are there. */
  #wide: Utf16Reader | null | undefined
  readonly #total: number

  /** @param totalBytes of the file, where known: columns are made of that size at once. */
  constructor({ totalBytes = 0 }: { totalBytes?: number } = {}) {
    this.#total = totalBytes
  }

  /** Rows read so far. */
  get rows(): number {
    return this.#row
  }
  /** Nothing more is taken: whoever sends may stop. */
  get stopped(): boolean {
    return this.#stopped !== undefined
  }

  /** The next bytes of the file. @throws Problem `log-unread` where it is no table. */
  push(bytes: Uint8Array): void {
    this.#bytes += bytes.length
    if (this.#stopped) return
    const text = this.#textOf(bytes)
    if (this.#dialect) return this.#take(text)
    this.#head.push(text)
    this.#headLength += text.length
    if (this.#headLength >= headBytes) this.#begin()
  }

  /** Text of single bytes: UTF-16 is told by its mark, which may come in two pieces. */
  #textOf(bytes: Uint8Array): Uint8Array {
    if (this.#wide === undefined) {
      const start = concatBytes([...this.#head, bytes])
      if (start.length < 2) return bytes
      const order = wideOrder(start)
      this.#wide = order && new Utf16Reader(order)
      if (this.#wide) {
        this.#head = []
        this.#headLength = 0
        return this.#wide.push(start.subarray(2))
      }
    }
    return this.#wide ? this.#wide.push(bytes) : bytes
  }

  /** The log, once all of it was pushed. @throws Problem `log-unread` where it is no table. */
  finish(): Log {
    if (!this.#dialect) this.#begin()
    if (this.#rest.length > 0 && !this.#stopped) {
      const last = this.#rest
      this.#rest = new Uint8Array(0)
      this.#rows(concatBytes([last, Uint8Array.of(this.#end)]), 0, last.length + 1)
    }
    return this.#log()
  }

  #begin(): void {
    let head = concatBytes(this.#head)
    this.#head = []
    if (head[0] === 0xef && head[1] === 0xbb && head[2] === 0xbf) head = head.subarray(3)
    refuseOther(head)
    if (!head.includes(lf) && head.includes(cr)) this.#end = cr
    const looked = head.subarray(0, headBytes)
    const whole = looked.lastIndexOf(this.#end) + 1
    const lines = textOf(whole > 0 ? looked.subarray(0, whole) : looked)
      .split(this.#end === lf ? /\r?\n/ : '\r')
      .slice(0, 400)
    const dialect = sniffCsv(lines)
    this.#dialect = dialect
    let from = 0
    for (let line = 0; line < dialect.headLines; line++) from = head.indexOf(this.#end, from) + 1
    this.#line = dialect.headLines
    const rowBytes = whole > from ? (whole - from) / Math.max(1, countOf(looked, this.#end, from)) : 80
    // Two bytes a character in UTF-16, one here.
    const total = this.#wide ? this.#total / 2 : this.#total
    const rows = Math.ceil(((Math.max(total, head.length) - from) / rowBytes) * 1.03) + 16
    const max = Math.floor(maxCells / dialect.names.length)
    this.#columns = dialect.names.map(() => new Float64Array(Math.min(rows, max)))
    this.#take(head.subarray(from))
  }

  #take(bytes: Uint8Array): void {
    const all = this.#rest.length > 0 ? concatBytes([this.#rest, bytes]) : bytes
    const whole = all.lastIndexOf(this.#end) + 1
    if (whole > 0) this.#rows(all, 0, whole)
    this.#rest = Uint8Array.from(all.subarray(whole))
  }

  /** Whole lines, each with its end. */
  #rows(bytes: Uint8Array, from: number, to: number): void {
    const { delimiter, decimal } = this.#dialect!
    const width = this.#columns.length
    const end = this.#end
    let columns = this.#columns
    let room = columns[0]!.length
    let row = this.#row
    let at = from
    while (at < to) {
      this.#line++
      const start = at
      if (row >= room) {
        if (!this.#grow()) return
        columns = this.#columns
        room = columns[0]!.length
      }
      let column = 0
      for (;;) {
        let byte = bytes[at]!
        const field = at
        while (byte === blank || (byte === tab && delimiter !== tab)) byte = bytes[++at]!
        const quoted = byte === quote
        if (quoted) byte = bytes[++at]!
        const negative = byte === minus
        if (negative || byte === plus) byte = bytes[++at]!
        let mantissa = 0
        let digits = 0
        let decimals = 0
        while (byte >= 48 && byte <= 57) {
          mantissa = mantissa * 10 + byte - 48
          digits++
          byte = bytes[++at]!
        }
        if (byte === decimal && (decimal !== delimiter || quoted)) {
          byte = bytes[++at]!
          while (byte >= 48 && byte <= 57) {
            mantissa = mantissa * 10 + byte - 48
            digits++
            decimals++
            byte = bytes[++at]!
          }
        }
        if (quoted && byte === quote) byte = bytes[++at]!
        while (byte === blank) byte = bytes[++at]!
        let value: number
        if (
          digits > 0 &&
          digits <= 15 &&
          (byte === delimiter || byte === end || (byte === cr && bytes[at + 1] === end))
        ) {
          value = mantissa / powers[decimals]!
          if (negative) value = -value
        } else {
          let inside = false
          at = field
          byte = bytes[at]!
          while ((byte !== delimiter || inside) && byte !== end) {
            if (byte === quote) inside = !inside
            byte = bytes[++at]!
          }
          value = this.#slow(bytes, field, at)
          if (this.#stopped) return
        }
        if (byte === cr) byte = bytes[++at]!
        if (column < width) columns[column]![row] = value
        column++
        at++
        if (byte !== delimiter) break
      }
      if (column === width || (column === width + 1 && isBlank(bytes[at - 2]!, delimiter, cr))) {
        this.#faultyInARow = 0
        if (!Number.isNaN(columns[0]![row]!) || !this.#isHeading(bytes, start, at)) this.#row = ++row
      } else if (!isEmptyLine(bytes, start, at)) {
        this.#faulty(++this.#faultyInARow)
        if (this.#stopped) return
      }
    }
  }

  /** Whether a row that begins with a word is the heading again, where a logger was started anew. */
  #isHeading(bytes: Uint8Array, start: number, at: number): boolean {
    const { names, delimiter } = this.#dialect!
    // A log whose first column is often empty has a million rows that begin with no figure: one byte tells most of them.
    let begins = start
    while (bytes[begins] === quote || bytes[begins] === blank) begins++
    const first = names[0]!.charCodeAt(0)
    if (first < 128 && bytes[begins] !== first) return false
    const cells = splitFields(textOf(bytes.subarray(start, at)).trim(), String.fromCharCode(delimiter))
    if (!cells.every((cell, index) => cell.startsWith(names[index]!))) return false
    this.#headAgain.push(this.#line)
    return true
  }

  #faulty(inARow: number): void {
    if (this.#skipped.lines++ === 0) this.#skipped.first = this.#line
    if (inARow < maxFaultyLines) return
    const line = this.#line - maxFaultyLines + 1
    this.#stopped = {
      rule: 'log-columns-change',
      level: 'hold',
      says: `From line ${groupedNumber(line)} on the rows have another number of columns.`,
      because: `The heading names ${this.#columns.length}. The log is read up to there.`,
      remedy: 'Keep the channel list as it is during a log; start a new log for another list.',
      numbers: { line },
    }
    this.#skipped.lines -= maxFaultyLines
  }

  /** A field that is no plain figure: longer, with an exponent, a time, a switch, or nothing. */
  #slow(bytes: Uint8Array, from: number, to: number): number {
    for (let at = from; at < to; at++)
      if (bytes[at]! < 9 || (bytes[at]! > 13 && bytes[at]! < 32)) {
        this.#stopped = {
          rule: 'log-junk',
          level: 'hold',
          says: `Line ${groupedNumber(this.#line)} holds bytes that are no text.`,
          because: `The log is read up to there, ${groupedNumber(this.#row)} rows.`,
          remedy:
            'Copy the file again from the card or the computer that wrote it. If it stays so, log again.',
          numbers: { line: this.#line },
        }
        return NaN
      }
    const text = textOf(bytes.subarray(from, to)).trim().replace(/^"|"$/g, '').trim()
    if (text === '') return NaN
    const plain = this.#dialect!.decimal === 44 ? text.replace(',', '.') : text
    if (/^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(plain)) return Number(plain)
    const word = text.toLowerCase()
    if (word === 'on' || word === 'true' || word === 'yes') return 1
    if (word === 'off' || word === 'false' || word === 'no') return 0
    return clockSeconds(text)
  }

  #grow(): boolean {
    const max = Math.floor(maxCells / this.#columns.length)
    const now = this.#columns[0]!.length
    if (now >= max) {
      this.#stopped = {
        rule: 'log-too-long',
        level: 'note',
        says: `The log is read up to row ${groupedNumber(this.#row)}; it is longer.`,
        because: `More than ${groupedNumber(maxCells)} figures are not held at once.`,
        remedy: 'Log fewer channels, or cut the log into pieces.',
      }
      return false
    }
    const size = Math.min(max, Math.ceil(now * 1.3) + 1024)
    this.#columns = this.#columns.map((column) => {
      const larger = new Float64Array(size)
      larger.set(column)
      return larger
    })
    return true
  }

  #log(): Log {
    const { names, units, preamble } = this.#dialect!
    const columns: Column[] = this.#columns.map((values, index) => ({
      name: names[index]!,
      unit: units[index]!,
      values: values.subarray(0, this.#row),
    }))
    this.#columns = []
    const { seconds, channels, findings } = takeTime(columns, this.#dialect!.timeColumn)
    const { lines, first } = this.#skipped
    if (lines > 0)
      findings.push({
        rule: 'log-columns-change',
        level: 'note',
        says: `${groupedNumber(lines)} ${lines === 1 ? 'line was' : 'lines were'} left out, the first is line ${groupedNumber(first)}.`,
        because: `They do not have the ${names.length} columns of the heading.`,
        numbers: { lines, line: first },
      })
    if (this.#headAgain.length > 0)
      findings.push({
        rule: 'log-header-again',
        level: 'note',
        says: `The heading stands again in line ${groupedNumber(this.#headAgain[0]!)}.`,
        because: 'The logger was started again within the file.',
        remedy: 'Look at the time: what was measured before and afterwards may not belong together.',
        numbers: { line: this.#headAgain[0]!, times: this.#headAgain.length },
      })
    if (this.#stopped) findings.push(this.#stopped)
    return { seconds, channels, bytes: this.#bytes, preamble, findings }
  }
}

/** A whole CSV log. @throws Problem `log-unread` where it is no table. */
export function readCsvLog(file: Uint8Array): Log {
  const reader = new CsvLogReader({ totalBytes: file.length })
  reader.push(file)
  return reader.finish()
}

const isBlank = (byte: number, delimiter: number, end: number) => byte === delimiter || byte === end

function isEmptyLine(bytes: Uint8Array, from: number, to: number): boolean {
  for (let at = from; at < to; at++) if (bytes[at]! > blank) return false
  return true
}

function countOf(bytes: Uint8Array, byte: number, from: number): number {
  let count = 0
  for (let at = from; at < bytes.length; at++) if (bytes[at] === byte) count++
  return count
}

/** Files that are no text of single bytes, by how they begin. */
function refuseOther(head: Uint8Array): void {
  // ASAM MDF: the identification block begins so in every version of the format.
  if (head.length > 3 && String.fromCharCode(...head.subarray(0, 3)) === 'MDF')
    throw new Problem({
      kind: 'log-unread',
      place: { offset: 0 },
      says: 'this is a measurement file of MDF, which is not read here',
      remedy: 'Export it as CSV from the program that wrote it, with the time as a column.',
    })
  // What comes after the first rows is for the reader to name by its line.
  let lines = 0
  for (let at = 0; at < Math.min(head.length, 4096) && lines < 3; at++) {
    if (head[at] === lf) lines++
    if (head[at]! < 9)
      throw new Problem({
        kind: 'log-unread',
        place: { offset: at },
        says: 'this file is no text',
        remedy: 'Export the log as CSV from the program that wrote it.',
      })
  }
}

/** Bytes as text, UTF-8 where it is sound, else one character a byte; headings only, so speed is no matter. */
function textOf(bytes: Uint8Array): string {
  try {
    let escaped = ''
    for (const byte of bytes)
      escaped +=
        byte < 128 && byte !== 37 ? String.fromCharCode(byte) : `%${byte.toString(16).padStart(2, '0')}`
    return decodeURIComponent(escaped)
  } catch {
    // No UTF-8: an older program's file, one character a byte.
    return Array.from(bytes, (byte) => String.fromCharCode(byte)).join('')
  }
}
