import { asciiBytes, bytesText, concatBytes, Problem } from '../kernel'
import { writeDfuSuffix, type DfuSuffix } from './dfu-suffix'
import { intelHexLines } from './write-intel-hex'
import { bytesAt, spanOf, type MemoryMap } from './memory-map'
import { sRecordLines } from './s-record'
import { uf2Blocks } from './uf2'

/** Formats that an image can be exported in. */
export const writableFormats = ['ihex', 'srec', 'uf2', 'bin', 'dfu'] as const
export type WritableFormat = (typeof writableFormats)[number]

/** The ending of a file name for each. */
export const formatEndings: Record<WritableFormat, string> = {
  ihex: 'hex',
  srec: 's19',
  uf2: 'uf2',
  bin: 'bin',
  dfu: 'dfu',
}

/** A plain binary fills its gaps; more than this of made-up bytes is refused. */
export const maxFill = 16 * 1024 * 1024

/** What a format takes beside the memory. */
export interface ExportForm {
  start?: { kind: 'segment' | 'linear'; address: number }
  header?: string
  /** What gaps of a plain binary are filled with. */
  fill?: number
  uf2Family?: number
  dfu?: Omit<DfuSuffix, 'length'>
}

/** Bytes of a piece, about. */
const pieceBytes = 1024 * 1024

/**
 * Writes a memory map in a format, piece by piece. A plain binary and a DFU file have no addresses: they begin at the
 * image's first byte, gaps are filled.
 * @throws Problem `export-gap` when the gaps are larger than any image; before the first piece.
 */
export function* imagePieces(
  memory: MemoryMap,
  format: WritableFormat,
  form: ExportForm = {},
): Generator<Uint8Array> {
  const { start } = form
  refuseGaps(
    memory.map(({ address, bytes }) => ({ address, length: bytes.length })),
    format,
  )
  switch (format) {
    case 'ihex':
      return yield* textPieces(intelHexLines(memory, start ? { start } : {}))
    case 'srec':
      return yield* textPieces(
        sRecordLines(memory, {
          ...(form.header ? { header: form.header } : {}),
          ...(start ? { start: start.address } : {}),
        }),
      )
    case 'uf2':
      return yield* joined(uf2Blocks(memory, form.uf2Family))
    case 'bin':
      return yield* flatPieces(memory, form.fill ?? 0xff)
    case 'dfu':
      yield writeDfuSuffix(
        flat(memory, form.fill ?? 0xff),
        form.dfu ?? { vendorId: 0xffff, productId: 0xffff, deviceRelease: 0xffff },
      )
  }
}

/** The same as one piece. @throws Problem `export-gap`. */
export function writeImage(memory: MemoryMap, format: WritableFormat, form: ExportForm = {}): Uint8Array {
  return concatBytes([...imagePieces(memory, format, form)])
}

/** Lines, each ended, in pieces. */
function* textPieces(lines: Iterable<string>): Generator<Uint8Array> {
  let text = ''
  for (const line of lines) {
    text += `${line}\n`
    if (text.length < pieceBytes) continue
    yield asciiBytes(text)
    text = ''
  }
  if (text !== '') yield asciiBytes(text)
}

/** Small blocks in pieces. */
function* joined(blocks: Iterable<Uint8Array>): Generator<Uint8Array> {
  let some: Uint8Array[] = []
  let size = 0
  for (const block of blocks) {
    some.push(block)
    size += block.length
    if (size < pieceBytes) continue
    yield concatBytes(some)
    some = []
    size = 0
  }
  if (size > 0) yield concatBytes(some)
}

/** A plain binary in pieces: what is set, and what fills the gaps. */
function* flatPieces(memory: MemoryMap, fill: number): Generator<Uint8Array> {
  let next = memory[0]?.address ?? 0
  for (const { address, bytes } of memory) {
    for (; next < address; next += Math.min(pieceBytes, address - next))
      yield new Uint8Array(Math.min(pieceBytes, address - next)).fill(fill)
    for (let at = 0; at < bytes.length; at += pieceBytes) yield bytes.subarray(at, at + pieceBytes)
    next = address + bytes.length
  }
}

function flat(memory: MemoryMap, fill: number): Uint8Array {
  const span = spanOf(memory)
  return span ? bytesAt(memory, span.from, span.to - span.from, fill) : new Uint8Array(0)
}

/**
 * Refuses an export whose made-up bytes are more than any image, by its segments alone: nothing is read for it.
 * @param segments in rising order.
 * @throws Problem `export-gap`.
 */
export function refuseGaps(
  segments: readonly { address: number; length: number }[],
  format: WritableFormat,
): void {
  const [first, last] = [segments[0], segments.at(-1)]
  if (!first || !last || !(format === 'bin' || format === 'dfu')) return
  const set = segments.reduce((sum, { length }) => sum + length, 0)
  const gaps = last.address + last.length - first.address - set
  if (gaps <= maxFill) return
  throw new Problem({
    kind: 'export-gap',
    place: { at: 'format' },
    says: `a plain binary would hold ${bytesText(gaps)} that are not in the image`,
    expected: `at most ${bytesText(maxFill)} of gaps`,
    found: `${segments.length} separate pieces`,
    remedy: 'Take it as Intel HEX or S-record, which keep the addresses.',
  })
}
