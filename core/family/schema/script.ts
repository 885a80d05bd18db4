import * as v from 'valibot'
import { amount, flows, parities, text, whole } from './fields'
import { KeyStep } from './key-steps'

/*
 * Links as data: what is sent to a unit, what is awaited from it, in steps of one shape. A text stands for bytes, one a
 * character; `{slot}` in it for a value. `docs/profile.md` has each step with an example.
 */

const hexBytes = (says: string) =>
  v.pipe(
    v.string(),
    v.regex(
      /^\s*(([0-9A-Fa-f]{2}|\{[^{}]+\})\s*)+$/,
      'Write bytes as pairs of hexadecimal digits, with slots between them: "7F {length:u16be}"',
    ),
    v.description(says),
  )
const slotName = v.pipe(
  v.string(),
  v.regex(/^[a-z][A-Za-z0-9]*$/, 'A slot has a name of letters and digits, a small one first: "blockNumber"'),
  v.description('Slot'),
)
const withinMs = v.pipe(
  v.number(),
  v.minValue(1),
  v.maxValue(3_600_000),
  v.description('The whole wait at most, ms; what comes meanwhile does not lengthen it'),
)
const pauseMs = v.pipe(v.number(), v.minValue(0), v.maxValue(600_000))

/** What an awaited text means. */
export const meanings = ['go', 'refused', 'again', 'busy', 'progress'] as const
const means = v.exactOptional(
  v.pipe(
    v.picklist(meanings),
    v.description(
      '`go` (where nothing is said): on to the next step; `refused`: final, with {reason}; `again`: refused, worth another try; `busy`: go on waiting; `progress`: {done} of {total}',
    ),
  ),
)
/** A text that is awaited, and what it means. */
export const Pattern = v.union(
  [
    v.strictObject({ text: v.pipe(v.string(), v.minLength(1), v.description('Text, with slots')), means }),
    v.strictObject({
      line: v.pipe(
        v.string(),
        v.minLength(1),
        v.description('A whole line, with slots: nothing before it and nothing after'),
      ),
      means,
    }),
    v.strictObject({ bytes: hexBytes('Bytes, with slots'), means }),
  ],
  'Say `text`, `line` or `bytes`: {"text": "> "}',
)
export type Pattern = v.InferOutput<typeof Pattern>
const patterns = v.pipe(v.array(Pattern), v.minLength(1), v.maxLength(16))

/** As the catalogue writes it, or the number itself. */
const crcNumber = v.union([
  v.pipe(
    v.string(),
    v.regex(/^0x[0-9A-Fa-f]{1,8}$/, 'Write it as the catalogue does: "0x1021"'),
    v.transform(Number),
  ),
  v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(0xffff_ffff)),
])
/** A CRC by the parameters of the catalogue. */
export const CrcModel = v.strictObject({
  name: v.exactOptional(text('Its name in the catalogue')),
  width: v.pipe(v.number(), v.integer(), v.minValue(3), v.maxValue(32), v.description('Bits')),
  poly: crcNumber,
  init: crcNumber,
  refin: v.boolean(),
  refout: v.boolean(),
  xorout: crcNumber,
})
export type CrcModel = v.InferOutput<typeof CrcModel>
/** Checksums by name beside the CRCs, which come by the parameters of the catalogue of parametrised CRC algorithms. */
export const plainSums = [
  'sum8',
  'sum16',
  'sum32',
  'minus-sum8',
  'xor8',
  'fletcher16',
  'adler32',
  'crc32',
] as const
/** A checksum: a plain sum by its name, or a CRC by its parameters. */
export const Checksum = v.union([v.picklist(plainSums), CrcModel])
export type Checksum = v.InferOutput<typeof Checksum>

/** A framed binary dialect, described once for a link. */
export const FrameForm = v.strictObject({
  layout: hexBytes(
    'A frame: its fixed bytes, {length}, {sequence}, {payload}, {checksum}, each with its width: "A5 {length:u16le} {sequence:u8} {payload} {checksum:u16be}"',
  ),
  escape: v.pipe(
    v.picklist(['none', 'slip', 'hdlc']),
    v.description('How it is delimited and stuffed: not at all, by RFC 1055, by RFC 1662'),
  ),
  lengthCounts: v.exactOptional(
    v.pipe(v.picklist(['payload', 'payload-and-checksum', 'whole']), v.description('What {length} counts')),
  ),
  checksum: v.exactOptional(Checksum),
  checksumOver: v.exactOptional(
    v.pipe(
      v.picklist(['payload', 'before-it', 'after-first-byte']),
      v.description(
        'What the checksum is taken over: the payload, all before it, all before it but the first byte',
      ),
    ),
  ),
  maxPayload: v.pipe(
    v.number(),
    v.integer(),
    v.minValue(1),
    v.maxValue(65_535),
    v.description('Largest payload, bytes'),
  ),
  echo: v.exactOptional(v.pipe(v.boolean(), v.description('What is sent comes back first, as on one wire'))),
  tries: v.exactOptional(v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(20))),
})
export type FrameForm = v.InferOutput<typeof FrameForm>

const LinkStepBase = [
  v.strictObject({
    do: v.literal('send'),
    text: v.exactOptional(v.pipe(v.string(), v.description('Text, with slots'))),
    bytes: v.exactOptional(hexBytes('Bytes, with slots')),
    characterPauseMs: v.exactOptional(v.pipe(pauseMs, v.description('Pause after each character, ms'))),
    echoWithinMs: v.exactOptional(
      v.pipe(withinMs, v.description('The unit sends each of it back; how long that is waited for, ms')),
    ),
  }),
  v.strictObject({
    do: v.literal('expect'),
    patterns,
    withinMs,
    silenceMs: v.exactOptional(
      v.pipe(
        v.number(),
        v.minValue(1),
        v.maxValue(3_600_000),
        v.description(
          'Longest silence within the wait, ms: a unit that tells progress and stops is not waited for to the end',
        ),
      ),
    ),
  }),
  v.strictObject({
    do: v.literal('lines'),
    dtr: v.exactOptional(v.boolean()),
    rts: v.exactOptional(v.boolean()),
    brk: v.exactOptional(v.pipe(v.boolean(), v.description('Break: the line held low'))),
    forMs: v.pipe(pauseMs, v.description('How long it is left so before the next step, ms')),
  }),
  v.strictObject({
    do: v.literal('speed'),
    baudRate: v.exactOptional(whole('Baud', 50)),
    dataBits: v.exactOptional(v.picklist([5, 6, 7, 8])),
    parity: v.exactOptional(v.picklist(parities)),
    stopBits: v.exactOptional(v.picklist([1, 2])),
    flow: v.exactOptional(
      v.pipe(v.picklist(['none', ...flows]), v.description('Who holds back whom from here on')),
    ),
  }),
  v.strictObject({ do: v.literal('wait'), ms: pauseMs }),
  v.strictObject({
    do: v.literal('ask'),
    says: text('What the person does now: "Press the side key once."'),
    caution: v.exactOptional(text('What can hurt someone in it')),
    into: v.exactOptional(
      v.pipe(slotName, v.description('Slot for what the person types: a password, a key from its maker')),
    ),
    as: v.exactOptional(
      v.pipe(v.picklist(['text', 'hex']), v.description('What is typed; hex are bytes as pairs of digits')),
    ),
  }),
  v.strictObject({
    do: v.literal('page'),
    until: patterns,
    withinMs,
  }),
  v.strictObject({
    do: v.literal('tell'),
    field: text('Line of the snapshot'),
    value: text('What it is, with slots: "{version}"'),
  }),
  v.strictObject({
    do: v.literal('transfer'),
    by: v.picklist(['xmodem', 'xmodem-1k', 'ymodem', 'plain', 'ihex-lines', 'srec-lines']),
    fileName: v.exactOptional(text('Name for YMODEM, with slots')),
    padByte: v.exactOptional(v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(255))),
    recordBytes: v.exactOptional(
      v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(250), v.description('Data bytes of a line')),
    ),
    lineEnd: v.exactOptional(v.picklist(['\r', '\n', '\r\n'])),
    answer: v.exactOptional(
      v.pipe(patterns, v.description('What the unit answers to each line, or to each piece')),
    ),
    withinMs: v.exactOptional(withinMs),
  }),
  v.strictObject({
    do: v.literal('dump'),
    line: v.pipe(
      text(
        'A line as the unit prints it, with {row:bytes} where the bytes stand: "{at:hex8}: {row:bytes} |"',
      ),
    ),
    withinMs,
  }),
  v.strictObject({
    do: v.literal('compute'),
    into: slotName,
    checksum: Checksum,
    over: v.pipe(v.picklist(['data', 'image']), v.description('The piece that is due, or all of the range')),
  }),
  v.strictObject({
    do: v.literal('compare'),
    slot: slotName,
    checksum: Checksum,
  }),
  v.strictObject({
    do: v.literal('frame'),
    bytes: hexBytes('Payload, with slots'),
    answer: patterns,
    withinMs,
  }),
  v.strictObject({
    do: v.literal('key'),
    seed: slotName,
    into: slotName,
    steps: v.pipe(v.array(KeyStep), v.minLength(1)),
  }),
] as const

type Base = v.InferOutput<(typeof LinkStepBase)[number]>
type RepeatStep = {
  do: 'repeat'
  steps: LinkStep[]
  until: Pattern[]
  /** What the person does meanwhile. */
  says?: string
  everyMs: number
  times: number
}
type EachStep = {
  do: 'each'
  of: 'sector' | 'page' | 'chunk'
  bytes?: number
  /** Pieces that may be under way at once. */
  ahead?: number
  steps: LinkStep[]
}
/** One step of an operation: a small object with what it does. */
export type LinkStep = Base | RepeatStep | EachStep
/** A step by what it does. */
export type LinkStepOf<D extends LinkStep['do']> = Extract<LinkStep, { do: D }>

const within: v.GenericSchema<unknown, LinkStep[]> = v.pipe(
  v.array(v.lazy(() => LinkStep)),
  v.minLength(1),
  v.maxLength(64),
)
/** One step of a link script. */
export const LinkStep: v.GenericSchema<unknown, LinkStep> = v.variant('do', [
  ...LinkStepBase,
  v.strictObject({
    do: v.literal('repeat'),
    steps: within,
    until: patterns,
    says: v.exactOptional(text('What the person does meanwhile: "Switch the unit on."')),
    everyMs: v.pipe(v.number(), v.minValue(1), v.maxValue(60_000), v.description('Wait between two, ms')),
    times: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(100_000)),
  }),
  v.strictObject({
    do: v.literal('each'),
    of: v.pipe(
      v.picklist(['sector', 'page', 'chunk']),
      v.description('Sectors and pages as the memory has them, or pieces of `bytes`'),
    ),
    bytes: v.exactOptional(whole('Bytes of a chunk', 1)),
    ahead: v.exactOptional(
      v.pipe(
        v.number(),
        v.integer(),
        v.minValue(2),
        v.maxValue(64),
        v.description(
          'Pieces that the unit takes before it has answered the first of them; one at a time where nothing is said',
        ),
      ),
    ),
    steps: within,
  }),
]) as unknown as v.GenericSchema<unknown, LinkStep>

/** What a link can be asked for. Each is optional: what is absent the plan, the gate and the record name honestly. */
export const operations = [
  'page',
  'live',
  'enter',
  'attach',
  'identify',
  'unlock',
  'read',
  'erase',
  'dryRun',
  'write',
  'check',
  'start',
] as const
export type OperationName = (typeof operations)[number]

/** An operation of a link: its steps. */
export const Operation = v.strictObject({
  steps: v.pipe(v.array(LinkStep), v.minLength(1), v.maxLength(64)),
})
export type Operation = v.InferOutput<typeof Operation>

const op = (says: string) => v.exactOptional(v.pipe(Operation, v.description(says)))
/** A link as data: operations made of steps. */
export const LinkScript = v.strictObject({
  speaks: v.literal('script'),
  opens: v.exactOptional(
    v.pipe(
      v.strictObject({ dtr: v.exactOptional(v.boolean()), rts: v.exactOptional(v.boolean()) }),
      v.description('How DTR and RTS stand while the port is open'),
    ),
  ),
  frame: v.exactOptional(FrameForm),
  staging: v.exactOptional(
    v.pipe(text('Value of {staging}: where a buffer lies that a second command burns')),
  ),
  resumes: v.exactOptional(
    v.pipe(v.boolean(), v.description('A write may begin in the middle, at any piece')),
  ),
  slowerSpeeds: v.exactOptional(
    v.pipe(
      v.array(whole('Baud', 50)),
      v.minLength(1),
      v.description(
        'Lower speeds that the bootloader takes up by itself from what it hears, highest first: a write that fails is tried again at the next',
      ),
    ),
  ),
  writeTries: v.exactOptional(
    v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(20), v.description('Tries of a piece')),
  ),
  thinkMs: v.exactOptional(amount('Usual time of the unit before it answers, ms')),
  operations: v.strictObject({
    page: op('What the firmware says of itself'),
    live: op('What the firmware shows again and again, for a log; its page where nothing is said'),
    enter: op('From the firmware into the bootloader'),
    attach: op('Is the bootloader there? It changes nothing'),
    identify: op('What the bootloader says of the unit'),
    unlock: op('Before anything is written'),
    read: op('Reads a range out'),
    erase: op('Erases a range'),
    dryRun: op('Takes the image as the write does, and throws it away'),
    write: op('Writes a range'),
    check: op('Compares a range by a checksum that the unit computes'),
    start: op('Starts the new firmware'),
  }),
})
export type LinkScript = v.InferOutput<typeof LinkScript>
