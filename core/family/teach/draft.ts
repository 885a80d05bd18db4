import * as v from 'valibot'
import { parities } from '../schema/fields'
import { checksumNames } from './checksums'

/*
 * What is known of a new kind of equipment while it is taught, piece by piece, as a person would say it. Whatever is null is
 * not known yet; the profile that is made of it leaves it out, and the gates say what that costs.
 */

const text = v.pipe(v.string(), v.maxLength(400))
const maybe = <T extends v.GenericSchema>(schema: T) => v.nullable(schema)

/** Ways to move an image that are asked for. */
export const transfers = ['xmodem', 'xmodem-1k', 'ymodem', 'plain', 'ihex-lines', 'srec-lines'] as const

/** What a person has said so far of a new kind of equipment. */
export const TeachDraft = v.object({
  about: v.object({ name: text, id: text, summary: text, deviceIdentifier: text }),
  line: v.object({
    baudRate: v.pipe(v.number(), v.integer(), v.minValue(50), v.maxValue(4_000_000)),
    dataBits: v.picklist([5, 6, 7, 8]),
    parity: v.picklist(parities),
    stopBits: v.picklist([1, 2]),
  }),
  /** True once its speed was found, or said. */
  lineKnown: v.boolean(),
  /** What ends each line that is sent. */
  lineEnd: v.picklist(['\r', '\n', '\r\n', '']),
  /** How an answer ends: by a whole line, or by a prompt without a line's end. */
  ends: maybe(v.object({ by: v.picklist(['line', 'prompt']), text })),
  /** The line that is a refusal, with {reason}. */
  refused: maybe(text),
  /** What the firmware is asked for its page, and which lines of it say what. */
  page: maybe(
    v.object({
      sends: text,
      facts: v.array(v.object({ field: text, label: text, reads: text, seen: text })),
    }),
  ),
  memory: maybe(v.object({ address: text, length: text, sectorBytes: v.number() })),
  /** Into the bootloader: by a word to the firmware, or by hand. */
  entry: maybe(
    v.variant('how', [
      v.object({ how: v.literal('command'), sends: text, settleMs: v.number() }),
      v.object({ how: v.literal('hand'), does: text, settleMs: v.number() }),
    ]),
  ),
  /** Is the bootloader there: what it is asked, and how it shows itself. */
  attach: maybe(v.object({ sends: text, by: v.picklist(['line', 'prompt']), text })),
  /** `done`: the line that says that it is done, where that is not how its other answers end. */
  erase: maybe(v.object({ sends: text, progress: text, withinMs: v.number(), done: v.exactOptional(text) })),
  write: maybe(
    v.object({
      sends: text,
      announces: text,
      by: v.picklist(transfers),
      /** The line that takes each line or the whole image, where that is not how its other answers end. */
      done: v.exactOptional(text),
      /** Sent after the data: a second command that burns a buffer. */
      then: text,
      /** Bytes that go in at once; null where all of it does. */
      pieceBytes: v.nullable(v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(1_048_576))),
    }),
  ),
  check: maybe(v.object({ sends: text, answers: text, checksum: v.picklist(checksumNames) })),
  read: maybe(v.object({ sends: text, line: text })),
  start: maybe(v.object({ sends: text })),
  power: maybe(v.object({ nominalVolts: v.number(), floorVolts: v.number(), ceilingVolts: v.number() })),
})
export type TeachDraft = v.InferOutput<typeof TeachDraft>

/** What is known before anything is: nothing. */
export const emptyDraft = (): TeachDraft => ({
  about: { name: '', id: '', summary: '', deviceIdentifier: '' },
  line: { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 },
  lineKnown: false,
  lineEnd: '\r',
  ends: null,
  refused: null,
  page: null,
  memory: null,
  entry: null,
  attach: null,
  erase: null,
  write: null,
  check: null,
  read: null,
  start: null,
  power: null,
})

/** A draft as it was kept; null where it is none, or of an older form. */
export function readDraft(kept: unknown): TeachDraft | null {
  const read = v.safeParse(TeachDraft, kept)
  return read.success ? read.output : null
}
