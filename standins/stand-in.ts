import type { Clock } from '@bench-wake/core/kernel'
import type { Port } from '@bench-wake/core/link'

/** What outlives a session of a stand-in: its memory, its battery, and whether it sits in its bootloader. */
export interface StandInState {
  flash: Uint8Array
  usedAh: number
  inBootloader: boolean
}

/** A simulated unit on the bench. It speaks its real protocol on the byte level, over the same Port as hardware. */
export interface StandIn {
  readonly id: string
  readonly name: string
  readonly familyId: string
  /** Joins the line and, at the terminals, a meter; both live in the given clock until the port is closed. */
  connect(clock: Clock): { port: Port; meter: Port }
  /** The person's hand on the supply switch: off, a count of five, on. */
  powerCycle(): void
  state(): StandInState
}
