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
  return ({ at, direction, bytes }) => {
    const rows: TraceRow[] = []
    const row = (says: string, raw: Uint8Array, wrong = false) =>
      rows.push({ at, direction, says, bytes: hexOf(raw), ...(wrong ? { wrong } : {}) })
    const [first] = bytes
    if (direction === 'out' && (first === SOH || first === STX) && bytes.length >= 132) {
      row(...blockText(bytes))
      return rows
    }
    for (let index = 0; index < bytes.length; index++) {
      const byte = bytes[index]!
      const sign = signs[byte]
      const asks =
        byte === ASK_CRC && open[direction] === '' && direction === 'in' && standsAlone(bytes, index)
      if (sign !== undefined || asks) {
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

function blockText(bytes: Uint8Array): [string, Uint8Array, boolean] {
  const check = bytes.length === 132 || bytes.length === 1028 ? 'sum' : 'crc'
  const block = decodeBlock(bytes.subarray(1), check)
  if (!block) return ['block whose check does not hold', bytes, true]
  const { number, data } = block
  if (number === 0 && bytes[0] === SOH && data.subarray(0, 1)[0] !== undefined) {
    const header = decodeHeader(data)
    if (data.every((byte) => byte === 0)) return ['block 0, empty: end of the batch', bytes, false]
    if (header?.size !== undefined) {
      return [`block 0: file "${header.name}", ${header.size} bytes`, bytes, false]
    }
  }
  return [`block ${number}, ${data.length} bytes, ${check === 'crc' ? 'CRC' : 'sum'} holds`, bytes, false]
}
