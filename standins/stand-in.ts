import type { Clock } from '@bench-wake/core/kernel'
import type { Channel, Port } from '@bench-wake/core/link'

/** How a clip sits: good, off its legs, or with a leg that gives way now and then. */
export const clipSeats = ['good', 'loose', 'off'] as const
export type ClipSeat = (typeof clipSeats)[number]

/** What outlives a session of a stand-in: its memory, its battery, and whether it sits in its bootloader. */
export interface StandInState {
  flash: Uint8Array
  usedAh: number
  inBootloader: boolean
  /** Lines of its page that are in no image: call sign, network name, hours. */
  lines?: Record<string, string>
}

/** Bytes of a data identifier at a time, ms; null for one that is not known. */
export type LiveData = (identifier: number, ms: number) => Uint8Array | null

/** A simulated unit on the bench. It speaks its real protocol on the byte level, over the same Port as hardware. */
export interface StandIn {
  readonly id: string
  readonly name: string
  readonly familyId: string
  /** The family's link that it stands on. */
  readonly linkId: string
  /** What it is plugged in with. */
  readonly channel: Channel['kind']
  /** A meter stands at its terminals. */
  readonly hasMeter: boolean
  /** Joins the line and, where there is one, the meter; both live in the given clock until the port is closed. */
  connect(clock: Clock): { channel: Channel; meter?: Port }
  /** The person's hand on the supply switch: off, a count of five, on. */
  powerCycle(): void
  /** The person's hands at the entry: what the profile says is held, pressed and plugged. Absent where a command does it. */
  enter?(): void
  /** The person's hand on its neighbours' plugs: these are off, all others on. Absent where nothing else can hang there. */
  unplug?(neighbours: readonly string[]): void
  /**
   * The person's hands while it is logged: what its data identifiers read at a time of its clock, ms; null lets go.
   * Absent where nothing can be read so.
   */
  drive?(live: LiveData | null): void
  /** Another load at the same battery, which the person switches; absent where the supply is no battery of its own. */
  readonly lamp?: { on: boolean }
  /** How the clip sits on its chip, by the person's hand; absent where there is none. */
  readonly clip?: { seat: ClipSeat }
  state(): StandInState
}
