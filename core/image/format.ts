import type { Family } from '../family'
import { applicationRegions } from '../family'
import { asciiBytes, bytesText, equalBytes, isProblem, Problem, hexNumber, sha256Hex } from '../kernel'
import { hasDfuSuffix, readDfuSuffix, type DfuSuffix } from './dfu-suffix'
import { readElf } from './elf'
import { readIntelHex } from './intel-hex'
import { refuseTooLarge } from './limits'
import type { MemoryMap } from './memory-map'
import { readSRecord } from './s-record'
import { byRelease } from './told-by-release'
import { byText } from './told-by-text'
import { readUf2 } from './uf2'
import { isZip, readZip, zipBudget } from './zip'

/** Formats that an image can be read from. */
export type ImageFormat = 'ihex' | 'srec' | 'elf' | 'uf2' | 'bin'

/** One image as it was read out of a file. */
export interface ReadImage {
  format: ImageFormat
  memory: MemoryMap
  start?: { kind: 'segment' | 'linear'; address: number }
  /** Header text of an S-record file. */
  header?: string
  /** DFU suffix that followed it, already checked and taken off. */
  dfu?: DfuSuffix
  /** Processor family of a UF2 file. */
  uf2Family?: number
  /** Whether the address is the file's own, was given, comes from a profile that knows the bytes, or is a guess. */
  placed: 'by-file' | 'by-person' | 'by-profile' | 'not-known'
}

/** What came out of a file: an image, or of an archive several with the notes beside them. */
export type ReadFile = { kind: 'image'; image: ReadImage } | { kind: 'bundle'; entries: BundleEntry[] }

/** A file of an archive. */
export interface BundleEntry {
  path: string
  bytes: Uint8Array
  what:
    | { kind: 'image'; image: ReadImage }
    | { kind: 'notes'; text: string }
    | { kind: 'other'; because: string }
}

/** What helps to read a file that does not say everything itself. */
export interface ReadOptions {
  /** Where a plain binary lies, when a person says so. */
  address?: number
  /** Profiles that may know where a plain binary lies. */
  families?: readonly Family[]
  /** Whether reading an archive took too long already. */
  tooLate?: () => boolean
}

/** A release note is read by a person; longer than this it is a book, bytes. */
export const maxNoteBytes = 64 * 1024
/** All notes of an archive together, bytes. */
export const maxNotesBytes = 512 * 1024

/** First bytes of things that are often sent instead of an image, and what to call them. */
const others: [name: string, first: number[]][] = [
  ['a PNG picture', [0x89, 0x50, 0x4e, 0x47]],
  ['a JPEG picture', [0xff, 0xd8, 0xff]],
  ['a GIF picture', [0x47, 0x49, 0x46, 0x38]],
  ['a PDF document', [0x25, 0x50, 0x44, 0x46]],
  ['a gzip archive', [0x1f, 0x8b]],
  ['a 7z archive', [0x37, 0x7a, 0xbc, 0xaf]],
  ['a RAR archive', [0x52, 0x61, 0x72, 0x21]],
  ['an old office document', [0xd0, 0xcf, 0x11, 0xe0]],
  ['a Windows program', [0x4d, 0x5a, 0x90, 0x00]],
  ['a web page', [0x3c, 0x21]],
  ['a web page', [0x3c, 0x68, 0x74, 0x6d]],
]

/**
 * Reads an image file or an archive of them. The format is told from the content, never from the file's name
 * (PRACTICE B2).
 * @throws Problem that says where it went wrong, or what the file is instead where that can be told.
 */
export function readFile(file: Uint8Array, options: ReadOptions = {}): ReadFile {
  refuseTooLarge(file.length)
  if (isZip(file)) return { kind: 'bundle', entries: readBundle(file, options) }
  return { kind: 'image', image: readImageFile(file, options) }
}

/** Reads a file that must be one image. @throws Problem as `readFile`; `image-archive` for an archive. */
export function readImageFile(file: Uint8Array, options: ReadOptions = {}): ReadImage {
  refuseTooLarge(file.length)
  if (file.length === 0) throw refused('the file is empty', 'no bytes')
  const isOther = others.find(([, first]) => first.every((byte, at) => file[at] === byte))
  if (isOther) throw refused(`this is ${isOther[0]}, whatever its name says`, hexStart(file))
  if (isZip(file)) throw refused('this is a ZIP archive within what should be an image', hexStart(file))
  if (hasDfuSuffix(file)) {
    const { payload, suffix } = readDfuSuffix(file)
    return { ...readImageFile(payload, options), dfu: suffix }
  }
  if (file[0] === 0x7f && file[1] === 0x45 && file[2] === 0x4c && file[3] === 0x46) {
    const { memory, start } = readElf(file)
    return { format: 'elf', memory, ...(start ? { start } : {}), placed: 'by-file' }
  }
  if (equalBytes(file.subarray(0, 4), asciiBytes('UF2\n'))) {
    const { parts } = readUf2(file)
    const [part, second] = parts
    if (second)
      throw refused('this file holds images for several processors', `${parts.length} processor families`)
    return {
      format: 'uf2',
      memory: part!.memory,
      placed: 'by-file',
      ...(part!.family === undefined ? {} : { uf2Family: part!.family }),
    }
  }
  const first = firstInk(file)
  if (file[first] === 0x3a && isText(file))
    return { format: 'ihex', ...readIntelHex(unmarked(file)), placed: 'by-file' }
  if (file[first] === 0x53 && isText(file)) {
    const { memory, start, header } = readSRecord(unmarked(file))
    return {
      format: 'srec',
      memory,
      ...(start ? { start } : {}),
      ...(header ? { header } : {}),
      placed: 'by-file',
    }
  }
  if (isText(file))
    throw refused(
      'this is a text, not an image',
      JSON.stringify(String.fromCharCode(...file.subarray(first, first + 12))),
    )
  return placeRaw(file, options)
}

function readBundle(file: Uint8Array, options: ReadOptions): BundleEntry[] {
  const entries: BundleEntry[] = []
  const budget = zipBudget(options.tooLate)
  let notes = 0
  const add = (entry: BundleEntry) => {
    if (entry.what.kind === 'notes') notes += entry.bytes.length
    entries.push(
      entry.what.kind === 'notes' && notes > maxNotesBytes
        ? { ...entry, what: { kind: 'other', because: 'these are more notes than anybody reads' } }
        : entry,
    )
  }
  for (const { path, bytes } of readZip(file, budget)) {
    if (isZip(bytes)) {
      // Nested once, as suppliers send them; deeper is refused.
      for (const inner of readZip(bytes, budget)) {
        if (isZip(inner.bytes)) {
          throw new Problem({
            kind: 'zip-nested',
            place: { at: `${path}/${inner.path}` },
            says: 'there is an archive in an archive in the archive',
            expected: 'archives nested once at most',
            found: 'a third level',
            remedy: 'Unpack it with a tool you trust and drop the image itself.',
          })
        }
        add(entryOf(`${path}/${inner.path}`, inner.bytes, options))
      }
    } else add(entryOf(path, bytes, options))
  }
  if (entries.length === 0) throw refused('the archive is empty', 'no files')
  return entries
}

function entryOf(path: string, bytes: Uint8Array, options: ReadOptions): BundleEntry {
  try {
    return { path, bytes, what: { kind: 'image', image: readImageFile(bytes, options) } }
  } catch (error) {
    if (!isProblem(error)) throw error
    // A text that begins like an image and does not read is a damaged image, not a note.
    const ink = bytes[firstInk(bytes)]
    if (error.facts.kind === 'image-other' && isText(bytes) && bytes.length > 0) {
      return {
        path,
        bytes,
        what:
          bytes.length <= maxNoteBytes
            ? { kind: 'notes', text: textOf(bytes) }
            : { kind: 'other', because: `this text is longer than a note: ${bytesText(bytes.length)}` },
      }
    }
    if (error.facts.kind === 'image-other' || ink === undefined) {
      return { path, bytes, what: { kind: 'other', because: error.facts.says } }
    }
    throw error.about(path)
  }
}

/** A plain binary has no address of its own: a person says it, or a profile that knows the bytes at one. */
function placeRaw(bytes: Uint8Array, { address, families = [] }: ReadOptions): ReadImage {
  if (address !== undefined) return { format: 'bin', memory: [{ address, bytes }], placed: 'by-person' }
  for (const family of families) {
    for (const component of family.components) {
      const { address: block, magic: mark = '' } = component.identity ?? {}
      if (block === undefined) continue
      const magic = asciiBytes(mark)
      for (const { address: start } of applicationRegions(component)) {
        const at = block - start
        if (at >= 0 && equalBytes(bytes.subarray(at, at + magic.length), magic)) {
          return { format: 'bin', memory: [{ address: start, bytes }], placed: 'by-profile' }
        }
      }
    }
  }
  return (
    placeByLabel(bytes, families) ?? { format: 'bin', memory: [{ address: 0, bytes }], placed: 'not-known' }
  )
}

/** Where no identity block has a place: the one application region of the part that a text in the bytes or their digest tells. */
function placeByLabel(bytes: Uint8Array, families: readonly Family[]): ReadImage | null {
  const listed = families.some(({ releases = [] }) => releases.length > 0)
  const told =
    byText([{ address: 0, bytes }], families) ?? byRelease(listed ? [sha256Hex(bytes)] : [], families)
  const family = families.find(({ id }) => id === told?.familyId)
  const component = family?.components.find(({ id }) => id === told?.componentId)
  const [region, another] = component ? applicationRegions(component) : []
  if (!region || another || bytes.length > region.length) return null
  return { format: 'bin', memory: [{ address: region.address, bytes }], placed: 'by-profile' }
}

/** Bytes of the mark that some editors put before a text to tell its coding (Unicode, UTF-8 signature); it says nothing. */
const markBytes = (file: Uint8Array) => (file[0] === 0xef && file[1] === 0xbb && file[2] === 0xbf ? 3 : 0)
const unmarked = (file: Uint8Array) => file.subarray(markBytes(file))

function firstInk(file: Uint8Array): number {
  let at = markBytes(file)
  while (at < file.length && (file[at] === 32 || file[at] === 9 || file[at] === 10 || file[at] === 13)) at++
  return at
}

/** True when the first kilobytes are printable characters and line ends, with UTF-8 allowed. */
function isText(file: Uint8Array): boolean {
  const seen = file.subarray(markBytes(file), 4096)
  let odd = 0
  for (const byte of seen) {
    if (byte === 0) return false
    if (byte < 32 && byte !== 9 && byte !== 10 && byte !== 13) odd++
    else if (byte > 126) odd += 0.25
  }
  return odd <= seen.length / 20
}

function textOf(bytes: Uint8Array): string {
  let escaped = ''
  for (const byte of bytes)
    escaped += byte < 0x80 && byte !== 0x25 ? String.fromCharCode(byte) : `%${hexNumber(byte, 2)}`
  try {
    return decodeURIComponent(escaped)
  } catch {
    return String.fromCharCode(...bytes.subarray(0, 60_000))
  }
}

const hexStart = (file: Uint8Array) => [...file.subarray(0, 4)].map((byte) => hexNumber(byte, 2)).join(' ')

function refused(says: string, found: string): Problem {
  return new Problem({
    kind: 'image-other',
    place: { line: 1, offset: 0 },
    says,
    expected: 'Intel HEX, S-record, ELF, UF2, a DFU file, a plain binary, or a ZIP of these',
    found,
    remedy: 'Take the image itself.',
  })
}
