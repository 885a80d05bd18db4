import * as v from 'valibot'
import { noTwins, type Fault } from '../../fault'
import { instructionFault } from '../../port-instruction'
import { amount, slug, text, whole } from '../fields'
import type { DriveForm } from './drive-form'
import { checkToldOrPlaced, toldOrPlaced } from './page'

const instruction = (says: string) => v.pipe(v.string(), v.maxLength(60), v.description(says))

/** Six lines: the instructions and fuses of the unit's manual, as data. */
const InSystemDrive = v.strictObject({
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
  page: toldOrPlaced(
    v.pipe(
      v.string(),
      v.regex(/^(signature|fuse\.[a-z0-9-]+)$/, '"signature", or "fuse." and a fuse’s id'),
      v.description('`signature`, or `fuse.` with the id of a fuse byte'),
    ),
  ),
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
})

/** Instructions that can be sent, a clock that the unit can follow, fuses and lines that there are. */
function checkInSystem(drive: v.InferOutput<typeof InSystemDrive>, place: string, fault: Fault): void {
  const { instructions, fuses = [], page, hertz, unitHertz } = drive
  const told = (at: string, text: string | undefined) => {
    const says = text === undefined ? null : instructionFault(text)
    if (says !== null) fault(`${place}.${at}`, says)
  }
  const { busy, ...plain } = instructions
  for (const [name, text] of Object.entries(plain)) told(`instructions.${name}`, text)
  if (busy) told('instructions.busy.ask', busy.ask)
  if (hertz !== undefined && hertz >= unitHertz / 4)
    fault(`${place}.hertz`, `Keep it under a quarter of the unit’s clock: less than ${unitHertz / 4} Hz`)
  if (drive.wordAddresses && (!instructions.loadHigh || !instructions.readHigh))
    fault(`${place}.instructions`, 'Where addresses are words, the high byte has `loadHigh` and `readHigh`')
  noTwins(fuses, `${place}.fuses`, fault)
  fuses.forEach(({ read, write, bits }, index) => {
    told(`fuses.${index}.read`, read)
    told(`fuses.${index}.write`, write)
    bits.forEach(({ bit }, at) => {
      if (bits.findIndex((each) => each.bit === bit) !== at)
        fault(`${place}.fuses.${index}.bits.${at}.bit`, `Bit ${bit} is named twice`)
    })
  })
  checkToldOrPlaced(page, place, fault)
  page.forEach(({ tells }, index) => {
    if (tells?.startsWith('fuse.') && !fuses.some(({ id }) => `fuse.${id}` === tells))
      fault(`${place}.page.${index}.tells`, `There is no fuse "${tells.slice(5)}"`)
  })
}

/** A processor without a bootloader, on six lines. */
export const inSystem = {
  schema: InSystemDrive,
  protocol: 'in-system',
  kinds: ['six-line'],
  line: false,
  check: checkInSystem,
} satisfies DriveForm<typeof InSystemDrive>
