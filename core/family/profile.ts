import * as v from 'valibot'
import { versionSchemes } from './version-schemes'

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

/** What can feed a unit; core/ready/power knows how each behaves. */
export const supplyKinds = ['lead-acid', 'agm', 'lfp', 'nmc', 'alkaline', 'nimh', 'bench', 'mains'] as const

const SerialRange = v.strictObject({
  from: text('First serial, prefix and number: "BP-02400"'),
  to: text('Last serial, with the same prefix'),
})

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

const uuid = (says: string) =>
  v.pipe(
    v.string(),
    v.regex(
      /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/,
      'Write a UUID in lower case (RFC 9562)',
    ),
    v.description(says),
  )

/** Where a technician reads a thing, from what is said over a wire to what only an open case shows. */
export const readingPlaces = ['link', 'menu', 'boot-screen', 'app', 'label', 'chip-marking'] as const
const place = v.pipe(v.picklist(readingPlaces), v.description('Where it is read'))

/** Everything that a profile can find in an image's identity block. */
export const identityFields = [
  'deviceIdentifier',
  'hardwareMajor',
  'hardwareMinor',
  'component',
  'model',
  'version',
  'buildTime',
  'release',
  'serial',
  'variant',
  'options',
  'layout',
  'sequence',
  'requiresFrom',
  'requiresBelow',
  'precursor',
  'length',
] as const

const IdentityField = v.strictObject({
  field: v.pipe(v.picklist(identityFields), v.description('What the bytes mean')),
  offset: hexadecimal('From the first byte of the identity block'),
  type: v.pipe(
    v.picklist(['ascii', 'hex', 'u8', 'u16le', 'u32le', 'u16be', 'u32be', 'unix32le', 'unix32be']),
    v.description(
      '`ascii` ends at its length or the first zero; `hex` is bytes as digits; `unix32…` is seconds since 1970 UTC',
    ),
  ),
  length: v.exactOptional(whole('Bytes, for `ascii` and `hex`', 1)),
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
  onlyOn: v.exactOptional(
    v.pipe(v.array(text('A model')), v.minLength(1), v.description('Models that have it; all when absent')),
  ),
  memory: v.strictObject({
    erasedByte: whole('What an erased byte reads as, 255 for NOR flash'),
    regions: v.pipe(v.array(Region), v.minLength(1)),
  }),
  identity: ImageIdentity,
  version: v.strictObject({
    scheme: v.pipe(
      v.picklist(versionSchemes),
      v.description(
        'How versions are ordered. `dotted`: 1.9 before 1.10. `decimal`: 1.10 before 1.9. `semver`: Semantic Versioning 2.0.0. `date`. `lettered`: 4.07 before 4.07b. `line`: leading digits name the hardware line, the rest is dotted. `opaque`: equal or not, never older',
      ),
    ),
    downgrade: v.pipe(
      v.picklist(['refused', 'held', 'allowed']),
      v.description('What the unit does with an image older than its own; `held` asks a named person'),
    ),
  }),
  options: v.exactOptional(
    v.pipe(
      v.array(
        v.strictObject({
          bit: whole('Bit of the image’s `options` number'),
          id: slug('Short name'),
          name: text('What it turns on'),
        }),
      ),
      v.description('What an image of this component can be built with'),
    ),
  ),
  usualMs: v.exactOptional(amount('Usual time of a whole update of it, ms, where the link does not tell')),
})

const SnapshotLine = v.strictObject({
  field: v.pipe(
    v.string(),
    v.regex(/^[a-zA-Z][a-zA-Z0-9.-]*$/),
    v.description(
      'deviceIdentifier, hardware, model, serial, batch, layout, bootloader, version.<component>, buildTime.<component>, options.<component>, sequence.<component>, digest.<component>, or a name of its own',
    ),
  ),
  label: text('The line’s name on the unit’s own page'),
  by: v.exactOptional(place),
  example: v.exactOptional(text('How it looks: "31.07"')),
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

const SerialLinkSchema = v.strictObject({
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

// A link described so that fit, kit and packages know it; `protocol` says who speaks on it.
const OtherLinkSchema = v.strictObject({
  id: slug('Short name of the link'),
  name: text('Which jack and cable, to a person'),
  kind: v.picklist(['rs485', 'usb', 'can', 'kline', 'debug', 'chip', 'media', 'wire']),
  protocol: v.picklist(['modbus-rtu', 'dfu', 'uds', 'kwp', 'swd', 'spi-flash', 'files', 'xmodem', 'ymodem']),
  settings: v.exactOptional(text('Speed, levels and the like, to a person')),
  bytesPerSecond: amount('Usual net rate of a write, bytes a second'),
  usb: v.exactOptional(
    v.strictObject({
      vendorId: whole('Vendor of the bootloader, as a DFU suffix names it'),
      productId: whole('Product of the bootloader'),
    }),
  ),
  medium: v.exactOptional(
    v.pipe(
      v.strictObject({
        name: text('"memory card", "USB stick"'),
        mostBytes: whole('The unit reads no larger one', 1),
        files: v.pipe(
          v.array(
            v.strictObject({
              name: text('Name the unit looks for, where the name matters'),
              component: slug('The component whose image it is'),
            }),
          ),
          v.minLength(1),
          v.description('In the order in which they must be put on it'),
        ),
        othersAllowed: v.boolean(),
      }),
      v.description('The package of files that the unit searches for'),
    ),
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
    vendorId: v.exactOptional(uuid('RFC 9124, vendor identifier')),
    classId: v.exactOptional(uuid('RFC 9124, class identifier')),
    revisions: v.pipe(
      v.array(
        v.strictObject({
          major: whole('Hardware major revision: images fit one major only'),
          name: text('What people call it'),
          told: v.strictObject({ by: place, says: text('How to tell it on the unit') }),
          signs: v.exactOptional(
            v.pipe(
              v.array(
                v.strictObject({
                  field: text('Line of the snapshot: "version.main", "chip"'),
                  startsWith: text('What the line begins with on this revision'),
                }),
              ),
              v.description(
                'Lines that tell the revision. Without any, the first number of the line `hardware` is the major',
              ),
            ),
          ),
        }),
      ),
      v.minLength(1),
    ),
    models: v.exactOptional(
      v.array(v.strictObject({ id: text('As the unit shows it'), name: text('What people call it') })),
    ),
  }),
  components: v.pipe(v.array(Component), v.minLength(1)),
  snapshot: v.pipe(v.array(SnapshotLine), v.minLength(1), v.description('In the order of the unit’s page')),
  links: v.pipe(v.array(v.variant('kind', [SerialLinkSchema, OtherLinkSchema])), v.minLength(1)),
  entry: v.pipe(
    v.array(
      v.variant('kind', [
        v.strictObject({
          id: slug('Short name'),
          name: text('How, to a person'),
          kind: v.literal('command'),
          send: text('Command to the running firmware'),
          settleMs: amount('Usual time until the bootloader answers, ms'),
          tries: whole('How often it is worth trying', 1),
        }),
        v.strictObject({
          id: slug('Short name'),
          name: text('How, to a person'),
          kind: v.literal('by-hand'),
          steps: v.pipe(v.array(text('One thing to do')), v.minLength(1)),
          settleMs: amount('Usual time until the bootloader answers, ms'),
          tries: whole('How often it is worth trying', 1),
        }),
      ]),
    ),
    v.minLength(1),
  ),
  updates: v.strictObject({
    hops: v.pipe(
      v.picklist(['every-release', 'direct', 'house']),
      v.description('Whether releases may be skipped; `house` leaves it to the house rule'),
    ),
    together: v.pipe(
      v.boolean(),
      v.description('True when all components are brought to one version, in their order, hop by hop'),
    ),
    stones: v.exactOptional(
      v.pipe(
        v.array(
          v.strictObject({
            component: slug('Component'),
            version: text('Version that must not be stepped over'),
            says: text('Why'),
          }),
        ),
        v.description('Stepping stones: every way from below to above passes through them'),
      ),
    ),
    noWayBack: v.exactOptional(
      v.pipe(
        v.array(
          v.strictObject({
            component: slug('Component'),
            version: text('From this version on nothing older can be put back'),
            says: text('Why'),
          }),
        ),
        v.description('Told before the first hop'),
      ),
    ),
    issuedPerSerial: v.exactOptional(
      v.pipe(v.boolean(), v.description('True when the supplier issues each image for one serial')),
    ),
  }),
  questions: v.exactOptional(
    v.pipe(
      v.array(
        v.strictObject({
          id: slug('Short name; an image’s `variant` is one of its answers'),
          asks: text('Question about how the unit is used'),
          answers: v.pipe(
            v.array(v.strictObject({ id: slug('As the image carries it'), says: text('Answer') })),
            v.minLength(2),
          ),
        }),
      ),
      v.description('What the choice between variants of one version depends on'),
    ),
  ),
  advisories: v.exactOptional(
    v.pipe(
      v.array(
        v.strictObject({
          id: slug('Short name'),
          component: slug('Component it is about'),
          says: text('What goes wrong, or what is added'),
          words: v.exactOptional(v.array(text('A word in which people report it'))),
          kind: v.picklist(['fault', 'feature']),
          curedIn: text('First version without it'),
          serials: v.exactOptional(
            v.pipe(v.array(SerialRange), v.description('Only these units; all when absent')),
          ),
          batches: v.exactOptional(v.array(text('Batch mark'))),
        }),
      ),
      v.description('Known faults and added features, with the units they are about'),
    ),
  ),
  factory: v.exactOptional(
    v.pipe(
      v.array(
        v.strictObject({
          serials: v.exactOptional(v.array(SerialRange)),
          batches: v.exactOptional(v.array(text('Batch mark'))),
          component: slug('Component'),
          version: text('Version that such units were sold with'),
        }),
      ),
      v.description('Units that were brought up to date before they were sold'),
    ),
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
    supply: v.exactOptional(
      v.pipe(
        v.strictObject({
          chemistry: v.picklist(supplyKinds),
          cells: whole('Cells in series; 1 for a supply without cells', 1),
          capacityAh: amount('Printed capacity, Ah; 0 for a supply without cells'),
          setVolts: v.exactOptional(amount('Volts that a bench or mains supply holds')),
          leadOhms: amount('Leads from source to unit, there and back, ohm'),
          loads: v.pipe(
            v.array(
              v.strictObject({
                id: slug('Short name'),
                name: text('What draws'),
                amps: amount('A'),
                shed: text('How it is shed: "pull fuse F14"'),
              }),
            ),
            v.description('What else draws on it, each with how it is shed'),
          ),
        }),
        v.description('What usually feeds it; a job says what really does'),
      ),
    ),
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
export type FamilyLink = Family['links'][number]
/** A link that this program drives itself: a console and a loader on a serial line. */
export type Link = Extract<FamilyLink, { kind: 'serial' }>
export type OtherLink = Exclude<FamilyLink, { kind: 'serial' }>
export type EntryWay = Family['entry'][number]
export type Revision = Family['hardware']['revisions'][number]
export type Question = NonNullable<Family['questions']>[number]
export type Advisory = NonNullable<Family['advisories']>[number]
export type ReadingPlace = (typeof readingPlaces)[number]
export type IdentityFieldName = (typeof identityFields)[number]
export type Exchange = Link['loader']['identify']
export type StageName = keyof Family['stages']
export type SnapshotLineRule = Family['snapshot'][number]
