import * as v from 'valibot'
import { slug, text } from './fields'

const SerialRange = v.strictObject({
  from: text('First serial, prefix and number: "BP-02400"'),
  to: text('Last serial, with the same prefix'),
})

/** Which releases follow which, and what goes in together. */
export const Updates = v.strictObject({
  path: v.pipe(
    v.picklist(['every-release', 'direct', 'workshop']),
    v.description('Whether releases may be skipped; `workshop` leaves it to the workshop rules'),
  ),
  together: v.pipe(
    v.boolean(),
    v.description('True when all components are brought to one version, in their order, step by step'),
  ),
  oneEntry: v.exactOptional(
    v.pipe(
      v.boolean(),
      v.description(
        'True when all components of a release are written in one stay in the bootloader, with one restart after the last',
      ),
    ),
  ),
  mandatoryVersions: v.exactOptional(
    v.pipe(
      v.array(
        v.strictObject({
          component: slug('Component'),
          version: text('Version that must not be stepped over'),
          says: text('Why'),
        }),
      ),
      v.description('Every update path from below to above goes through them'),
    ),
  ),
  noWayBack: v.exactOptional(
    v.pipe(
      v.array(
        v.strictObject({
          component: slug('Component'),
          version: text('From this version on nothing older can be put back'),
          says: text('Why'),
        }),
      ),
      v.description('Told before the first step'),
    ),
  ),
  issuedPerSerial: v.exactOptional(
    v.pipe(v.boolean(), v.description('True when the supplier issues each image for one serial')),
  ),
})

/** What a person is asked of how a unit is used. */
export const Questions = v.pipe(
  v.array(
    v.strictObject({
      id: slug('Short name; an image’s `variant` is one of its answers'),
      asks: text('Question about how the unit is used'),
      answers: v.pipe(
        v.array(v.strictObject({ id: slug('As the image carries it'), says: text('Answer') })),
        v.minLength(2),
      ),
    }),
  ),
  v.description('What the choice between variants of one version depends on'),
)
/** Something that is asked of how a unit is used. */
export type Question = v.InferOutput<typeof Questions>[number]

/** What the maker says of single versions. */
export const Advisories = v.pipe(
  v.array(
    v.strictObject({
      id: slug('Short name'),
      component: slug('Component it is about'),
      says: text('What goes wrong, or what is added'),
      words: v.exactOptional(v.array(text('A word in which people report it'))),
      kind: v.picklist(['fault', 'feature']),
      fixedIn: text('First version without it'),
      serials: v.exactOptional(
        v.pipe(v.array(SerialRange), v.description('Only these units; all when absent')),
      ),
      batches: v.exactOptional(v.array(text('Batch mark'))),
    }),
  ),
  v.description('Known faults and added features, with the units they are about'),
)
/** What the maker says of a version. */
export type Advisory = v.InferOutput<typeof Advisories>[number]

/** What a unit comes with. */
export const Factory = v.pipe(
  v.array(
    v.strictObject({
      serials: v.exactOptional(v.array(SerialRange)),
      batches: v.exactOptional(v.array(text('Batch mark'))),
      component: slug('Component'),
      version: text('Version that such units were sold with'),
    }),
  ),
  v.description('Units that were brought up to date before they were sold'),
)
