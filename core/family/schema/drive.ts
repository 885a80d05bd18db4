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
const Diagnostics = {
  page: pageOf({
    identifier: v.exactOptional(hexadecimal('Data identifier (service 22)')),
    faults: v.exactOptional(v.pipe(v.literal(true), v.description('The fault codes (service 19)'))),
    as: shownAs,
  }),
  securityLevel: whole('Level of security access (service 27)', 1),
  key: v.exactOptional(
    v.pipe(
      v.array(KeyStep),
      v.minLength(1),
      v.description(
        'How a seed is answered; absent where the unit asks for no key, or nobody has its manual',
      ),
    ),
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
      start: whole('Start the firmware'),
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
      v.description('The flash controller, by the unit’s manual'),
    ),
  }),
  LinkScript,
])
export type Drive = v.InferOutput<typeof Drive>
export type Speech = Drive['speaks']
export type DriveOf<S extends Speech> = Extract<Drive, { speaks: S }>
