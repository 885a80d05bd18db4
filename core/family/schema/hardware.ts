import * as v from 'valibot'
import { text, uuid, whole } from './fields'

/** Where a technician reads a thing, from what is said over a wire to what only an open case shows. */
export const readingPlaces = ['link', 'menu', 'boot-screen', 'app', 'label', 'chip-marking'] as const
/** Where on a unit something is read. */
export const place = v.pipe(v.picklist(readingPlaces), v.description('Where it is read'))
export type ReadingPlace = (typeof readingPlaces)[number]

/** Which hardware there is of the family, and how each revision is identified on the unit. */
export const Hardware = v.strictObject({
  deviceIdentifier: text('What every unit and image of the family carries'),
  vendorId: v.exactOptional(uuid('RFC 9124, vendor identifier')),
  classId: v.exactOptional(uuid('RFC 9124, class identifier')),
  revisions: v.pipe(
    v.array(
      v.strictObject({
        major: whole('Hardware major revision: images fit one major only'),
        name: text('What people call it'),
        identifiedBy: v.strictObject({ by: place, says: text('How to identify it on the unit') }),
        markings: v.exactOptional(
          v.pipe(
            v.array(
              v.strictObject({
                field: text('Line of the snapshot: "version.main", "chip"'),
                startsWith: text('What the line begins with on this revision'),
              }),
            ),
            v.description(
              'Lines that tell the revision. Without any, the first number of the line `hardware` is the major',
            ),
          ),
        ),
      }),
    ),
    v.minLength(1),
  ),
  models: v.exactOptional(
    v.array(v.strictObject({ id: text('As the unit shows it'), name: text('What people call it') })),
  ),
})
/** A hardware revision. */
export type Revision = v.InferOutput<typeof Hardware>['revisions'][number]
