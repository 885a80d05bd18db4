/** One turn at a chip: select goes low, bytes go out, bytes come in, select goes high. */
export interface SpiExchange {
  send: Uint8Array
  /** Bytes that are read after them. */
  read: number
}

/**
 * A plain synchronous port: clock, data out, data in, select and the board's reset. The adapter and every stand-in
 * implement it.
 *
 * Guarantees:
 * - the highest bit of a byte goes first; data stands before the clock rises, and is taken while it rises. That is
 *   mode 3 at rest and what mode 0 wants at its edges; modes 1 and 2 take data at the other edge and are not spoken.
 * - the clock is never faster than `hertz`; an adapter may be slower.
 * - select is low from the first bit of an exchange to its last and high between two; where an adapter lets it go between
 *   two packets, `maxBytes` says how long an exchange may be, and a longer one throws.
 * - what `exchange` gives back has one piece for each exchange, of the length that was asked for.
 * - a device that goes away fails with Problem `port-lost`.
 */
export interface SpiPort {
  readonly name: string
  readonly hertz: number
  /** Bytes of one exchange, out and in together; Infinity where there is no limit. */
  readonly maxBytes: number
  exchange(list: readonly SpiExchange[]): Promise<Uint8Array[]>
  /** Holds the board's reset low, or lets it go. */
  reset(held: boolean): Promise<void>
  /** Lets every line go. */
  release(): Promise<void>
}
