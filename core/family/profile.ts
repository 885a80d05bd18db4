import * as v from 'valibot'

/*
 * The family profile: what one kind of equipment is, as data. This schema is the only definition; the JSON
 * Schema in docs/family.schema.json is made from it (npm run schema), and a test keeps the two in step.
 *
 * In the document addresses and lengths of memory are written as hexadecimal text, "0x08008000", because that
 * is how the trade writes and checks them; read, they are numbers.
 */

const text = (says: string) => v.pipe(v.string(), v.trim(), v.minLength(1), v.description(says))
const whole = (says: string, least = 0) =>
  v.pipe(v.number(), v.integer(), v.minValue(least), v.description(says))
const amount = (says: string) => v.pipe(v.number(), v.minValue(0), v.description(says))
const slug = (says: string) =>
  v.pipe(
    v.string(),
    v.regex(/^[a-z0-9]+(-[a-z0-9]+)*$/, 'Use lower-case letters, digits and single hyphens: "fog-signal"'),
    v.description(says),
  )
const hexadecimal = (says: string) =>
  v.pipe(
    v.string(),
    v.regex(/^0x[0-9A-Fa-f]{1,8}$/, 'Write it as hexadecimal of up to 32 bits: "0x08008000"'),
    v.transform(Number),
    v.description(says),
  )

const Region = v.strictObject({
  name: text('What the region is called in the unit’s papers'),
  use: v.pipe(
    v.picklist(['application', 'bootloader', 'settings', 'reserved']),
    v.description('Only `application` may be written by an image'),
  ),
  address: hexadecimal('First byte'),
  length: hexadecimal('Bytes'),
  sectorBytes: v.exactOptional(whole('Smallest piece that can be erased', 1)),
  pageBytes: v.exactOptional(whole('Piece that is programmed at once', 1)),
  eraseMsPerSector: v.exactOptional(amount('Usual time to erase a sector, ms')),
  programMsPerPage: v.exactOptional(amount('Usual time to program a page, ms')),
})

const IdentityField = v.strictObject({
  field: v.pipe(
    v.picklist([
      'deviceIdentifier',
      'hardwareMajor',
      'hardwareMinor',
      'version',
      'buildTime',
      'release',
      'length',
    ]),
    v.description('What the bytes mean'),
  ),
  offset: hexadecimal('From the first byte of the identity block'),
  type: v.pipe(
    v.picklist(['ascii', 'u8', 'u16le', 'u32le', 'unix32le']),
    v.description('`ascii` ends at its length or the first zero; `unix32le` is seconds since 1970 UTC'),
  ),
  length: v.exactOptional(whole('Characters, for `ascii`', 1)),
  names: v.exactOptional(
    v.pipe(
      v.record(v.string(), v.string()),
      v.description('What a number stands for: {"0": "production", "1": "test"}'),
    ),
  ),
})

const ImageIdentity = v.strictObject({
  address: hexadecimal('Where the identity block lies in the unit’s memory'),
  magic: text('Characters that the block begins with; they tell that an image is of this family'),
  fields: v.pipe(v.array(IdentityField), v.minLength(1)),
  integrity: v.exactOptional(
    v.pipe(
      v.picklist(['crc32-trailer']),
      v.description(
        'CRC-32/ISO-HDLC over the first `length` bytes less four, kept little-endian in those four',
      ),
    ),
  ),
})

const Component = v.strictObject({
  id: slug('Short name, used in paths and commands'),
  name: text('Name to a person: "Main processor"'),
  memory: v.strictObject({
    erasedByte: whole('What an erased byte reads as, 255 for NOR flash'),
    regions: v.pipe(v.array(Region), v.minLength(1)),
  }),
  identity: ImageIdentity,
  version: v.strictObject({
    scheme: v.pipe(
      v.picklist(['dotted', 'opaque']),
      v.description('`dotted`: integers, 1.9 before 1.10. `opaque`: can be equal or not, never older'),
    ),
    downgrade: v.pipe(
      v.picklist(['refused', 'held', 'allowed']),
      v.description('What the unit does with an image older than its own; `held` asks a named person'),
    ),
  }),
})

const SnapshotLine = v.strictObject({
  field: v.pipe(
    v.string(),
    v.regex(/^[a-zA-Z][a-zA-Z0-9.-]*$/),
    v.description(
      'deviceIdentifier, hardware, serial, bootloader, version.<component>, buildTime.<component>, or a name of its own',
    ),
  ),
  label: text('The line’s name on the unit’s own page'),
  reads: v.exactOptional(text('How the line reads on a link, with {value} where the value stands')),
  change: v.pipe(
    v.picklist(['must', 'must-not', 'may']),
    v.description('What an update does to the line: change it, leave it, either'),
  ),
})

const Exchange = v.strictObject({
  send: text('Command, with {slots} for values'),
  reads: v.exactOptional(text('Line that carries the answer, with {slots}')),
  progress: v.exactOptional(text('Line that tells progress, with {done} and {total}')),
  timeoutMs: amount('Longest silence before the command counts as unanswered, ms'),
})

const SerialLink = v.strictObject({
  id: slug('Short name of the link'),
  name: text('Which jack and cable, to a person'),
  kind: v.literal('serial'),
  settings: v.strictObject({
    baudRate: whole('Baud', 50),
    dataBits: v.picklist([5, 6, 7, 8]),
    parity: v.picklist(['none', 'even', 'odd']),
    stopBits: v.picklist([1, 2]),
  }),
  console: v.pipe(
    v.strictObject({
      lineEnd: v.picklist(['\r', '\n', '\r\n']),
      done: text('Line that ends a good answer'),
      refused: text('Line that ends a refusal, with {reason}'),
      identify: Exchange,
    }),
    v.description('The running firmware’s own text console'),
  ),
  loader: v.pipe(
    v.strictObject({
      protocol: v.picklist(['xmodem']),
      blockBytes: v.picklist([128, 1024]),
      padByte: whole('Fills the last block; the erased byte, so that nothing is programmed there'),
      ready: text('Line the bootloader shows when it is there'),
      identify: Exchange,
      erase: Exchange,
      write: Exchange,
      checksum: Exchange,
      leave: Exchange,
    }),
    v.description('The bootloader’s commands around the block transfer'),
  ),
})

const Stage = v.strictObject({
  see: v.pipe(v.array(text('A sign')), v.description('What you should see')),
  ifNot: v.exactOptional(
    v.array(v.strictObject({ sign: text('What you see instead'), do: text('What to do') })),
  ),
  normal: v.exactOptional(
    v.pipe(v.array(text('A sign')), v.description('What looks alarming and is normal')),
  ),
  caution: v.exactOptional(text('Danger at this very step, and who may do it')),
})

export const FamilyProfile = v.strictObject({
  format: v.literal('bench-wake/family'),
  formatVersion: v.literal(1),
  id: slug('Short name of the family, never changed'),
  revision: whole('Counts up with every change of the profile', 1),
  name: text('What people call this equipment'),
  summary: text('What it is, in a sentence'),
  hardware: v.strictObject({
    deviceIdentifier: text('What every unit and image of the family carries'),
    revisions: v.pipe(
      v.array(
        v.strictObject({
          major: whole('Hardware major revision: images fit one major only'),
          name: text('What people call it'),
          told: text('How to tell it on the unit'),
        }),
      ),
      v.minLength(1),
    ),
  }),
  components: v.pipe(v.array(Component), v.minLength(1)),
  snapshot: v.pipe(v.array(SnapshotLine), v.minLength(1), v.description('In the order of the unit’s page')),
  links: v.pipe(v.array(SerialLink), v.minLength(1)),
  entry: v.pipe(
    v.array(
      v.strictObject({
        id: slug('Short name'),
        name: text('How, to a person'),
        kind: v.literal('command'),
        send: text('Command to the running firmware'),
        settleMs: amount('Usual time until the bootloader answers, ms'),
        tries: whole('How often it is worth trying', 1),
      }),
    ),
    v.minLength(1),
  ),
  restart: v.strictObject({
    readyMs: amount('Usual time until the new firmware answers, ms'),
    powerCycle: v.pipe(text('What to do to the supply, in order'), v.description('Asked before the proof')),
  }),
  power: v.strictObject({
    nominalVolts: amount('V'),
    floorVolts: amount('Never below this in erase and write, V'),
    ceilingVolts: amount('Never above this, V'),
    amps: v.strictObject({ idle: amount('A'), erase: amount('A'), write: amount('A') }),
    caution: v.exactOptional(text('What the supply can do to a person')),
  }),
  stages: v.pipe(
    v.strictObject({
      enter: Stage,
      erase: Stage,
      write: Stage,
      verify: Stage,
      restart: Stage,
      prove: Stage,
    }),
    v.description('Signs at each stage, told before they come'),
  ),
})

/** A family profile as it is written and exchanged. */
export type FamilyDocument = v.InferInput<typeof FamilyProfile>
/** A family profile as the program reads it: addresses are numbers. */
export type Family = v.InferOutput<typeof FamilyProfile>
export type Component = Family['components'][number]
export type Region = Component['memory']['regions'][number]
export type Link = Family['links'][number]
export type EntryWay = Family['entry'][number]
export type Exchange = Link['loader']['identify']
export type StageName = keyof Family['stages']
export type SnapshotLineRule = Family['snapshot'][number]
