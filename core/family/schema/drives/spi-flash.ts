import * as v from 'valibot'
import type { Fault } from '../../fault'
import { amount, hexadecimal, whole } from '../fields'
import type { DriveForm } from './drive-form'
import { checkToldOrPlaced, toldOrPlaced } from './page'

/** Serial flash on a clip or in the adapter's socket. */
const FlashDrive = v.strictObject({
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

/** What a chip on a clip says of itself is there, and its blocks are powers of two. */
function checkFlash({ page, erases }: v.InferOutput<typeof FlashDrive>, place: string, fault: Fault): void {
  checkToldOrPlaced(page, place, fault)
  erases?.forEach(({ bytes }, index) => {
    if (!Number.isInteger(Math.log2(bytes)))
      fault(`${place}.erases.${index}.bytes`, 'A block is a power of two')
  })
}

/** A memory chip by itself, on a clip or in a socket. */
export const spiFlash = {
  schema: FlashDrive,
  protocol: 'spi-flash',
  kinds: ['chip'],
  line: false,
  check: checkFlash,
} satisfies DriveForm<typeof FlashDrive>
