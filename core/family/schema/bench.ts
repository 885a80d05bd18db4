import * as v from 'valibot'
import { slug, text, whole } from './fields'

/** What goes into the bag. */
export const kitKinds = [
  'adapter',
  'cable',
  'card',
  'charger',
  'tool',
  'protection',
  'papers',
  'spare',
] as const

/** What hangs on the same link and has to come off. */
export const Isolation = v.pipe(
  v.strictObject({
    why: text('What happens when another unit hears the write'),
    neighbours: v.array(
      v.strictObject({
        id: slug('Short name'),
        name: text('What else hangs there'),
        unplug: text('How it is taken off'),
        pair: v.exactOptional(
          v.pipe(v.boolean(), v.description('True where both run one version, and do not run with two')),
        ),
      }),
    ),
    scan: v.exactOptional(
      v.pipe(
        v.strictObject({
          from: whole('First address asked', 1),
          to: whole('Last address asked', 1),
        }),
        v.description('The link can ask who is there'),
      ),
    ),
    switch: v.exactOptional(
      v.strictObject({
        name: text('What the switch is called'),
        stands: v.pipe(
          v.array(v.boolean()),
          v.minLength(1),
          v.description('How its levers must stand, first to last; true is on'),
        ),
        says: text('The same in words'),
      }),
    ),
  }),
  v.description('One unit on the bus'),
)
export type Isolation = v.InferOutput<typeof Isolation>

/** What has to be on the bench. */
export const Kit = v.pipe(
  v.array(
    v.strictObject({
      id: slug('Short name; the same thing has the same one in every family'),
      name: text('What to take'),
      kind: v.picklist(kitKinds),
      essential: v.pipe(v.boolean(), v.description('Without it the job cannot be done')),
      why: v.exactOptional(text('What it is for')),
    }),
  ),
  v.description('What a job takes along, besides adapter and image'),
)
/** Something that has to be on the bench. */
export type KitItem = v.InferOutput<typeof Kit>[number]
