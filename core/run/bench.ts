import type { Component, DrivenLink, Family } from '../family'
import type { UnitAnswers } from '../fit'
import type { ImageIdentity, ManifestClaim, MemoryMap } from '../image'
import type { Clock, Release } from '../kernel'
import type { Abandon, Channel, Loader, Meter, Report, Talk } from '../link'
import type { Snapshot } from '../unit'
import type { Load } from './plan'
import type { WakeWriter } from './wake'

/** Where the person's answers come from. */
export interface Answers {
  /** Resolves with the chosen answer's id. */
  wait(prompt: string): Promise<string>
}

/** What a run is about. */
export interface Errand {
  family: Family
  component: Component
  link: DrivenLink
  unit: { id: string; serial: string }
  /** What was known of the unit before, line by line: some lines a link cannot say, others not from the bootloader. */
  lastPage?: Snapshot | undefined
  image: { name: string; memory: MemoryMap; identity: ImageIdentity | null; claim?: ManifestClaim | null }
  /** How the unit is used: answers to the family's questions. */
  use?: UnitAnswers
  releases: readonly Release[]
}

/** What a run needs of the world. With the server's it is real; with a stand-in and a list it is a rehearsal. */
export interface World {
  /** What the unit or its adapter is plugged into, not yet opened. */
  channel: Channel
  /** Absent when nobody measures the supply; it then shows as not known. */
  meter?: Meter
  clock: Clock
  wake: WakeWriter
  answers: Answers
  abandon: Abandon
  /** Raised when the program is told to end: the run stops at the next safe point. */
  halt: Abandon
}

/** The bench as the steps find it; what they learn of the unit they leave here for the next. */
export interface Bench extends Errand, World {
  loads: readonly Load[]
  talk: Talk
  loader: Loader
  /** Index of the open step. */
  step: number
  inBootloader: boolean
  before: Snapshot | null
  /** Records progress; resolves when the record before it is on disk, so that the link need not wait for each. */
  report: Report
  /** Asks the person and waits. */
  ask(prompt: {
    id: string
    says: string
    caution?: string
    answers: { id: string; says: string }[]
  }): Promise<string>
}

/** What a step of one kind does. Throws a Problem when it cannot be done. */
export type StepAct = (bench: Bench) => Promise<void>
