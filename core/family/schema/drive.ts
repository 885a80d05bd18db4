import * as v from 'valibot'
import { amount, hexadecimal, slug, text, whole } from './fields'
import { KeyStep } from './key-steps'
import { FlashDrive, InSystemDrive } from './drive-chips'
import { pageOf, shownAs } from './drive-page'
import { LinkScript } from './script'

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
  InSystemDrive,
  FlashDrive,
  LinkScript,
])
export type Drive = v.InferOutput<typeof Drive>
export type Speech = Drive['speaks']
export type DriveOf<S extends Speech> = Extract<Drive, { speaks: S }>
