import * as v from 'valibot'
import { CardSay } from './card'
import { IsolationSay } from './isolation'
import { LaptopSay } from './laptop-gate'
import { moment } from './moment'
import { SupplySay } from './power'
import { WiringSay } from './wiring'

/** What a person says of the whole bench for a job, part by part; what is not said is not known. */
export const BenchInputs = v.object({
  ...SupplySay.entries,
  laptop: v.exactOptional(LaptopSay),
  wiring: v.exactOptional(WiringSay),
  isolation: v.exactOptional(IsolationSay),
  /** Steps of the order of power that were ticked, by id. */
  order: v.exactOptional(v.pipe(v.array(v.pipe(v.string(), v.maxLength(80))), v.maxLength(200))),
  /** What came back already when the job was done, by the ids of what was taken off. */
  back: v.exactOptional(v.pipe(v.array(v.pipe(v.string(), v.maxLength(120))), v.maxLength(200))),
  /** Settings that the update erases, as they stood before, by the ids of the profile's fields. */
  settings: v.exactOptional(
    v.pipe(
      v.array(
        v.object({
          field: v.pipe(v.string(), v.maxLength(80)),
          value: v.pipe(v.string(), v.maxLength(400)),
        }),
      ),
      v.maxLength(60),
    ),
  ),
  /** What stands on a chip that came ready programmed. */
  chip: v.exactOptional(
    v.object({
      label: v.pipe(v.string(), v.maxLength(120)),
      mark: v.pipe(v.string(), v.maxLength(120)),
      version: v.exactOptional(v.pipe(v.string(), v.maxLength(60))),
    }),
  ),
  /** Fuse bytes as the job wants them, where that is not what the profile says. */
  fuses: v.exactOptional(
    v.pipe(
      v.array(
        v.object({
          id: v.pipe(v.string(), v.maxLength(80)),
          value: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(255)),
        }),
      ),
      v.maxLength(16),
    ),
  ),
  /** Only what differs is erased and written; on a chip alone. */
  onlyChanged: v.exactOptional(v.boolean()),
  /** The card or stick, as it was read back. */
  card: v.exactOptional(CardSay),
  /** Sums that were put into the job, each with what it said. */
  sums: v.exactOptional(
    v.pipe(
      v.array(
        v.object({
          sum: v.pipe(v.string(), v.maxLength(40)),
          says: v.pipe(v.string(), v.maxLength(400)),
          at: moment,
        }),
      ),
      v.maxLength(40),
    ),
  ),
})
export type BenchInputs = v.InferOutput<typeof BenchInputs>
