import type { LinkScript, OperationName, Compiled, SlotValue } from '../../family'
import type { Clock } from '../../kernel'
import type { Abandon, Range, Report } from '../loader'
import type { Person } from '../person'
import type { FrameDialect } from './frame'
import type { Stream } from './stream'

/** What a script did, for a person who tries it or looks for why it failed. */
export interface ScriptEvent {
  /** Which step: `write.0.2`. */
  at: string
  /** ms since the operation began. */
  ms: number
  says: string
  sent?: Uint8Array
  heard?: Uint8Array
}

/** What the steps of one operation work with. */
export interface ScriptBench {
  readonly operation: OperationName
  readonly script: LinkScript
  readonly stream: Stream
  readonly clock: Pick<Clock, 'now' | 'sleep'>
  readonly thing: string
  /** No wait goes beyond it, ms of the clock. */
  deadlineAt: number
  readonly startedAt: number
  readonly slots: Record<string, SlotValue>
  readonly dialect: FrameDialect | null
  /** Erase and program units of the memory. */
  readonly sectorBytes: number
  readonly pageBytes: number
  /** All of what is read, erased, written or checked. */
  readonly range: Range | null
  /** The image's bytes where it is written or compared. */
  readonly image: Uint8Array | null
  /** The piece that is due: the whole range outside `each`. */
  piece: Range | null
  /** Where bytes go that a unit gives out; null where nothing is read. */
  readonly into: Uint8Array | null
  /** How much of the piece has been read. */
  filled: number
  /** Lines of the page that were gathered. */
  readonly lines: string[]
  /** Every comparison that was made: the unit's sum against the image's. */
  readonly compared: { name: string; expected: string; found: string }[]
  sequence: number
  retries: number
  /** The last text that was sent, whose echo is passed over. */
  lastSent: string
  /** What a person typed: it stands in no sentence. */
  readonly secrets: Uint8Array[]
  /** The same by what was asked, kept as long as the unit takes it: nobody types a password twice in one run. */
  readonly typed: Map<string, string>
  /** Who is beside the unit; null where nobody is asked. */
  readonly person: Person | null
  readonly report: Report
  readonly abandon: Abandon | null
  /** Compiled once a script. */
  compiled(patterns: readonly object[]): readonly Compiled[]
  tell(event: Omit<ScriptEvent, 'ms'>): void
  /** Shows a value as a line of the unit's page. */
  pageLine(field: string, value: string): string[]
}

/** Bytes of the image in the piece that is due; empty where nothing is written. */
export function pieceBytes({ image, piece, range }: ScriptBench): Uint8Array {
  if (!image || !piece || !range) return new Uint8Array(0)
  const at = piece.address - range.address
  return image.subarray(at, at + piece.length)
}

/** How often what may pass is tried. */
export const triesOf = ({ writeTries = 3 }: Pick<LinkScript, 'writeTries'>): number => writeTries
