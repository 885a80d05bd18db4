import { concatBytes, hexOf, isProblem } from '../../kernel'
import { exceptionWords } from './client'
import { readRtu } from './rtu'
import { readRecordRequest } from './file-records'
import type { TraceReader, TraceRow } from '../trace/rows'

const names: Readonly<Record<number, string>> = {
  0x03: 'read holding registers',
  0x06: 'write register',
  0x10: 'write registers',
  0x14: 'read file records',
  0x15: 'write file records',
  0x2b: 'device identification',
}

/** Frames of Modbus RTU: a write is one; what comes is one as soon as its CRC holds, or when the next write follows. */
export function modbusRows(): TraceReader {
  let answer: Uint8Array = new Uint8Array(0)
  let answerAt = 0
  return ({ at, direction, bytes }) => {
    const rows: TraceRow[] = []
    if (direction === 'out') {
      if (answer.length > 0) rows.push(frameRow(answerAt, 'in', answer).row)
      answer = new Uint8Array(0)
      rows.push(frameRow(at, 'out', bytes).row)
      return rows
    }
    if (answer.length === 0) answerAt = at
    answer = concatBytes([answer, bytes])
    const { row, holds } = frameRow(answerAt, 'in', answer)
    if (holds || answer.length >= 256) {
      rows.push(row)
      answer = new Uint8Array(0)
    }
    return rows
  }
}

/** The row of a frame, and whether its CRC holds: if not, more of it may still come. */
function frameRow(at: number, direction: 'out' | 'in', bytes: Uint8Array): { row: TraceRow; holds: boolean } {
  const row = { at, direction, bytes: hexOf(bytes) }
  try {
    const { address, pdu } = readRtu(bytes)
    const code = pdu[0]!
    const who = `${address}`
    const name = names[code & 0x7f] ?? `function ${code & 0x7f}`
    if (code & 0x80) {
      const words = exceptionWords[pdu[1] ?? 0] ?? 'no known reason'
      return {
        row: { ...row, says: `${who}: ${name} refused, exception ${pdu[1]}: ${words}`, wrong: true },
        holds: true,
      }
    }
    return { row: { ...row, says: `${who}: ${name}${detail(direction, code, pdu)}` }, holds: true }
  } catch (error) {
    if (!isProblem(error)) throw error
    return { row: { ...row, says: error.facts.says, wrong: true }, holds: false }
  }
}

function detail(direction: 'out' | 'in', code: number, pdu: Uint8Array): string {
  const word = (at: number) => ((pdu[at] ?? 0) << 8) | (pdu[at + 1] ?? 0)
  if (code === 0x14 || code === 0x15) {
    const [group] = readRecordRequest(pdu) ?? []
    if (group) return `, file ${group.file}, record ${group.record}, ${group.count} records`
    return direction === 'in' ? `, ${Math.max(0, pdu.length - 4)} bytes` : ''
  }
  if (code === 0x2b) return direction === 'in' ? `, ${pdu[6] ?? 0} objects` : ''
  if (code === 0x03 && direction === 'in') return `, ${(pdu[1] ?? 0) / 2} registers`
  if (code === 0x06) return ` ${word(1)} = ${word(3)}`
  return ` ${word(1)}, ${word(3)} of them`
}
