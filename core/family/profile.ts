import * as v from 'valibot'
import { EntryScript, Panel } from './entry-script'
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

/** What is due behind a proof. */
export const careKinds = [
  'scare',
  'function-test',
  'fault-codes',
  're-learn',
  'bind',
  'settings',
  'options',
  'network',
] as const

/** What goes into the bag. */
export const kitKinds = [
  'adapter',
  'cable',
  'card',
  'charger',
  'tool',
  'protection',
  'papers',
  'spare',
] as const

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

/** What a pin is for; core/ready/wiring knows which may be joined to which. */
export const pinRoles = [
  'ground',
  'supply',
  'transmit',
  'receive',
  'data-a',
  'data-b',
  'can-high',
  'can-low',
  'line',
  'reset',
  'clock',
  'data',
  'data-in',
  'data-out',
  'select',
  'usb',
  'none',
] as const

export const Pin = v.strictObject({
  id: text('As it is counted or printed: "1", "GND"'),
  name: text('What it carries, to a person'),
  role: v.pipe(v.picklist(pinRoles), v.description('What it is for; `none` is not connected inside')),
  volts: v.exactOptional(amount('Of a signal: the most it bears; of a supply: what it gives or takes, V')),
  needed: v.exactOptional(v.pipe(v.boolean(), v.description('The link does not work without it'))),
  open: v.exactOptional(v.pipe(v.boolean(), v.description('It must stay open'))),
})

const Wiring = v.pipe(
  v.strictObject({
    connector: text('Where it is joined: "Service jack J2"'),
    jack: v.exactOptional(text('Name of the pinout, where plugs that look alike are not')),
    pins: v.pipe(v.array(Pin), v.minLength(1), v.description('In the order in which they lie')),
    form: v.pipe(
      v.picklist(['pass-through', 'converter']),
      v.description('Whether the cable carries the signals as they are, or has a converter inside'),
    ),
    fed: v.pipe(
      v.picklist(['own', 'adapter', 'either']),
      v.description('What feeds the unit meanwhile: its own supply, the adapter, or either, but only one'),
    ),
    faces: v.exactOptional(text('How the plug is turned: "signal wire faces the label"')),
    terminated: v.exactOptional(
      v.pipe(v.boolean(), v.description('A bus with 120 ohm at both ends, 60 ohm between its wires')),
    ),
    order: v.exactOptional(v.pipe(v.array(text('A step')), v.description('In which order it is joined'))),
    says: v.exactOptional(text('What else to know: "two equal jacks, either will do"')),
  }),
  v.description('The unit’s side of the wiring'),
)

/** Whether the unit is switched on. */
const powerState = v.picklist(['on', 'off'])
const EntryPower = v.pipe(
  v.strictObject({
    begins: v.pipe(powerState, v.description('How the unit stands when the entry begins')),
    ends: v.pipe(powerState, v.description('How it stands when it is in')),
  }),
  v.description('Key and switch belong to the entry: the order of power leads to where it begins'),
)

const OrderItem = v.strictObject({
  id: slug('Short name'),
  does: text('One thing to do: "Panel breaker Q2 off"'),
  caution: v.exactOptional(text('Danger at this very step, and who may do it')),
  undoes: v.exactOptional(
    slug(
      'What it brings back: a neighbour, `load-` and a load, `adapter`, `charger`. It is then not asked for twice',
    ),
  ),
})

const LineSettings = v.strictObject({
  baudRate: whole('Baud', 50),
  dataBits: v.picklist([5, 6, 7, 8]),
  parity: v.picklist(['none', 'even', 'odd']),
  stopBits: v.picklist([1, 2]),
})

/** Clock behind a serial line, of a unit or of an adapter. */
export const LineClock = v.pipe(
  v.strictObject({
    hertz: v.pipe(
      v.number(),
      v.minValue(1000),
      v.maxValue(1e9),
      v.description('Clock that the speed is divided from, Hz'),
    ),
    oversampling: v.exactOptional(
      v.pipe(v.picklist([4, 8, 16, 32]), v.description('Looks at each bit; 16 where it is not said')),
    ),
    ppm: v.exactOptional(
      v.pipe(
        v.number(),
        v.minValue(0),
        v.maxValue(100_000),
        v.description('Tolerance of the clock, millionths'),
      ),
    ),
  }),
  v.description('Clock of the serial line, where the manual tells it: the speed is judged by it'),
)

const LinkRevisions = v.pipe(
  v.array(whole('Hardware major')),
  v.minLength(1),
  v.description('Hardware revisions that have this link; all of them where nothing is said'),
)

const SerialLinkSchema = v.strictObject({
  id: slug('Short name of the link'),
  name: text('Which jack and cable, to a person'),
  kind: v.literal('serial'),
  revisions: v.exactOptional(LinkRevisions),
  wiring: v.exactOptional(Wiring),
  settings: LineSettings,
  clock: v.exactOptional(LineClock),
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
      protocol: v.picklist(['xmodem', 'ymodem']),
      blockBytes: v.picklist([128, 1024]),
      resumes: v.exactOptional(
        v.pipe(v.boolean(), v.description('True when a transfer may begin in the middle, at any block')),
      ),
      padByte: whole('Fills the last block; the erased byte, so that nothing is programmed there'),
      ready: text('Line the bootloader shows when it is there'),
      identify: Exchange,
      erase: Exchange,
      write: Exchange,
      rehearsal: v.exactOptional(
        v.pipe(Exchange, v.description('Takes the image as the write does and throws it away: a dry run')),
      ),
      speeds: v.exactOptional(
        v.pipe(
          v.array(whole('Baud', 50)),
          v.minLength(1),
          v.description(
            'Lower speeds that the bootloader takes up by itself from what it hears, highest first',
          ),
        ),
      ),
      checksum: Exchange,
      leave: Exchange,
    }),
    v.description('The bootloader’s commands around the block transfer'),
  ),
})

/** How the bytes of a value are shown: as text, as a whole number high byte first, or as hexadecimal digits. */
const shownAs = v.picklist(['ascii', 'number', 'hex'])
/** Lines of the unit's page, each with its place on this link. */
const pageOf = <Place extends v.ObjectEntries>(place: Place) =>
  v.pipe(
    v.array(v.strictObject({ field: text('Line of the snapshot'), ...place })),
    v.minLength(1),
    v.description('What the unit says of itself over this link, by lines of the snapshot'),
  )
const Diagnostics = {
  page: pageOf({
    identifier: v.exactOptional(hexadecimal('Data identifier (service 22)')),
    faults: v.exactOptional(v.pipe(v.literal(true), v.description('The fault codes (service 19)'))),
    as: shownAs,
  }),
  securityLevel: whole('Level of security access (service 27)', 1),
  secret: hexadecimal('Secret of the demo seed and key'),
  eraseRoutine: hexadecimal('Routine that erases (service 31)'),
  checkRoutine: hexadecimal('Routine that gives the CRC-32 over a range'),
}

// What the program must know to drive such a link itself; without it the link is only described.
const Drive = v.variant('speaks', [
  v.strictObject({
    speaks: v.literal('modbus'),
    address: whole('The unit’s address on the bus', 1),
    page: pageOf({
      register: whole('First holding register'),
      count: whole('Registers', 1),
      as: shownAs,
    }),
    registers: v.strictObject({
      state: whole('0 firmware, 1 loader, 2 loader at work, 3 loader with a fault'),
      command: whole('Takes the commands'),
      progress: whole('Two registers: sectors done, sectors in all'),
      address: whole('Two registers, high word first: where the command begins'),
      length: whole('Two registers, high word first: how far it goes'),
      checksum: whole('Two registers, high word first: CRC-32 of the last check'),
    }),
    commands: v.strictObject({
      enter: whole('Firmware to loader'),
      erase: whole('Erase the range'),
      check: whole('Compute the CRC-32 of the range'),
      leave: whole('Start the firmware'),
    }),
    files: v.pipe(
      v.array(v.strictObject({ component: slug('Component'), first: whole('Its first file of records', 1) })),
      v.minLength(1),
    ),
  }),
  v.strictObject({
    speaks: v.literal('dfu'),
    page: pageOf({ string: whole('Index of the string descriptor', 1) }),
  }),
  v.strictObject({
    speaks: v.literal('uds'),
    bitsPerSecond: whole('Bit rate of the bus', 10_000),
    requestId: hexadecimal('Identifier of requests'),
    answerId: hexadecimal('Identifier of answers'),
    ...Diagnostics,
  }),
  v.strictObject({
    speaks: v.literal('kwp'),
    target: hexadecimal('The controller’s address'),
    wake: v.picklist(['fast', 'five-baud']),
    ...Diagnostics,
  }),
  v.strictObject({
    speaks: v.literal('debug'),
    hertz: whole('Clock of the serial wire', 1000),
    page: pageOf({
      address: hexadecimal('Where it stands in memory'),
      length: whole('Bytes', 1),
      as: shownAs,
    }),
    eraseMs: amount('Longest that one page’s erasing takes, ms'),
    flash: v.pipe(
      v.strictObject({
        keyRegister: hexadecimal('Takes the keys'),
        keys: v.array(hexadecimal('In their order')),
        statusRegister: hexadecimal('Status'),
        busy: hexadecimal('Bit while it works'),
        errors: hexadecimal('Bits of faults; written back they are cleared'),
        controlRegister: hexadecimal('Control'),
        program: hexadecimal('Bit that allows programming'),
        pageErase: hexadecimal('Bit of page erase'),
        massErase: hexadecimal('Bit of the whole erase'),
        start: hexadecimal('Bit that starts an erase'),
        lock: hexadecimal('Bit that shuts it'),
        addressRegister: hexadecimal('Page to erase'),
        width: v.picklist([2, 4]),
        pageBytes: whole('Bytes of a page', 4),
        protection: v.strictObject({
          register: hexadecimal('Tells the read-out protection'),
          mask: hexadecimal('Bit of it'),
        }),
      }),
      v.description('The flash controller, by the unit’s papers'),
    ),
  }),
])

// A link described so that fit, kit and packages know it; `protocol` says who speaks on it.
const OtherLinkSchema = v.strictObject({
  id: slug('Short name of the link'),
  name: text('Which jack and cable, to a person'),
  kind: v.picklist(['rs485', 'usb', 'can', 'kline', 'debug', 'chip', 'media', 'wire']),
  revisions: v.exactOptional(LinkRevisions),
  wiring: v.exactOptional(Wiring),
  protocol: v.picklist(['modbus-rtu', 'dfu', 'uds', 'kwp', 'swd', 'spi-flash', 'files', 'xmodem', 'ymodem']),
  settings: v.exactOptional(text('Speed, levels and the like, to a person')),
  line: v.exactOptional(v.pipe(LineSettings, v.description('How the line is set, where it is a serial one'))),
  clock: v.exactOptional(LineClock),
  bytesPerSecond: amount('Usual net rate of a write, bytes a second'),
  drive: v.exactOptional(v.pipe(Drive, v.description('How this program drives it itself'))),
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
          power: v.exactOptional(EntryPower),
          script: v.exactOptional(EntryScript),
          settleMs: amount('Usual time until the bootloader answers, ms'),
          tries: whole('How often it is worth trying', 1),
        }),
        v.strictObject({
          id: slug('Short name'),
          name: text('How, to a person'),
          kind: v.literal('by-hand'),
          steps: v.pipe(v.array(text('One thing to do')), v.minLength(1)),
          power: v.exactOptional(EntryPower),
          script: v.exactOptional(EntryScript),
          settleMs: amount('Usual time until the bootloader answers, ms'),
          tries: whole('How often it is worth trying', 1),
        }),
      ]),
    ),
    v.minLength(1),
  ),
  panel: v.exactOptional(v.pipe(Panel, v.description('The unit’s face, for the drawing of the coach'))),
  updates: v.strictObject({
    hops: v.pipe(
      v.picklist(['every-release', 'direct', 'house']),
      v.description('Whether releases may be skipped; `house` leaves it to the house rule'),
    ),
    together: v.pipe(
      v.boolean(),
      v.description('True when all components are brought to one version, in their order, hop by hop'),
    ),
    oneEntry: v.exactOptional(
      v.pipe(
        v.boolean(),
        v.description(
          'True when all components of a release are written in one stay in the bootloader, with one restart behind the last',
        ),
      ),
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
    measure: v.exactOptional(
      v.pipe(
        v.strictObject({
          at: text('Where a meter is put: "at the battery contacts"'),
          unit: v.pipe(powerState, v.description('How the unit stands meanwhile')),
          behind: v.exactOptional(slug('Step of the order of power that comes first')),
        }),
        v.description('Where and when its supply is measured; at its terminals, switched on, when absent'),
      ),
    ),
    amps: v.strictObject({ idle: amount('A'), erase: amount('A'), write: amount('A') }),
    caution: v.exactOptional(text('What the supply can do to a person')),
    inverter: v.exactOptional(
      v.pipe(
        v.strictObject({
          systemHertz: v.pipe(v.picklist([50, 60]), v.description('Hz its input is made for')),
          chargerEfficiency: v.exactOptional(
            v.pipe(
              v.number(),
              v.gtValue(0),
              v.maxValue(1),
              v.description('Share of its input that reaches the battery'),
            ),
          ),
        }),
        v.description('The unit charges its battery from mains or a generator'),
      ),
    ),
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
  powerOrder: v.exactOptional(
    v.pipe(
      v.strictObject({
        on: v.pipe(v.array(OrderItem), v.description('Before the run, in order')),
        leads: v.exactOptional(
          v.pipe(powerState, v.description('How the unit stands when all of it is done')),
        ),
        off: v.pipe(v.array(OrderItem), v.description('Behind it, in order')),
      }),
      v.description('What is switched on and off, and in which order'),
    ),
  ),
  isolation: v.exactOptional(
    v.pipe(
      v.strictObject({
        why: text('What happens when another unit hears the write'),
        neighbours: v.array(
          v.strictObject({
            id: slug('Short name'),
            name: text('What else hangs there'),
            unplug: text('How it is taken off'),
            pair: v.exactOptional(
              v.pipe(v.boolean(), v.description('True where both run one version, and do not run with two')),
            ),
          }),
        ),
        scan: v.exactOptional(
          v.pipe(
            v.strictObject({
              from: whole('First address asked', 1),
              to: whole('Last address asked', 1),
            }),
            v.description('The link can ask who is there'),
          ),
        ),
        switch: v.exactOptional(
          v.strictObject({
            name: text('What the switch is called'),
            stands: v.pipe(
              v.array(v.boolean()),
              v.minLength(1),
              v.description('How its levers must stand, first to last; true is on'),
            ),
            says: text('The same in words'),
          }),
        ),
      }),
      v.description('One unit on the bus'),
    ),
  ),
  kit: v.exactOptional(
    v.pipe(
      v.array(
        v.strictObject({
          id: slug('Short name; the same thing has the same one in every family'),
          name: text('What to take'),
          kind: v.picklist(kitKinds),
          essential: v.pipe(v.boolean(), v.description('Without it the job cannot be done')),
          why: v.exactOptional(text('What it is for')),
        }),
      ),
      v.description('What a job takes along, besides adapter and image'),
    ),
  ),
  retries: v.exactOptional(
    v.pipe(
      v.strictObject({
        asIs: whole('How often a failed write is repeated as it is'),
        reEnter: whole('How often it is then tried with a new entry'),
        otherAdapter: v.pipe(v.boolean(), v.description('Then ask for another adapter, or a lower speed')),
      }),
      v.description('What is tried when erase, write or check fails, before the leg ends'),
    ),
  ),
  backup: v.exactOptional(
    v.pipe(
      v.strictObject({
        firmware: v.pipe(
          v.picklist(['own', 'universal']),
          v.description(
            '`own`: every unit holds an image of its own. `universal`: the same can be had again',
          ),
        ),
        settings: v.exactOptional(
          v.pipe(
            v.strictObject({
              says: text('What is lost, and how it is kept: "Photograph the channel list, page by page."'),
              back: text('How it is put back behind the proof'),
              fields: v.exactOptional(
                v.pipe(
                  v.array(
                    v.strictObject({
                      id: slug('Short name'),
                      name: text('As the unit calls it: "Host name"'),
                      least: v.exactOptional(whole('Characters at least', 0)),
                      most: v.exactOptional(whole('Characters at most', 1)),
                      characters: v.exactOptional(
                        v.pipe(
                          v.picklist(['digits', 'letters-and-digits', 'any']),
                          v.description('Which characters the unit takes'),
                        ),
                      ),
                    }),
                  ),
                  v.minLength(1),
                  v.description('Settings that are short enough to be typed, each with what the unit takes'),
                ),
              ),
            }),
            v.description('Settings that an update erases and the link cannot read'),
          ),
        ),
      }),
      v.description('What is worth reading out before the first write'),
    ),
  ),
  asks: v.exactOptional(
    v.pipe(
      v.array(
        v.strictObject({
          asks: text('What the unit or its loader asks: "Erase all tables? Y/N"'),
          usually: text('What is usually answered, and where: "Yes, at its own panel"'),
          when: v.exactOptional(text('When it comes: "behind each part of the write"')),
        }),
      ),
      v.minLength(1),
      v.description('What is asked in the middle of an update; whoever stays there answers it'),
    ),
  ),
  swap: v.exactOptional(
    v.pipe(
      v.array(
        v.strictObject({
          ...OrderItem.entries,
          blank: v.exactOptional(
            v.pipe(
              v.boolean(),
              v.description(
                'True for a step of a blank chip alone; one that came ready programmed does without it',
              ),
            ),
          ),
        }),
      ),
      v.minLength(1),
      v.description('Where the image goes in with a chip in a socket: each step by hand, in order'),
    ),
  ),
  aftercare: v.exactOptional(
    v.pipe(
      v.array(
        v.strictObject({
          id: slug('Short name'),
          kind: v.pipe(v.picklist(careKinds), v.description('`scare`: alarming and normal; tick it off')),
          does: text('One thing to do: "Relay on and off, cover on"'),
          expect: v.exactOptional(text('What shows that it is well')),
          caution: v.exactOptional(text('Danger at this very step, and who may do it')),
          undoes: v.exactOptional(slug('What it brings back, such as a neighbour that was taken off')),
          needs: v.exactOptional(
            v.pipe(
              v.array(slug('A step, a neighbour, or another item of this list')),
              v.description(
                'What has to be done or back before it; all that comes back where nothing is said',
              ),
            ),
          ),
        }),
      ),
      v.description('Behind the proof, in order: function tests, re-learn, settings back, scares'),
    ),
  ),
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
export type Pin = v.InferOutput<typeof Pin>
export type PinRole = Pin['role']
export type Wiring = NonNullable<Family['links'][number]['wiring']>
export type Isolation = NonNullable<Family['isolation']>
export type PowerOrder = NonNullable<Family['powerOrder']>
export type OrderItem = PowerOrder['on'][number]
export type KitItem = NonNullable<Family['kit']>[number]
export type FamilyLink = Family['links'][number]
/** A console and a loader on a serial line. */
export type Link = Extract<FamilyLink, { kind: 'serial' }>
export type OtherLink = Exclude<FamilyLink, { kind: 'serial' }>
export type Drive = v.InferOutput<typeof Drive>
export type Speech = Drive['speaks']
export type DriveOf<S extends Speech> = Extract<Drive, { speaks: S }>
/** A link that this program drives itself. */
export type DrivenLink = Link | (OtherLink & { drive: Drive })
export type EntryWay = Family['entry'][number]
export type Revision = Family['hardware']['revisions'][number]
export type Question = NonNullable<Family['questions']>[number]
export type Advisory = NonNullable<Family['advisories']>[number]
export type ReadingPlace = (typeof readingPlaces)[number]
export type IdentityFieldName = (typeof identityFields)[number]
export type Exchange = Link['loader']['identify']
export type StageName = keyof Family['stages']
export type CareItem = NonNullable<Family['aftercare']>[number]
export type RetryPolicy = NonNullable<Family['retries']>
export type SnapshotLineRule = Family['snapshot'][number]
