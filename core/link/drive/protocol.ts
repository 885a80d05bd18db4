import type { Component, DrivenLink, DriveOf, Family, Speech } from '../../family'
import type { Clock } from '../../kernel'
import type { LoaderAbilities } from '../loader'
import type { Port } from '../port'
import type { TraceReader } from '../trace/rows'
import type { TraceSpeech } from '../trace/trace'
import type { UsbPort } from '../usb'
import type { LinkDriver } from './link-driver'

/** A driven link on which this is spoken. */
export type Over<S extends Speech> = DrivenLink & { drive: DriveOf<S> }

/** What a link is opened for. */
export interface Opening<S extends Speech> {
  clock: Clock
  family: Family
  link: Over<S>
  component: Component
}

/** What its loader can, told before the link is opened: plan and gates rest on it. */
export interface ProtocolAbilities<S extends Speech> {
  /** The memory can be read out before it is written; so where nothing is said. */
  reads?(link: Over<S>): boolean
  /** How what was written is held against the image. */
  verify(link: Over<S>): LoaderAbilities['verify']
  /** The whole image can go over without anything being written: a dry run. Not so where nothing is said. */
  rehearses?(link: Over<S>): boolean
  /** A write that broke off may go on in the middle. Not so where nothing is said. */
  resumes?(link: Over<S>): boolean
  /** Erasing is an act of its own, and not the unit's affair while it is written; so where nothing is said. */
  erasesFirst?(link: Over<S>): boolean
  /** Bits that are read at once; 8 where nothing is said. */
  widthBits?: number
  /** The unit keeps fault codes that are read over it. */
  keepsFaults?: boolean
  /** The chip is there by itself and says what it is: one that holds nothing is blank, and not missing. */
  readsChip?: boolean
  /** The chip may hold more than its firmware: it is read whole before it is written. */
  readsWhole?: boolean
  /** The whole memory goes with every erase. */
  erasesWhole?: boolean
}

/** What it takes, ms, by the arithmetic of the protocol and without the unit's memory. */
export interface ProtocolTimes<S extends Speech> {
  /** To carry an image of so many bytes. */
  writeMs(link: Over<S>, bytes: number): number
  /** To give out so many bytes; the way of a write where nothing is said. */
  readMs?(link: Over<S>, bytes: number): number
  /** To erase a stretch, where the link chooses the blocks itself; null where the memory's sectors tell it. */
  eraseMs?(link: Over<S>, component: Component, range: { address: number; length: number }): number | null
  /** What the unit needs after the last byte that it acknowledged; 0 where nothing is said. @param programMs its memory */
  tailMs?(link: Over<S>, bytes: number, programMs: number): number
  /** To read the unit's page, with its thinking. */
  pageMs(link: Over<S>): number
  /** To show once more what a log takes from it; the page's time where nothing is said. */
  liveMs?(link: Over<S>): number
  /** The memory works while the next bytes are on their way. */
  programsMeanwhile?(link: Over<S>): boolean
}

interface ProtocolFacts<S extends Speech> {
  /** What is spoken and how fast, as a sentence says it. */
  says(link: Over<S>): string
  can: ProtocolAbilities<S>
  times: ProtocolTimes<S>
  /** How a trace of it is read. */
  trace: {
    name: string
    /** What a reader must know of the link; its name alone where nothing is said. */
    head?(link: Over<S>): TraceSpeech
    /** Serial bytes into rows; their count where nothing is said. */
    rows?(head: TraceSpeech): TraceReader
  }
}

/** All that the program knows of one way to speak with units: its driver, its abilities, its times, its words. */
export type LinkProtocol<S extends Speech = Speech> = ProtocolFacts<S> &
  (
    | { over: 'serial'; open(port: Port, opening: Opening<S>): LinkDriver }
    | { over: 'usb'; open(port: UsbPort, opening: Opening<S>): LinkDriver }
  )
