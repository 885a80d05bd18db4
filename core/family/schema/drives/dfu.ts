import * as v from 'valibot'
import type { Fault } from '../../fault'
import { slug, text, whole } from '../fields'
import type { DriveForm } from './drive-form'
import { pageOf } from './page'

const DfuDrive = v.strictObject({
  speaks: v.literal('dfu'),
  page: pageOf({
    string: v.exactOptional(whole('Index of the string descriptor', 1)),
    alternate: v.exactOptional(whole('Else: the alternate setting whose own string says it')),
  }),
  alternates: v.exactOptional(
    v.pipe(
      v.array(
        v.strictObject({
          component: slug('Component'),
          alternate: v.exactOptional(whole('Alternate setting by its number')),
          named: v.exactOptional(text('Else: how its string begins')),
        }),
      ),
      v.minLength(1),
      v.description(
        'Which alternate setting holds which component; a device with several is refused where nothing is said',
      ),
    ),
  ),
})

function checkDfu(
  { page, alternates = [] }: v.InferOutput<typeof DfuDrive>,
  place: string,
  fault: Fault,
): void {
  page.forEach(({ string, alternate }, index) => {
    if ((string === undefined) === (alternate === undefined))
      fault(`${place}.page.${index}`, 'Say either the `string`, or the `alternate` whose string it is')
  })
  alternates.forEach(({ alternate, named }, index) => {
    if ((alternate === undefined) === (named === undefined))
      fault(
        `${place}.alternates.${index}`,
        'Say either the number as `alternate`, or `named`: how its string begins',
      )
  })
}

/** Update mode over USB. */
export const dfu = {
  schema: DfuDrive,
  protocol: 'dfu',
  kinds: ['usb'],
  line: false,
  check: checkDfu,
} satisfies DriveForm<typeof DfuDrive>
