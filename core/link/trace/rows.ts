/** A line of a trace as a person reads it. */
export interface TraceRow {
  at: number
  direction: 'out' | 'in' | 'none'
  /** What it is, in the words of its standard. */
  says: string
  /** The bytes themselves, hexadecimal. */
  bytes: string
  /** It does not hold, or refuses. */
  wrong?: boolean
}

/** Takes events in their order and gives the rows that are complete; one for each speech. */
export type TraceReader = (event: Incoming) => TraceRow[]

/** Bytes in one direction, the form in which every reader takes serial data. */
export interface Incoming {
  at: number
  direction: 'out' | 'in'
  bytes: Uint8Array
}
