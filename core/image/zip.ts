import { Inflate } from 'fflate'
import { asciiText, bytesText, concatBytes, crc32, hexNumber, Problem } from '../kernel'
import { maxFileBytes } from './limits'

/*
 * ZIP, as APPNOTE 6.3 lays it out: the central directory at the end is what counts. Inflating is the library's; the
 * directory is read here, because a file that lies about its sizes, climbs out of its folder or hides behind a
 * password has to be refused by name before a byte of it is unpacked.
 */

/** A file in an archive. */
export interface ZipEntry {
  /** Path within the archive, with forward slashes. */
  path: string
  bytes: Uint8Array
}

/** What an archive may hold at the most, all its levels together. */
export const zipLimits = { entries: 2000, entryBytes: maxFileBytes, totalBytes: maxFileBytes, ratio: 200 }

/** What one archive may still take with all that is nested in it: it gets less with every file that is unpacked. */
export interface ZipBudget {
  entries: number
  bytes: number
  /** Whether it took too long already; asked between two files and between two pieces of one. */
  tooLate: () => boolean
}

/** A budget that is used up while archives within archives are unpacked. */
export const zipBudget = (tooLate: () => boolean = () => false): ZipBudget => ({
  entries: zipLimits.entries,
  bytes: zipLimits.totalBytes,
  tooLate,
})

/** Whether a file begins as a ZIP archive does. */
export const isZip = (file: Uint8Array) =>
  file[0] === 0x50 &&
  file[1] === 0x4b &&
  ((file[2] === 3 && file[3] === 4) || (file[2] === 5 && file[3] === 6))

interface Listed {
  path: string
  method: number
  packed: number
  size: number
  crc: number
  header: number
}

/**
 * Unpacks an archive, every file within its stated size and all of them within what the archive may take.
 * @param budget shared by an archive and those within it.
 * @throws Problem of kind `zip-…` that names the entry and the byte offset: encrypted, absolute or climbing paths,
 *   too many, too large, too tightly packed, too slow, damaged.
 */
export function readZip(file: Uint8Array, budget: ZipBudget = zipBudget()): ZipEntry[] {
  const view = new DataView(file.buffer, file.byteOffset, file.byteLength)
  const listed = directory(file, view, budget)
  const total = listed.reduce((sum, { size }) => sum + size, 0)
  if (total > budget.bytes) throw overfull(undefined, 0, total)
  return listed
    .filter(({ path }) => !path.endsWith('/'))
    .map((entry) => ({ path: entry.path, bytes: unpack(file, view, entry, budget) }))
}

const overfull = (path: string | undefined, offset: number, found: number) =>
  bad(
    'too-large',
    path,
    offset,
    'what is in it is larger than any image',
    `at most ${bytesText(zipLimits.totalBytes)} with all that is nested in it`,
    bytesText(found),
  )

/** @throws Problem `zip-too-large`, `zip-too-slow`. */
function spend(budget: ZipBudget, bytes: number, path: string, offset: number): void {
  budget.bytes -= bytes
  if (budget.bytes < 0) throw overfull(path, offset, zipLimits.totalBytes - budget.bytes)
  if (budget.tooLate())
    throw bad(
      'too-slow',
      path,
      offset,
      'it takes too long to unpack',
      'an archive of images and notes',
      'one that was made to keep a computer busy, or far too much in one',
    )
}

function directory(file: Uint8Array, view: DataView, budget: ZipBudget): Listed[] {
  const end = endRecord(file, view)
  const count = view.getUint16(end + 10, true)
  let at = view.getUint32(end + 16, true)
  if (count === 0xffff || at === 0xffffffff)
    throw bad('zip64', undefined, end, 'this is a ZIP of the 64-bit kind', 'a plain ZIP', 'ZIP64')
  budget.entries -= count
  if (budget.entries < 0)
    throw bad(
      'too-many',
      undefined,
      end,
      'there are too many files in it',
      `at most ${zipLimits.entries} with all that is nested in it`,
      String(zipLimits.entries - budget.entries),
    )
  const seen = new Set<string>()
  const listed: Listed[] = []
  for (let index = 0; index < count; index++) {
    if (at + 46 > file.length || view.getUint32(at, true) !== 0x02014b50) {
      throw bad('directory', undefined, at, 'the list of files is damaged', 'an entry', 'other bytes')
    }
    const flags = view.getUint16(at + 8, true)
    const nameLength = view.getUint16(at + 28, true)
    const behind = nameLength + view.getUint16(at + 30, true) + view.getUint16(at + 32, true)
    const name = file.subarray(at + 46, at + 46 + nameLength)
    const path = (flags & 0x800 ? utf8(name) : asciiText(name)).replaceAll('\\', '/')
    const entry: Listed = {
      path,
      method: view.getUint16(at + 10, true),
      crc: view.getUint32(at + 16, true),
      packed: view.getUint32(at + 20, true),
      size: view.getUint32(at + 24, true),
      header: view.getUint32(at + 42, true),
    }
    if (path === '' || path.includes('\0'))
      throw bad('path', path, at, 'a file in it has no usable name', 'a name', JSON.stringify(path))
    if (/^(\/|[A-Za-z]:)/.test(path))
      throw bad('absolute', path, at, 'a file in it has an absolute path', 'a path within the archive', path)
    if (path.split('/').includes('..'))
      throw bad('climbs', path, at, 'a file in it climbs out of the archive', 'a path without ".."', path)
    if (seen.has(path)) throw bad('twin', path, at, 'two files in it have one name', 'each name once', path)
    seen.add(path)
    if (flags & 0x41)
      throw bad('encrypted', path, at, 'the archive is encrypted', 'an open archive', 'a password is needed')
    if (entry.method !== 0 && entry.method !== 8) {
      throw bad(
        'method',
        path,
        at,
        'a file in it is packed in a way this program does not know',
        'stored or deflated',
        `method ${entry.method}`,
      )
    }
    if (entry.size > zipLimits.entryBytes)
      throw bad(
        'too-large',
        path,
        at,
        'a file in it is larger than any image',
        `at most ${bytesText(zipLimits.entryBytes)}`,
        bytesText(entry.size),
      )
    // Real firmware packs to a tenth at best; erased flash to a hundredth. What packs tighter was made to flood.
    if (entry.size > 1_000_000 && entry.size > entry.packed * zipLimits.ratio) {
      throw bad(
        'bomb',
        path,
        at,
        'a file in it unpacks to far more than it holds',
        `at most ${zipLimits.ratio} times ${bytesText(entry.packed)}`,
        bytesText(entry.size),
      )
    }
    listed.push(entry)
    at += 46 + behind
  }
  return listed
}

function endRecord(file: Uint8Array, view: DataView): number {
  const min = Math.max(0, file.length - 22 - 0xffff)
  for (let at = file.length - 22; at >= min; at--) {
    if (view.getUint32(at, true) === 0x06054b50) return at
  }
  throw bad(
    'truncated',
    undefined,
    file.length,
    'the archive is cut off: its list of files is missing',
    'a list of files at the end',
    'none',
  )
}

function unpack(
  file: Uint8Array,
  view: DataView,
  { path, header, packed, size, method, crc }: Listed,
  budget: ZipBudget,
): Uint8Array {
  if (header + 30 > file.length || view.getUint32(header, true) !== 0x04034b50) {
    throw bad('directory', path, header, 'the file is not where the archive says', 'a file', 'other bytes')
  }
  const from = header + 30 + view.getUint16(header + 26, true) + view.getUint16(header + 28, true)
  const data = file.subarray(from, from + packed)
  if (data.length !== packed)
    throw bad('truncated', path, from, 'the file is cut off', bytesText(packed), bytesText(data.length))
  if (method === 0) spend(budget, data.length, path, from)
  const bytes = method === 0 ? data : inflate(data, size, path, from, budget)
  if (bytes.length !== size)
    throw bad(
      'size',
      path,
      from,
      'the file has another size than the archive says',
      bytesText(size),
      bytesText(bytes.length),
    )
  const found = crc32(bytes)
  if (found !== crc)
    throw bad(
      'crc',
      path,
      from,
      'the checksum of a file in it does not hold',
      hexNumber(crc, 8),
      hexNumber(found, 8),
    )
  return bytes
}

/** Inflates piece by piece and stops as soon as more comes out than was said. */
function inflate(
  data: Uint8Array,
  size: number,
  path: string,
  offset: number,
  budget: ZipBudget,
): Uint8Array {
  const parts: Uint8Array[] = []
  let total = 0
  const stream = new Inflate((part) => {
    total += part.length
    spend(budget, part.length, path, offset)
    if (total > size)
      throw bad(
        'bomb',
        path,
        offset,
        'the file unpacks to more than the archive says',
        bytesText(size),
        'more',
      )
    parts.push(part)
  })
  try {
    const step = 65_536
    for (let at = 0; at < data.length || at === 0; at += step) {
      stream.push(data.subarray(at, at + step), at + step >= data.length)
    }
  } catch (error) {
    if (error instanceof Problem) throw error
    throw bad(
      'damaged',
      path,
      offset,
      'a file in it cannot be unpacked',
      'deflated data',
      error instanceof Error ? error.message : 'other bytes',
    )
  }
  return parts.length === 1 ? parts[0]! : concatBytes(parts)
}

function utf8(bytes: Uint8Array): string {
  try {
    return decodeURIComponent([...bytes].map((byte) => `%${hexNumber(byte, 2)}`).join(''))
  } catch {
    return asciiText(bytes)
  }
}

function bad(
  kind: string,
  path: string | undefined,
  offset: number,
  says: string,
  expected: string,
  found: string,
): Problem {
  return new Problem({
    kind: `zip-${kind}`,
    place: { offset, ...(path ? { at: path } : {}) },
    says,
    expected,
    found,
    remedy: 'Unpack it with a tool you trust, look at what it is, and drop the image itself.',
  })
}
