import * as v from 'valibot'
import type { Fault } from '../../fault'
import { hexadecimal, text, whole } from '../fields'

/** How the bytes of a value are shown: as text, as a whole number high byte first, or as hexadecimal digits. */
export const shownAs = v.picklist(['ascii', 'number', 'hex'])
/** Lines of the unit's page, each with its place on this link. */
export const pageOf = <Place extends v.ObjectEntries>(place: Place) =>
  v.pipe(
    v.array(v.strictObject({ field: text('Line of the snapshot'), ...place })),
    v.minLength(1),
    v.description('What the unit says of itself over this link, by lines of the snapshot'),
  )

/**
 * Lines of a page that a chip either tells of itself or holds at a place in its memory.
 * @param tells what it can tell, and how that is said.
 */
export const toldOrPlaced = <Tells extends v.GenericSchema>(tells: Tells) =>
  pageOf({
    tells: v.exactOptional(tells),
    address: v.exactOptional(hexadecimal('Else: where it stands, by the image’s addresses')),
    length: v.exactOptional(whole('Bytes', 1)),
    as: v.exactOptional(shownAs),
  })

/** Each line of the page is either what the chip says of itself, or a place in its memory. */
export function checkToldOrPlaced(
  page: readonly { tells?: string; address?: number; length?: number }[],
  place: string,
  fault: Fault,
): void {
  page.forEach(({ tells, address, length }, index) => {
    const [at, long] = [address !== undefined, length !== undefined]
    if (tells === undefined ? !(at && long) : at || long)
      fault(`${place}.page.${index}`, 'Say either what it `tells`, or the `address` and `length` of it')
  })
}
