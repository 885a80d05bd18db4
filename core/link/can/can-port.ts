/** A data frame on the vehicle bus (ISO 11898-1, classical frame format). */
export interface CanFrame {
  /** 11 bits, or 29 where `extended`. */
  id: number
  extended?: boolean
  /** Up to eight bytes. */
  data: Uint8Array
}

/**
 * A node on the vehicle bus. An adapter and every stand-in implement this.
 *
 * Guarantees: `send` resolves when the frame has been on the bus and was acknowledged; `receive` gives frames in the
 * order of the bus, or null when `timeoutMs` went by without one. One reader and one writer at a time.
 */
export interface CanPort {
  readonly name: string
  send(frame: CanFrame): Promise<void>
  receive(timeoutMs: number): Promise<CanFrame | null>
}
