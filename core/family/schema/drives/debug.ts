import * as v from 'valibot'
import { amount, hexadecimal, whole } from '../fields'
import type { DriveForm } from './drive-form'
import { checkFlashSteps, FlashSteps } from './flash-steps'
import { pageOf, shownAs } from './page'

const DebugDrive = v.strictObject({
  speaks: v.literal('debug'),
  hertz: whole('Clock of the serial wire', 1000),
  accessPort: v.exactOptional(
    v.pipe(
      v.number(),
      v.integer(),
      v.minValue(0),
      v.maxValue(255),
      v.description(
        'Which access port leads to the memory, where the unit has several; 0 where nothing is said',
      ),
    ),
  ),
  underReset: v.exactOptional(
    v.pipe(
      v.literal(true),
      v.description(
        'Its reset is held while it is joined: its firmware uses the pads for something else, or stops the clock',
      ),
    ),
  ),
  page: pageOf({
    address: hexadecimal('Where it stands in memory'),
    length: whole('Bytes', 1),
    as: shownAs,
  }),
  eraseMs: amount('Longest that one page’s erasing takes, ms'),
  flash: v.exactOptional(
    v.pipe(
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
      v.description(
        'The flash controller, by the unit’s manual: one with keys, a control and a status register',
      ),
    ),
  ),
  flashSteps: v.exactOptional(
    v.pipe(
      FlashSteps,
      v.description('The flash controller, where it is of another shape: each act as steps on memory'),
    ),
  ),
})

/** The processor's debug port, behind an adapter. */
export const debug = {
  schema: DebugDrive,
  protocol: 'swd',
  kinds: ['debug'],
  line: false,
  check({ flash, flashSteps }, place, fault) {
    if ((flash === undefined) === (flashSteps === undefined))
      fault(place, 'the flash controller is described once: give either "flash" or "flashSteps"')
    if (flashSteps) checkFlashSteps(flashSteps, `${place}.flashSteps`, fault)
  },
} satisfies DriveForm<typeof DebugDrive>
