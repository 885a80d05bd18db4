import { asciiText, hexOf } from '../../kernel'
import { ACK, ASK_CRC, CAN, decodeBlock, EOT, NAK, SOH, STX } from '../xmodem'
import { decodeHeader } from '../ymodem'
import type { TraceReader, TraceRow } from '../trace/rows'

const signs: Readonly<Record<number, string>> = {
  [ACK]: 'ACK',
  [NAK]: 'NAK',
  [CAN]: 'CAN',
  [EOT]: 'EOT, end of the file',
}

/** Lines of a text console, and the blocks of XMODEM and YMODEM between them. */
export function consoleRows(): TraceReader {
  const open = { out: '', in: '' }
  /** Data of a file went out; until it ends or is called off, a block 0 is one of its own: after number 255 comes 0 again. */
  let inFile = false
  return ({ at, direction, bytes }) => {
    const rows: TraceRow[] = []
    const row = (says: string, raw: Uint8Array, wrong = false) =>
      rows.push({ at, direction, says, bytes: hexOf(raw), ...(wrong ? { wrong } : {}) })
    const [first] = bytes
    if (direction === 'out' && (first === SOH || first === STX) && bytes.length >= 132) {
      const { number, text } = blockText(bytes, inFile)
      inFile ||= (number ?? 0) > 0
      row(...text)
      return rows
    }
    for (let index = 0; index < bytes.length; index++) {
      const byte = bytes[index]!
      const sign = signs[byte]
      const asks =
        byte === ASK_CRC && open[direction] === '' && direction === 'in' && standsAlone(bytes, index)
      if (sign !== undefined || asks) {
        if ((byte === EOT && direction === 'out') || byte === CAN) inFile = false
        row(asks ? 'C, asks for blocks with CRC' : sign!, Uint8Array.of(byte), byte === NAK || byte === CAN)
        continue
      }
      if (byte === 0x0d || byte === 0x0a) {
        if (open[direction].trim() !== '' || (direction === 'out' && byte === 0x0d)) {
          row(open[direction].trim() || '(empty line)', asBytes(open[direction]))
        }
        open[direction] = ''
        continue
      }
      open[direction] += asciiText(Uint8Array.of(byte))
      // Noise at a wrong speed has no line ends.
      if (open[direction].length > 200) {
        row(open[direction], asBytes(open[direction]), true)
        open[direction] = ''
      }
    }
    return rows
  }
}

const asBytes = (text: string) => Uint8Array.from(text, (each) => each.charCodeAt(0))
/** A C that no letters follow is a question of the block transfer, and no word. */
const standsAlone = (bytes: Uint8Array, at: number) => {
  const next = bytes[at + 1]
  return next === undefined || next === ASK_CRC || next < 0x20
}

interface BlockRow {
  /** Null where its check does not hold. */
  number: number | null
  text: [says: string, raw: Uint8Array, wrong: boolean]
}

function blockText(bytes: Uint8Array, inFile: boolean): BlockRow {
  const check = bytes.length === 132 || bytes.length === 1028 ? 'sum' : 'crc'
  const block = decodeBlock(bytes.subarray(1), check)
  if (!block) return { number: null, text: ['block whose check does not hold', bytes, true] }
  const { number, data } = block
  const row = (says: string): BlockRow => ({ number, text: [says, bytes, false] })
  if (number === 0 && !inFile) {
    const header = decodeHeader(data)
    if (bytes[0] === SOH && data.every((byte) => byte === 0)) return row('block 0, empty: end of the batch')
    if (header?.size !== undefined) return row(`block 0: file "${header.name}", ${header.size} bytes`)
  }
  return row(`block ${number}, ${data.length} bytes, ${check === 'crc' ? 'CRC' : 'sum'} holds`)
}
