import { hexNumber } from '../kernel'
import {
  dataRecord,
  endRecord,
  linearBase,
  linearStart,
  segmentStart,
  type StartRecord,
} from './intel-hex-records'
import type { MemoryMap } from './memory-map'

/** How an Intel HEX file is written. */
export interface IntelHexForm {
  /** Data bytes a record, 1 to 255; 16 where nothing is said. */
  recordBytes?: number
  lineEnd?: '\n' | '\r\n'
  start?: StartRecord
}

/**
 * Writes a memory map as Intel HEX with linear addresses (type 04), in rising order, no record across a 64 KiB
 * boundary. The first base record is left out while addresses are below 64 KiB.
 */
export function writeIntelHex(memory: MemoryMap, form: IntelHexForm = {}): string {
  const { lineEnd = '\n' } = form
  return [...intelHexLines(memory, form)].join(lineEnd) + lineEnd
}

/** The same record by record, without line ends: a large image is never in memory as text. */
export function* intelHexLines(
  memory: MemoryMap,
  { recordBytes = 16, start }: IntelHexForm = {},
): Generator<string> {
  if (!(recordBytes >= 1 && recordBytes <= 255)) throw new RangeError('A record holds 1 to 255 bytes')
  let upper = 0
  for (const { address, bytes } of memory) {
    for (let at = 0; at < bytes.length;) {
      const here = address + at
      const wanted = Math.floor(here / 0x1_0000)
      if (wanted !== upper) {
        upper = wanted
        yield record(linearBase, 0, [upper >> 8, upper & 255])
      }
      const length = Math.min(recordBytes, bytes.length - at, 0x1_0000 - (here % 0x1_0000))
      yield record(dataRecord, here % 0x1_0000, bytes.subarray(at, at + length))
      at += length
    }
  }
  if (start?.kind === 'linear') {
    const entry = start.address
    yield record(linearStart, 0, [entry >>> 24, (entry >>> 16) & 255, (entry >>> 8) & 255, entry & 255])
  } else if (start) {
    // CS and IP are not kept apart; the same place is written with the paragraph in CS.
    const paragraph = start.address >>> 4
    yield record(segmentStart, 0, [paragraph >> 8, paragraph & 255, 0, start.address & 15])
  }
  yield record(endRecord, 0, [])
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
