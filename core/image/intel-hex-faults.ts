import { addressText, asciiText, hexNumber, Problem } from '../kernel'
import { dataRecord, linearBase, segmentBase } from './intel-hex-records'

/* What can be wrong with an Intel HEX file, found out slowly and exactly once it is refused. */

const LF = 10
const CR = 13

/** The text of the line that `at` stands in, cut to what a person can read. */
function lineAt(text: Uint8Array, at: number): string {
  let end = at
  while (end < text.length && text[end] !== LF && text[end] !== CR) end++
  return asciiText(text.subarray(at, Math.min(end, at + 600))).trimEnd()
}

const fetchAgain = 'The file was damaged on its way. Fetch it again and compare size and digest.'

/** Finds out what is wrong with a record that did not read, slowly and exactly. */
export function badRecord(text: Uint8Array, at: number, line: number): Problem {
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

/** A record that says more bytes than its line holds. */
export function tooLong(text: Uint8Array, at: number, line: number, count: number): Problem {
  return new Problem({
    kind: 'hex-too-long',
    place: { line },
    says: 'the line goes on after its checksum',
    expected: `the line to end after ${11 + 2 * count} characters`,
    found: printable(lineAt(text, at).slice(0, 12)),
    remedy: fetchAgain,
  })
}

/** A line that is no record at all. */
export function notARecord(text: Uint8Array, at: number, line: number): Problem {
  return new Problem({
    kind: 'hex-not-a-record',
    place: { line },
    says: 'the line does not begin like an Intel HEX record',
    expected: 'a colon',
    found: printable(lineAt(text, at).slice(0, 12)),
    remedy: 'Take the colon lines alone, or ask for the file again as Intel HEX.',
  })
}

/** Something stands after the end record. */
export function afterEnd(text: Uint8Array, at: number, line: number): Problem {
  return new Problem({
    kind: 'hex-after-end',
    place: { line },
    says: 'a record stands after the end record',
    expected: 'the end of the file',
    found: printable(lineAt(text, at).slice(0, 44)),
    remedy: 'Two files were joined. Split them and load each by itself.',
  })
}

/** A record of a type whose length is fixed has another. */
export function wrongLength(line: number, type: number, expected: number, found: number): Problem {
  return new Problem({
    kind: 'hex-length',
    place: { line },
    says: `a record of type ${hexNumber(type, 2)} has the wrong length`,
    expected: `${expected} bytes`,
    found: `${found}`,
    remedy: fetchAgain,
  })
}

/** A record that runs past its 64 KiB segment. */
export function pastEnd(line: number, address: number, count: number): Problem {
  return new Problem({
    kind: 'hex-past-32-bits',
    place: { line },
    says: 'the data runs past the last 32-bit address',
    expected: `${0x1_0000_0000 - address} bytes at most from ${addressText(address)}`,
    found: `${count}`,
    remedy: 'This is no image for a 32-bit controller. Ask for the right file.',
  })
}

/** A file without any byte or line. */
export function emptyFile(size: number): Problem {
  return new Problem({
    kind: 'hex-empty',
    place: { line: 1 },
    says: 'the file is empty',
    expected: 'Intel HEX records',
    found: size === 0 ? '0 bytes' : 'only blank lines',
    remedy: 'Fetch the file again; the download was not finished.',
  })
}

/** Records, and none of them carries data. */
export function noData(): Problem {
  return new Problem({
    kind: 'hex-no-data',
    says: 'the file has its end record but no data',
    expected: 'at least one data record',
    found: 'none',
    remedy: 'Ask for the file again.',
  })
}

/** Names both lines that set the same byte. Only reached for a file that is refused, so it may be slow. */
export function overlap(text: Uint8Array, address: number): Problem {
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
