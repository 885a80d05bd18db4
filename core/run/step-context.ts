import type { Component, DrivenLink, Family } from '../family'
import type { UnitAnswers } from '../fit'
import type { ImageIdentity, ManifestClaim, Medium, MemoryMap } from '../image'
import type { Clock, Finding, Release } from '../kernel'
import type { Abandon, Channel, Loader, Meter, Report, LinkDriver, WantedFuse } from '../link'
import type { Snapshot } from '../unit'
import type { Load } from './plan'
import type { ReadyChip, Task } from './task'
import type { WakeWriter } from './wake'

/** Where the person's answers come from. */
export interface Answers {
  /** Resolves with the chosen answer's id. */
  wait(prompt: string): Promise<string>
  /** What was typed with the answer `typed`; absent where nobody types. */
  typed?(prompt: string): string
}

/** What is written, or compared with what is in the unit. */
export interface RunImage {
  name: string
  memory: MemoryMap
  identity: ImageIdentity | null
  claim?: ManifestClaim | null
  /** SHA-256 of what it sets in memory, where it is known. */
  contentSha256?: string
}

/** One component of a run, and what goes into it. */
export interface Piece {
  component: Component
  /** Null where nothing is written or compared from here. */
  image: RunImage | null
  /** What this bench wrote into the component before: the digest holds while the unit still says that version. */
  wrote?: { version: string; sha256: string } | null
  /** False where the original is kept already, or this bench wrote the component before: what is in it now is as found. */
  firstHere?: boolean
}

/** What a run is about. */
export interface RunRequest extends Piece {
  /** What it is for; a write where nothing is said. */
  task?: Task
  family: Family
  /** Components that are written after the first in the same stay in the bootloader, in their order. */
  also?: readonly Piece[]
  /** Null where the image goes in by hand: with a chip in a socket. */
  link: DrivenLink | null
  unit: { id: string; serial: string; name?: string }
  /** What was known of the unit before, line by line: some lines a link cannot say, others not from the bootloader. */
  lastPage?: Snapshot | undefined
  /** The chip that goes in as it came. */
  chip?: ReadyChip
  /** The card or stick that the unit takes its files from, where that is the way. */
  medium?: Medium
  /** Only what differs is erased and written, where the loader can leave the rest alone. */
  onlyChanged?: boolean
  /** Fuse bytes as the job wants them. */
  fuses?: readonly WantedFuse[]
  /** How the unit is used: answers to the family's questions. */
  use?: UnitAnswers
  /** Byte that a leg goes on from, where an earlier one broke off and the loader can. */
  goesOnAt?: number | null
  /** Which of the components that byte belongs to; the first where nothing is said. */
  goesOnPiece?: number
  /** The page before the first leg, where earlier ones have changed the unit: the proof is held against that one. */
  firstPage?: Snapshot | null
  /** True where the order of power was gone through for an earlier leg of this run. */
  powerStood?: boolean
  /** What earlier legs left of the unit: after their erase its memory is no original any more. */
  alreadyWritten?: boolean
  releases: readonly Release[]
}

/** Memory of a unit as it was read out before the first write. */
export interface Backup {
  /** `Tide logger 2, logger 2025-11-03, original, 2026-11-25`; `as found` where it is not what the unit came with. */
  name: string
  address: number
  bytes: Uint8Array
}

/** What a run needs around it. With the server's it is real; with a stand-in and a list it is a rehearsal. */
export interface RunEnvironment {
  /** What the unit or its adapter is plugged into, not yet opened. */
  channel: Channel | null
  /** Absent when nobody measures the supply; it then shows as not known. */
  meter?: Meter
  clock: Clock
  wake: WakeWriter
  answers: Answers
  abandon: Abandon
  /** Keeps a backup on the shelf and gives its image's id; what speaks against it is added to its findings. */
  keepBackup?(backup: Backup): Promise<{ imageId: string; findings: Finding[] }>
  /** Raised when the program is told to end: the run stops at the next safe point. */
  halt: Abandon
}

/**
 * The bench as the steps find it; what they learn of the unit they leave here for the next. Component, image, loads and
 * loader are those of the component that the open step is about.
 */
export interface StepContext extends RunRequest, RunEnvironment {
  /** All components of the run, in their order. */
  pieces: readonly Piece[]
  /** Which of them the open step is about. */
  piece: number
  /** Those that hold their image already and are left as they are. */
  left: Set<number>
  loads: readonly Load[]
  driver: LinkDriver
  loader: Loader
  /** Index of the open step. */
  step: number
  inBootloader: boolean
  /** True where the unit sat in its bootloader when the run came to it. */
  cameInBootloader: boolean
  /** True once the bytes in the unit are no longer those that it came with. */
  changed: boolean
  before: Snapshot | null
  /** Records progress; resolves when the record before it is on disk, so that the link need not wait for each. */
  report: Report
  /** Predicted time from this step on until the image is written, ms. */
  planned(step: number): number
  /** Asks the person and waits. */
  ask(prompt: {
    id: string
    says: string
    caution?: string
    answers: { id: string; says: string }[]
    takes?: 'text' | 'hex'
  }): Promise<string>
}

/** Byte of its image that the component in hand goes on from; 0 where it begins at the first. */
export const fromByte = ({ goesOnAt, goesOnPiece = 0, piece }: StepContext): number =>
  piece === goesOnPiece ? (goesOnAt ?? 0) : 0

/** What a step of one kind does. Throws a Problem when it cannot be done. */
export type StepAct = (bench: StepContext) => Promise<void>
