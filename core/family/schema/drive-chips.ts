import * as v from 'valibot'
import { toldOrPlaced } from './drive-page'
import { amount, hexadecimal, slug, text, whole } from './fields'

/* Units without a bootloader of their own: a processor on six lines, a memory chip on a clip. */

const instruction = (says: string) => v.pipe(v.string(), v.maxLength(60), v.description(says))

/** Six lines: the instructions and fuses of the unit's manual, as data. */
export const InSystemDrive = v.strictObject({
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

/** Serial flash on a clip or in the adapter's socket. */
export const FlashDrive = v.strictObject({
  speaks: v.literal('spi-flash'),
  hertz: whole('Clock that the chip, the board and the leads bear, Hz', 1000),
  base: v.exactOptional(
    hexadecimal('Address that images name for the chip’s first byte; 0 where nothing is said'),
  ),
  page: toldOrPlaced(
    v.pipe(
      v.picklist(['identity', 'size']),
      v.description('What the chip says of itself: its identity (JEDEC, command 9F), or its size'),
    ),
  ),
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
})
