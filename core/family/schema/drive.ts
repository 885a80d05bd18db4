import * as v from 'valibot'
import { amount, hexadecimal, slug, text, whole } from './fields'
import { KeyStep } from './key-steps'
import { LinkScript } from './script'

/** How the bytes of a value are shown: as text, as a whole number high byte first, or as hexadecimal digits. */
const shownAs = v.picklist(['ascii', 'number', 'hex'])
/** Lines of the unit's page, each with its place on this link. */
const pageOf = <Place extends v.ObjectEntries>(place: Place) =>
  v.pipe(
    v.array(v.strictObject({ field: text('Line of the snapshot'), ...place })),
    v.minLength(1),
    v.description('What the unit says of itself over this link, by lines of the snapshot'),
  )
const serviceBytes = (says: string) =>
  v.pipe(
    v.string(),
    v.regex(/^([0-9A-Fa-f]{2} ?)*$/, 'Write bytes as pairs of hexadecimal digits: "01 00"'),
    v.maxLength(600),
    v.description(says),
  )
/** A routine that has to say well before or after the transfer. */
const ServiceRoutine = v.strictObject({
  routine: hexadecimal('Routine (service 31, start)'),
  option: v.exactOptional(serviceBytes('What goes with it')),
  answer: v.exactOptional(
    v.pipe(
      v.string(),
      v.regex(/^(([0-9A-Fa-f]{2}|\.\.) ?)+$/, 'Write the bytes of its answer, ".." for any: "00 .."'),
      v.description('What its answer begins with where all is well; any answer where nothing is said'),
    ),
  ),
  says: text('What it asks of the unit, and what to do where it does not say well'),
})
const instruction = (says: string) => v.pipe(v.string(), v.maxLength(60), v.description(says))
const width = (says: string) => v.exactOptional(v.pipe(v.picklist([1, 2, 3, 4]), v.description(says)))

const Diagnostics = {
  page: pageOf({
    identifier: v.exactOptional(hexadecimal('Data identifier (service 22)')),
    faults: v.exactOptional(v.pipe(v.literal(true), v.description('The fault codes (service 19)'))),
    as: shownAs,
  }),
  securityLevel: v.exactOptional(
    whole('Level of security access (service 27); absent where the unit asks for none', 1),
  ),
  sessions: v.exactOptional(
    v.pipe(
      v.array(v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(127))),
      v.minLength(1),
      v.description(
        'Sessions in their order (service 10), the last is the one that is written in; 3, then 2',
      ),
    ),
  ),
  widths: v.exactOptional(
    v.pipe(
      v.strictObject({ address: width('Bytes of an address'), length: width('Bytes of a length') }),
      v.description('Widths of address and length; four bytes where nothing is said'),
    ),
  ),
  dataFormat: v.exactOptional(
    v.pipe(
      v.number(),
      v.integer(),
      v.minValue(0),
      v.maxValue(255),
      v.description(
        'Data format of the download (ISO 14229-1, 34): high digit packed, low digit enciphered, as the image comes; 0 for neither',
      ),
    ),
  ),
  fingerprint: v.exactOptional(
    v.pipe(
      v.strictObject({
        identifier: hexadecimal('Data identifier (service 2E)'),
        bytes: serviceBytes('What is written into it'),
      }),
      v.description('Who writes it, written before anything is erased'),
    ),
  ),
  before: v.exactOptional(
    v.pipe(v.array(ServiceRoutine), v.description('Preconditions, asked before the programming session')),
  ),
  after: v.exactOptional(
    v.pipe(v.array(ServiceRoutine), v.description('Dependencies, checked after the transfer')),
  ),
  key: v.exactOptional(
    v.pipe(
      v.array(KeyStep),
      v.minLength(1),
      v.description(
        'How a seed is answered; absent where the unit asks for no key, or nobody has its manual',
      ),
    ),
  ),
  answerMs: v.exactOptional(
    amount('Longest wait for an answer, ms, until the unit says its own times; 150 where nothing is said'),
  ),
  eraseRoutine: hexadecimal('Routine that erases (service 31)'),
  checkRoutine: hexadecimal('Routine that gives the CRC-32 over a range'),
}

/** What the program must know to drive such a link itself; without it the link is only described. */
export const Drive = v.variant('speaks', [
  v.strictObject({
    speaks: v.literal('modbus'),
    address: whole('The unit’s address on the bus', 1),
    page: pageOf({
      register: whole('First holding register'),
      count: whole('Registers', 1),
      as: shownAs,
    }),
    registers: v.strictObject({
      state: whole('What the unit is at: firmware, loader, at work, fault'),
      command: whole('Takes the commands; not asked for where they are coils'),
      progress: v.exactOptional(whole('Two registers: sectors done, sectors in all')),
      address: whole('Two registers: where the command begins'),
      length: whole('Two registers: how far it goes'),
      checksum: v.exactOptional(whole('Two registers: CRC-32 of the last check')),
    }),
    wordOrder: v.exactOptional(
      v.pipe(
        v.picklist(['high-first', 'low-first']),
        v.description('Order of the two registers of a value; the high word first where nothing is said'),
      ),
    ),
    states: v.exactOptional(
      v.pipe(
        v.strictObject({
          firmware: whole('Runs its firmware'),
          loader: whole('Waits in its loader'),
          atWork: whole('Carries out a command'),
          fault: whole('Its loader reports a fault'),
        }),
        v.description('Values of the state register; 0 to 3 in this order where nothing is said'),
      ),
    ),
    commandsAre: v.exactOptional(
      v.pipe(
        v.picklist(['values', 'values-in-block', 'coils']),
        v.description(
          'How a command is given: its value into the command register (function 06, where nothing is said), the same as a block (function 16), or its coil switched on (function 05)',
        ),
      ),
    ),
    commands: v.strictObject({
      enter: whole('Firmware to loader'),
      erase: whole('Erase the range'),
      check: v.exactOptional(whole('Compute the CRC-32 of the range')),
      start: whole('Start the firmware'),
      write: v.exactOptional(whole('Program the block at the address; wanted with `block`')),
      read: v.exactOptional(whole('Put the memory at the address into the block')),
    }),
    files: v.exactOptional(
      v.pipe(
        v.array(
          v.strictObject({ component: slug('Component'), first: whole('Its first file of records', 1) }),
        ),
        v.minLength(1),
        v.description('The image goes as file records (functions 20 and 21)'),
      ),
    ),
    block: v.exactOptional(
      v.pipe(
        v.strictObject({
          register: whole('First of the registers that hold a piece of the image'),
          words: v.pipe(
            whole('Registers of a piece', 1),
            v.maxValue(512, 'A piece has 512 registers at the most'),
          ),
        }),
        v.description(
          'The image goes in pieces of plain registers in place of file records, each programmed by the command `write`',
        ),
      ),
    ),
    timing: v.exactOptional(
      v.strictObject({
        answerMs: v.exactOptional(amount('Longest wait for an answer, ms; 1000 where nothing is said')),
        pauseMs: v.exactOptional(amount('Rest between two questions, ms')),
        busyMs: v.exactOptional(
          amount('Longest that one command, or a unit that says it is busy, is waited for, ms; 120 000'),
        ),
      }),
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
    extended: v.exactOptional(v.pipe(v.boolean(), v.description('Identifiers of 29 bits'))),
    padding: v.exactOptional(
      v.pipe(
        v.number(),
        v.integer(),
        v.minValue(0),
        v.maxValue(255),
        v.description('Fills frames to eight bytes; frames stay short where nothing is said'),
      ),
    ),
    functionalId: v.exactOptional(
      hexadecimal('Identifier that all controllers hear: the others are silenced by it'),
    ),
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
      v.description('The flash controller, by the unit’s manual'),
    ),
  }),
  v.strictObject({
    speaks: v.literal('in-system'),
    unitHertz: whole('Clock that the unit runs at as it comes, Hz', 1000),
    hertz: v.exactOptional(
      whole('Clock of the port, Hz: under a quarter of the unit’s; a fifth of it where nothing is said', 100),
    ),
    signatures: v.pipe(
      v.array(v.pipe(v.string(), v.regex(/^([0-9A-F]{2})+$/, 'Write pairs of hexadecimal digits'))),
      v.minLength(1),
      v.description('What processors that this profile is of say they are'),
    ),
    signatureBytes: v.exactOptional(v.pipe(whole('Bytes of a signature; 3', 1), v.maxValue(8))),
    echo: v.pipe(
      v.string(),
      v.regex(/^[0-9A-Fa-f]{2}$/, 'Write two hexadecimal digits'),
      v.description('What comes back where the unit is let in and in step'),
    ),
    instructions: v.pipe(
      v.strictObject({
        enable: instruction('Lets the port in; its `r` is the echo'),
        signature: instruction('Byte `i` of the signature'),
        erase: instruction('Erases the whole memory'),
        load: instruction('Puts byte `d` into the page buffer'),
        loadHigh: v.exactOptional(instruction('The same for the high byte, where addresses are words')),
        program: instruction('Programs the page from the buffer'),
        read: instruction('A byte of the memory'),
        readHigh: v.exactOptional(instruction('The same for the high byte, where addresses are words')),
        busy: v.exactOptional(
          v.strictObject({
            ask: instruction('Whether it is still at work'),
            mask: v.pipe(
              v.string(),
              v.regex(/^[0-9A-Fa-f]{2}$/),
              v.description('Bits that are set while it is'),
            ),
          }),
        ),
      }),
      v.description(
        'By the unit’s manual. Tokens: two hexadecimal digits, @2 @1 @0 (address), i (number), d (data out), r (answer), --',
      ),
    ),
    wordAddresses: v.exactOptional(
      v.pipe(v.boolean(), v.description('Addresses of its instructions count words of two bytes, low first')),
    ),
    settleMs: v.exactOptional(amount('Rest after reset is held, ms; 20')),
    pulseMs: v.exactOptional(amount('Pulse of reset where it does not come in step, ms; 2')),
    tries: v.exactOptional(whole('How often it is let in; 8', 1)),
    eraseMs: amount('Usual time of the erase, ms'),
    programMs: amount('Usual time of a page, ms'),
    fuseMs: v.exactOptional(amount('Usual time of a fuse byte, ms; that of a page')),
    page: pageOf({
      tells: v.exactOptional(
        v.pipe(
          v.string(),
          v.regex(/^(signature|fuse\.[a-z0-9-]+)$/, '"signature", or "fuse." and a fuse’s id'),
          v.description('`signature`, or `fuse.` with the id of a fuse byte'),
        ),
      ),
      address: v.exactOptional(hexadecimal('Else: where it stands in memory')),
      length: v.exactOptional(whole('Bytes', 1)),
      as: v.exactOptional(shownAs),
    }),
    fuses: v.exactOptional(
      v.pipe(
        v.array(
          v.strictObject({
            id: slug('Short name'),
            name: text('What the manual calls the byte'),
            read: instruction('Reads it'),
            write: instruction('Writes `d` into it'),
            locks: v.exactOptional(
              v.pipe(v.literal(true), v.description('The lock byte; the erase clears it')),
            ),
            bits: v.pipe(
              v.array(
                v.strictObject({
                  bit: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(7)),
                  name: text('What the manual calls the bit'),
                  set: text('What the unit does while it is 1'),
                  clear: text('What the unit does while it is 0'),
                  locksOutAt: v.exactOptional(
                    v.pipe(
                      v.picklist([0, 1]),
                      v.description('At this value nobody gets in over this port again'),
                    ),
                  ),
                  shutsReadingAt: v.exactOptional(
                    v.pipe(
                      v.picklist([0, 1]),
                      v.description('At this value the memory is kept from being read'),
                    ),
                  ),
                }),
              ),
              v.minLength(1),
            ),
            wanted: v.exactOptional(
              v.pipe(
                v.string(),
                v.regex(/^0x[0-9A-Fa-f]{2}$/, 'Write it as "0xD9"'),
                v.description('What this firmware wants it to be; as it is where nothing is said'),
              ),
            ),
          }),
        ),
        v.minLength(1),
      ),
    ),
  }),
  v.strictObject({
    speaks: v.literal('spi-flash'),
    hertz: whole('Clock that the chip, the board and the leads bear, Hz', 1000),
    base: v.exactOptional(
      hexadecimal('Address that images name for the chip’s first byte; 0 where nothing is said'),
    ),
    page: pageOf({
      tells: v.exactOptional(
        v.pipe(
          v.picklist(['identity', 'size']),
          v.description('What the chip says of itself: its identity (JEDEC, command 9F), or its size'),
        ),
      ),
      address: v.exactOptional(hexadecimal('Else: where it stands, by the image’s addresses')),
      length: v.exactOptional(whole('Bytes', 1)),
      as: v.exactOptional(shownAs),
    }),
    identities: v.exactOptional(
      v.pipe(
        v.array(v.pipe(v.string(), v.regex(/^[0-9A-F]{6}$/, 'Write six hexadecimal digits: "5A4014"'))),
        v.minLength(1),
        v.description('Chips that the unit’s manual allows, by identity; any where nothing is said'),
      ),
    ),
    protection: v.exactOptional(
      hexadecimal('Bits of the status register that protect blocks; 0x1C where nothing is said'),
    ),
    holdsReset: v.exactOptional(
      v.pipe(v.boolean(), v.description('The adapter’s reset line holds the board while the clip is on')),
    ),
    table: v.exactOptional(
      v.pipe(
        v.picklist(['believed', 'left-out']),
        v.description('What to do with the chip’s own table (JESD216); believed where nothing is said'),
      ),
    ),
    erases: v.exactOptional(
      v.pipe(
        v.array(
          v.strictObject({
            bytes: whole('Bytes of a block', 256),
            command: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(255)),
            usualMs: amount('Usual time, ms'),
          }),
        ),
        v.minLength(1),
        v.maxLength(4),
        v.description('Blocks that the chip erases by, from its sheet; its own table stands over them'),
      ),
    ),
  }),
  LinkScript,
])
export type Drive = v.InferOutput<typeof Drive>
export type Speech = Drive['speaks']
export type DriveOf<S extends Speech> = Extract<Drive, { speaks: S }>
