import * as v from 'valibot'
import { whole } from '../fields'
import type { DriveForm } from './drive-form'
import { pageOf } from './page'

const DfuDrive = v.strictObject({
  speaks: v.literal('dfu'),
  page: pageOf({ string: whole('Index of the string descriptor', 1) }),
})

/** Update mode over USB. */
export const dfu = { schema: DfuDrive, protocol: 'dfu', kinds: ['usb'], line: false } satisfies DriveForm<
  typeof DfuDrive
>
