import { Problem } from '../kernel'
import { readIntelHex, type IntelHex } from './intel-hex'

export type ImageFormat = 'ihex'

/** First bytes of things that are often sent instead of an image, and what to call them. */
const others: [name: string, first: number[]][] = [
  ['a PNG picture', [0x89, 0x50, 0x4e, 0x47]],
  ['a JPEG picture', [0xff, 0xd8, 0xff]],
  ['a GIF picture', [0x47, 0x49, 0x46, 0x38]],
  ['a PDF document', [0x25, 0x50, 0x44, 0x46]],
  ['a ZIP archive', [0x50, 0x4b, 0x03, 0x04]],
  ['a gzip archive', [0x1f, 0x8b]],
  ['an ELF file', [0x7f, 0x45, 0x4c, 0x46]],
  ['an S-record file', [0x53, 0x30]],
  ['a web page', [0x3c]],
]

/**
 * Reads an image file. The format is told from the content, never from the file's name (PRACTICE B2).
 * @throws Problem that says what the file is instead, where that can be told.
 */
export function readImageFile(file: Uint8Array): { format: ImageFormat } & IntelHex {
  const isOther = others.find(([, first]) => first.every((byte, at) => file[at] === byte))
  if (isOther) {
    throw new Problem({
      kind: 'image-format',
      place: { line: 1, offset: 0 },
      says: `this is ${isOther[0]}, whatever its name says`,
      expected: 'Intel HEX, beginning with a colon',
      found: isOther[1].map((byte) => byte.toString(16).toUpperCase().padStart(2, '0')).join(' '),
      remedy: 'Take the image itself, as Intel HEX.',
    })
  }
  return { format: 'ihex', ...readIntelHex(file) }
}
