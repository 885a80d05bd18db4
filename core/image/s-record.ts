import { asciiText, hexNumber, Problem, type Place } from '../kernel'
import { layOut, type Piece } from './lay-out'
import type { MemoryMap } from './memory-map'

/*
 * Motorola S-record, as the M68000 Family Programmer's Reference Manual, appendix C ("S-Record Output Format"),
 * describes it: `S`, type, count, address (16, 24 or 32 bit), data, checksum. The count is of the bytes after it;
 * the checksum is the ones' complement of the low byte of the sum of count, address and data.
 */

/** Bytes of the address by record type; S4 is reserved. */
const addressBytes: readonly (number | undefined)[] = [2, 2, 3, 4, undefined, 2, 3, 4, 3, 2]

/** What an S-record file says: memory, header, and where to start. */
export interface SRecord {
  memory: MemoryMap
  /** Text of the S0 record. */
  header?: string
  start?: { kind: 'linear'; address: number }
  records: number
}

const digit = new Int8Array(256).fill(-1)
for (let value = 0; value < 16; value++) {
  digit[value.toString(16).charCodeAt(0)] = value
  digit[value.toString(16).toUpperCase().charCodeAt(0)] = value
}

/**
 * Reads an S-record file: data in S1, S2 and S3 of any length and order, S5 and S6 counts checked, one of S7, S8, S9
 * at the end. Lines end in LF, CR LF or CR.
 * @throws Problem of kind `srec-…` with the line, what was expected and what was found.
 */
export function readSRecord(text: Uint8Array): SRecord {
  const data = new Uint8Array(text.length >> 1)
  const pieces: Piece[] = []
  let last: { address: number; from: number; to: number; line: number } | undefined
  const close = () => {
    if (last)
      pieces.push({
        address: last.address,
        bytes: data.subarray(last.from, last.to),
        place: { line: last.line },
      })
  }
  let used = 0
  let line = 1
  let records = 0
  let dataRecords = 0
  let header: string | undefined
  let start: SRecord['start']
  let ended = false

  for (let at = 0; at < text.length;) {
    const first = text[at]!
    if (first === 13 || first === 10) {
      at += first === 13 && text[at + 1] === 10 ? 2 : 1
      line++
      continue
    }
    if (first === 32 || first === 9) {
      at++
      continue
    }
    if (first !== 0x53)
      throw bad('start', line, 'the line does not begin a record', 'S', asciiText(text.subarray(at, at + 1)))
    if (ended)
      throw bad('after-end', line, 'there is a record after the end record', 'nothing', lineAt(text, at))
    const type = (text[at + 1] ?? 0) - 48
    const width = addressBytes[type]
    if (width === undefined)
      throw bad(
        'type',
        line,
        'there is no such record type',
        'S0 to S9 without S4',
        lineAt(text, at).slice(0, 2),
      )
    const count = byteAt(text, at + 2, line)
    if (count < width + 1)
      throw bad(
        'length',
        line,
        'the count is too small for its address and checksum',
        `at least ${width + 1}`,
        String(count),
      )
    let sum = count
    let address = 0
    const recordStart = used
    const end = at + 4 + 2 * count
    if (end > text.length)
      throw bad(
        'truncated',
        line,
        'the record is cut off',
        `${count} bytes after the count`,
        `${Math.max(0, Math.floor((text.length - at - 4) / 2))}`,
      )
    for (let place = at + 4, index = 0; index < count - 1; place += 2, index++) {
      const high = digit[text[place]!]!
      const low = digit[text[place + 1]!]!
      if ((high | low) < 0) throw notHex(text, place, line)
      const byte = (high << 4) | low
      sum += byte
      if (index < width) address = address * 256 + byte
      else data[used++] = byte
    }
    const checksum = byteAt(text, end - 2, line)
    const wanted = ~sum & 0xff
    if (checksum !== wanted)
      throw bad(
        'checksum',
        line,
        'the checksum of the record is wrong',
        hexNumber(wanted, 2),
        hexNumber(checksum, 2),
      )
    const next = text[end]
    if (next !== undefined && next !== 13 && next !== 10 && next !== 32 && next !== 9) {
      throw bad(
        'length',
        line,
        'the line goes on after its record',
        'the end of the line',
        asciiText(text.subarray(end, end + 8)),
      )
    }
    records++
    at = end
    if (type >= 1 && type <= 3) {
      dataRecords++
      const length = used - recordStart
      if (address + length > 0x1_0000_0000)
        throw bad(
          'range',
          line,
          'the data runs past the end of 32-bit memory',
          'addresses up to 0xFFFFFFFF',
          `0x${hexNumber(address, 8)}`,
        )
      if (last && last.address + (last.to - last.from) === address && last.to === recordStart) last.to = used
      else {
        close()
        last = { address, from: recordStart, to: used, line }
      }
      continue
    }
    if (type === 0)
      header ??= asciiText(data.subarray(recordStart, used))
        .replace(/[^\x20-\x7e]/g, '')
        .trim()
    if ((type === 5 || type === 6) && address !== dataRecords) {
      throw bad(
        'count',
        line,
        'the file says another number of data records than it holds',
        String(dataRecords),
        String(address),
      )
    }
    if (type >= 7) {
      ended = true
      start = { kind: 'linear', address }
    }
    used = recordStart
  }
  close()
  if (records === 0) throw bad('empty', line, 'there is no record in it', 'at least one S-record', 'nothing')
  if (!ended)
    throw bad(
      'no-end',
      line,
      'there is no end record: the file is cut off',
      'S7, S8 or S9',
      'the end of the file',
    )
  return {
    memory: layOut(pieces, 'srec'),
    ...(header ? { header } : {}),
    ...(start?.address ? { start } : {}),
    records,
  }
}

/**
 * Writes a memory map as S-records of 32 data bytes or as many as are asked for, with the narrowest address that reaches its end, an S5 or S6
 * count and the end record that goes with the address.
 */
export function writeSRecord(
  memory: MemoryMap,
  form: { header?: string; start?: number; lineEnd?: string; dataBytes?: number } = {},
): string {
  const end = form.lineEnd ?? '\n'
  return [...sRecordLines(memory, form)].join(end) + end
}

/** The same record by record, without line ends: a large image is never in memory as text. */
export function* sRecordLines(
  memory: MemoryMap,
  form: { header?: string; start?: number; dataBytes?: number } = {},
): Generator<string> {
  const { dataBytes = 32 } = form
  const top = memory.reduce(
    (max, { address, bytes }) => Math.max(max, address + bytes.length - 1),
    form.start ?? 0,
  )
  const width = top <= 0xffff ? 2 : top <= 0xff_ffff ? 3 : 4
  const record = (type: number, address: number, bytes: Uint8Array, wide = addressBytes[type]!) => {
    let sum = bytes.length + wide + 1
    let text = ''
    for (let shift = wide - 1; shift >= 0; shift--) sum += Math.floor(address / 256 ** shift) & 0xff
    for (const byte of bytes) {
      sum += byte
      text += hexNumber(byte, 2)
    }
    return `S${type}${hexNumber(bytes.length + wide + 1, 2)}${hexNumber(address, wide * 2)}${text}${hexNumber(~sum & 0xff, 2)}`
  }
  yield record(
    0,
    0,
    Uint8Array.from(form.header ?? 'image', (letter) => letter.charCodeAt(0) & 0x7f).subarray(0, 60),
  )
  let count = 0
  for (const { address, bytes } of memory) {
    for (let at = 0; at < bytes.length; at += dataBytes) {
      const length = Math.min(dataBytes, bytes.length - at)
      yield record(width - 1, address + at, bytes.subarray(at, at + length))
      count++
    }
  }
  if (count <= 0xff_ffff) yield record(count <= 0xffff ? 5 : 6, count, new Uint8Array(0))
  yield record(11 - width, form.start ?? 0, new Uint8Array(0))
}

function byteAt(text: Uint8Array, at: number, line: number): number {
  const high = digit[text[at] ?? 0]!
  const low = digit[text[at + 1] ?? 0]!
  if ((high | low) < 0) throw notHex(text, at, line)
  return (high << 4) | low
}

const lineAt = (text: Uint8Array, at: number) =>
  asciiText(text.subarray(at, at + 24)).split(/[\r\n]/)[0] ?? ''

function notHex(text: Uint8Array, at: number, line: number): Problem {
  if (at + 1 >= text.length)
    return bad('truncated', line, 'the record is cut off', 'two hexadecimal digits', 'the end of the file')
  return bad(
    'digit',
    line,
    'there is something else than a hexadecimal digit',
    '0 to 9, A to F',
    JSON.stringify(asciiText(text.subarray(at, at + 2))),
  )
}

function bad(kind: string, line: number, says: string, expected: string, found: string): Problem {
  const place: Place = { line }
  return new Problem({
    kind: `srec-${kind}`,
    place,
    says,
    expected,
    found,
    remedy: 'The file is damaged. Fetch it again from where it came.',
  })
}
