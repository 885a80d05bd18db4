import type * as v from 'valibot'
import type { Fault } from '../../fault'

/** One way to speak with a unit, as a profile writes it down. */
export interface DriveForm<Schema extends v.GenericSchema = v.GenericSchema> {
  /** Its fields; `speaks` is its name. */
  schema: Schema
  /** What the protocol of such a link is called in a profile. */
  protocol: string
  /** Kinds of link that carry it. */
  kinds: readonly string[]
  /** Whether it needs the settings of a serial line beneath it. */
  line: boolean
  /**
   * What the schema cannot say.
   * @param place where it stands in the profile.
   */
  check?(drive: v.InferOutput<Schema>, place: string, fault: Fault): void
}
