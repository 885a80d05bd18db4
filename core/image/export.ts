import { asciiBytes, bytesText, Problem } from '../kernel'
import { writeDfuSuffix, type DfuSuffix } from './dfu-suffix'
import { writeIntelHex } from './write-intel-hex'
import { bytesAt, spanOf, type MemoryMap } from './memory-map'
import { writeSRecord } from './s-record'
import { writeUf2 } from './uf2'

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

/**
 * Writes a memory map in a format. A plain binary and a DFU file have no addresses: they begin at the image's first
 * byte, gaps are filled.
 * @throws Problem `export-gap` when the gaps are larger than any image.
 */
export function writeImage(memory: MemoryMap, format: WritableFormat, form: ExportForm = {}): Uint8Array {
  const { start } = form
  switch (format) {
    case 'ihex':
      return asciiBytes(writeIntelHex(memory, start ? { start } : {}))
    case 'srec':
      return asciiBytes(
        writeSRecord(memory, {
          ...(form.header ? { header: form.header } : {}),
          ...(start ? { start: start.address } : {}),
        }),
      )
    case 'uf2':
      return writeUf2(memory, form.uf2Family)
    case 'bin':
      return flat(memory, form.fill ?? 0xff)
    case 'dfu':
      return writeDfuSuffix(
        flat(memory, form.fill ?? 0xff),
        form.dfu ?? { vendorId: 0xffff, productId: 0xffff, deviceRelease: 0xffff },
      )
  }
}

function flat(memory: MemoryMap, fill: number): Uint8Array {
  const span = spanOf(memory)
  if (!span) return new Uint8Array(0)
  const gaps = span.to - span.from - memory.reduce((sum, { bytes }) => sum + bytes.length, 0)
  if (gaps > maxFill) {
    throw new Problem({
      kind: 'export-gap',
      place: { at: 'format' },
      says: `a plain binary would hold ${bytesText(gaps)} that are not in the image`,
      expected: `at most ${bytesText(maxFill)} of gaps`,
      found: `${memory.length} separate pieces`,
      remedy: 'Take it as Intel HEX or S-record, which keep the addresses.',
    })
  }
  return bytesAt(memory, span.from, span.to - span.from, fill)
}
