import { Problem } from '../kernel'
import type { Verification } from './check'

/** What a loader can do with this unit; the plan and the record say which proof was possible. */
export interface LoaderAbilities {
  /** Reads memory back. */
  read: boolean
  /** Erases as an act of its own, before the write. */
  erase: boolean
  /** How a written image is checked: byte by byte, by a checksum the unit computes, or by its version alone. */
  verify: 'read-back' | 'checksum' | 'version-only'
  /** Goes on in the middle after a cut. */
  resume: boolean
}

/** How far an act has come. Bytes count when the unit has acknowledged them. */
export interface Progress {
  done: number
  total: number
  unit: 'bytes' | 'sectors'
  /** Pieces sent again so far. */
  retries: number
}

/** Is told of progress; the act goes on when the promise resolves. */
export type Report = (progress: Progress) => Promise<void> | void

/** Raised when the person abandons the run. */
export interface Abandon {
  readonly raised: boolean
}

/** A piece of memory to be erased. */
export interface Range {
  address: number
  length: number
}

/**
 * A unit's bootloader, over whatever link. One per protocol. Every act throws a Problem that says what the unit
 * answered, or that it did not; none resolves before the unit has confirmed.
 */
export interface Loader {
  readonly can: LoaderAbilities
  /** Finds the bootloader on the line; throws Problem `no-bootloader` when it does not answer. */
  attach(): Promise<void>
  /** The lines the bootloader says of the unit. */
  identify(): Promise<string[]>
  read?(range: Range, report: Report): Promise<Uint8Array>
  /**
   * @param wanted what will be written there, where only what differs is to be touched; a loader that cannot leave a part
   *   alone takes no notice of it.
   */
  erase(range: Range, report: Report, wanted?: Uint8Array): Promise<void>
  /**
   * @param from byte to go on from after a cut, where the loader can `resume`: one that an earlier report named.
   */
  write(address: number, bytes: Uint8Array, report: Report, abandon: Abandon, from?: number): Promise<void>
  /**
   * Sends the image over the link as a write would, and the unit throws it away; absent where it has no such thing.
   */
  rehearse?(address: number, bytes: Uint8Array, report: Report, abandon: Abandon): Promise<void>
  verify(address: number, bytes: Uint8Array): Promise<Verification>
  /** Starts the new firmware. */
  startApplication(): Promise<void>
  /** Whether the unit keeps its memory from being read; absent where there is no such thing. */
  protected?(): Promise<boolean>
  /**
   * Takes the protection away; the unit erases itself with it. Ask twice before.
   * @param consent the words of the second question, so that nothing calls this in passing.
   */
  eraseAll?(consent: 'erase the whole unit'): Promise<void>
}

/** The person abandons a write; `found` says how the unit is left. */
export function writeAbandoned(thing: string, offset: number, found: string): Problem {
  return new Problem({
    kind: 'write-abandoned',
    thing,
    place: { offset },
    says: 'the write was abandoned by you',
    found,
    remedy: 'Write again from the beginning.',
  })
}
