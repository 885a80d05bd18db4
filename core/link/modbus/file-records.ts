import { Problem } from '../../kernel'
import { bitsPerCharacter, type Port, type SerialSettings } from '../port'
import { askModbus, type ModbusTiming } from './client'
import { silenceMs } from './rtu'

/*
 * File records (Application Protocol V1.1b3, clauses 6.14 and 6.15): 16-bit records, high byte first, 10 000 to a file.
 * An image is laid over them word by word: word 0 is record 0 of file 1, word 10 000 record 0 of file 2.
 */

/** Records of one file: 0 to 9999 (clause 6.14). */
export const recordsPerFile = 10_000
/** Records that one write carries: 253 bytes of PDU less 9 around them, whole records (clause 4.1). */
export const recordsPerWrite = 122
const referenceType = 6

/** Where a word of an image lies, where the image begins with record 0 of `firstFile`. */
export function recordOf(word: number, firstFile = 1): { file: number; record: number } {
  return { file: firstFile + Math.floor(word / recordsPerFile), record: word % recordsPerFile }
}

/** Where an image lies among a unit's files. */
export interface RecordPlace {
  firstFile?: number
  /** Bytes before it in these files; an even number. */
  offset?: number
}

/** Request to write records; the unit answers with the same (clause 6.15). @param bytes an even number. */
export function writeRecordsPdu(file: number, record: number, bytes: Uint8Array): Uint8Array {
  const pdu = new Uint8Array(9 + bytes.length)
  pdu[0] = 0x15
  pdu[1] = 7 + bytes.length
  pdu.set(subRequest(file, record, bytes.length / 2), 2)
  pdu.set(bytes, 9)
  return pdu
}

/** Request to read records, one or several groups (clause 6.14). */
export function readRecordsPdu(
  groups: readonly { file: number; record: number; count: number }[],
): Uint8Array {
  const pdu = new Uint8Array(2 + 7 * groups.length)
  pdu[0] = 0x14
  pdu[1] = 7 * groups.length
  groups.forEach(({ file, record, count }, index) => pdu.set(subRequest(file, record, count), 2 + 7 * index))
  return pdu
}

function subRequest(file: number, record: number, count: number): number[] {
  return [referenceType, file >> 8, file & 255, record >> 8, record & 255, count >> 8, count & 255]
}

/** A group of records as a unit is asked for it, or told it. */
export interface RecordGroup {
  file: number
  record: number
  count: number
  /** What is to be written; absent in a read. */
  bytes?: Uint8Array
}

/**
 * Reads a request for file records, of either kind.
 * @returns null when it is none, or its lengths do not agree.
 */
export function readRecordRequest(pdu: Uint8Array): RecordGroup[] | null {
  const writes = pdu[0] === 0x15
  if ((pdu[0] !== 0x14 && !writes) || pdu[1] !== pdu.length - 2) return null
  const groups: RecordGroup[] = []
  for (let at = 2; at < pdu.length;) {
    if (at + 7 > pdu.length || pdu[at] !== referenceType) return null
    const word = (offset: number) => (pdu[at + offset]! << 8) | pdu[at + offset + 1]!
    const group = { file: word(1), record: word(3), count: word(5) }
    at += 7
    if (!writes) {
      groups.push(group)
      continue
    }
    const bytes = pdu.slice(at, at + group.count * 2)
    if (bytes.length !== group.count * 2) return null
    groups.push({ ...group, bytes })
    at += bytes.length
  }
  return groups.length > 0 ? groups : null
}

/** The answer to a read: each group's bytes after their length and reference type (clause 6.14). */
export function answerRecords(groups: readonly Uint8Array[]): Uint8Array {
  const parts = groups.flatMap((bytes) => [bytes.length + 1, referenceType, ...bytes])
  return Uint8Array.of(0x14, parts.length, ...parts)
}

/**
 * The groups of an answer to a read.
 * @throws Problem `modbus-records` when its lengths do not agree.
 */
export function readRecordAnswer(pdu: Uint8Array): Uint8Array[] {
  const groups: Uint8Array[] = []
  for (let at = 2; at < pdu.length;) {
    const length = pdu[at]!
    if (length < 1 || at + 1 + length > pdu.length || pdu[at + 1] !== referenceType) {
      throw new Problem({
        kind: 'modbus-records',
        place: { offset: at },
        says: 'the answer’s records do not add up',
        remedy: 'Read again; if it comes back, look at speed and wiring.',
      })
    }
    groups.push(pdu.slice(at + 2, at + 1 + length))
    at += 1 + length
  }
  return groups
}

/** How far a transfer is. */
export type RecordProgress = (doneBytes: number, retries: number) => void | Promise<void>

/** How often a group is sent again before it is given up. */
const triesPerGroup = 5

/**
 * Writes an image as file records, group by group, each acknowledged by the unit's own copy of it.
 * @param from byte to go on from after a cut; an even number that an earlier progress named.
 * @throws Problem of askModbus; `modbus-records` when a unit acknowledges something else than was sent.
 */
export async function writeRecords(
  port: Port,
  address: number,
  image: Uint8Array,
  timing: ModbusTiming,
  report: RecordProgress = () => {},
  from = 0,
  { firstFile = 1, offset = 0 }: RecordPlace = {},
): Promise<void> {
  const even = image.length % 2 === 0 ? image : Uint8Array.from([...image, 0xff])
  let retries = 0
  for (let at = from; at < even.length;) {
    const { file, record } = recordOf((offset + at) / 2, firstFile)
    const count = Math.min(recordsPerWrite, (even.length - at) / 2, recordsPerFile - record)
    const pdu = writeRecordsPdu(file, record, even.subarray(at, at + count * 2))
    for (let attempt = 1; ; attempt++) {
      try {
        const echo = await askModbus(port, address, pdu, timing)
        if (!same(echo, pdu)) throw notSame(at)
        break
      } catch (error) {
        if (attempt === triesPerGroup) throw error
        retries++
      }
    }
    at += count * 2
    await report(Math.min(at, image.length), retries)
  }
}

/** Reads bytes back from file records: for a backup, or to prove a write. */
export async function readRecords(
  port: Port,
  address: number,
  length: number,
  timing: ModbusTiming,
  report: RecordProgress = () => {},
  { firstFile = 1, offset = 0 }: RecordPlace = {},
): Promise<Uint8Array> {
  const image = new Uint8Array(length + (length % 2))
  for (let at = 0; at < image.length;) {
    const { file, record } = recordOf((offset + at) / 2, firstFile)
    const count = Math.min(recordsPerWrite, (image.length - at) / 2, recordsPerFile - record)
    const answer = await askModbus(port, address, readRecordsPdu([{ file, record, count }]), timing)
    const [bytes] = readRecordAnswer(answer)
    if (bytes?.length !== count * 2) throw notSame(at)
    image.set(bytes, at)
    at += count * 2
    await report(Math.min(at, length), 0)
  }
  return image.slice(0, length)
}

/** Time the wire itself needs for an image, ms: each group there and back, with the silences between (Serial Line V1.02). */
export function recordWireMs(length: number, settings: SerialSettings): number {
  const characterMs = (bitsPerCharacter(settings) * 1000) / settings.baudRate
  let ms = 0
  for (let at = 0; at < length;) {
    const { record } = recordOf(at / 2)
    const count = Math.min(recordsPerWrite, Math.ceil((length - at) / 2), recordsPerFile - record)
    // Address, nine around the records, CRC: twelve; the answer is as long.
    ms += 2 * (12 + count * 2) * characterMs + 2 * silenceMs(settings)
    at += count * 2
  }
  return ms
}

const same = (a: Uint8Array, b: Uint8Array) => a.length === b.length && a.every((byte, at) => byte === b[at])
const notSame = (at: number) =>
  new Problem({
    kind: 'modbus-records',
    place: { offset: at },
    says: 'the unit acknowledges other records than were sent',
    remedy: 'Send them again; with a second unit on the bus unplug it first.',
  })
