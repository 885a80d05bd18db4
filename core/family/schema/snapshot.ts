import * as v from 'valibot'
import { text } from './fields'
import { place } from './hardware'

/** A line of the unit's own page, and what an update does to it. */
export const SnapshotLine = v.strictObject({
  field: v.pipe(
    v.string(),
    v.regex(/^[a-zA-Z][a-zA-Z0-9.-]*$/),
    v.description(
      'deviceIdentifier, hardware, model, serial, batch, layout, bootloader, version.<component>, buildTime.<component>, options.<component>, sequence.<component>, digest.<component>, or a name of its own',
    ),
  ),
  label: text('The line’s name on the unit’s own page'),
  by: v.exactOptional(place),
  example: v.exactOptional(text('How it looks: "31.07"')),
  reads: v.exactOptional(text('How the line reads on a link, with {value} where the value stands')),
  change: v.pipe(
    v.picklist(['must', 'must-not', 'may']),
    v.description('What an update does to the line: change it, leave it, either'),
  ),
})
/** How a line of a unit’s page is read. */
export type SnapshotLineRule = v.InferOutput<typeof SnapshotLine>
