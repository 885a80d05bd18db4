import type { Component } from '../../family'
import { isProblem } from '../../kernel'
import type { Fuse } from '../in-system'
import type { Loader } from '../loader'
import type { Person } from '../person'
import type { Port } from '../port'
import type { DataStream, SendMode } from '../uds/periodic'
import type { UsbPort } from '../usb'

/** What an adapter or a unit is plugged into: a serial line or the USB bus. */
export type Channel = { kind: 'serial'; port: Port } | { kind: 'usb'; port: UsbPort }

/** What a unit said of itself, line by line, and whether it sits in its bootloader. */
export interface Page {
  lines: string[]
  inBootloader: boolean
}

/** What a link heard when it asked for the bootloader. */
export interface Heard {
  /** Null where the link does not tell, since the firmware speaks the same services. */
  bootloader: boolean | null
  /** What came in its place, as text. */
  text?: string
}

/** A link as it is driven: joined, asked for the unit's page, and its bootloader. One for each speech. */
export interface LinkDriver {
  readonly loader: Loader
  /** The bootloader as it is asked for one of several components; absent where it knows one only. */
  loaderOf?(component: Component): Loader
  open(): Promise<void>
  close(): Promise<void>
  /** @throws Problem for which `isSilence` holds when nobody answers. */
  page(): Promise<Page>
  /**
   * Whether the unit sits in its bootloader now. It changes nothing: it asks no unit to go there.
   */
  probeBootloader(): Promise<Heard>
  /** The bytes of a data identifier (ISO 14229-1, service 22), for whoever logs; absent where the link has none. */
  readData?(identifier: number): Promise<Uint8Array>
  /** The same, sent by the unit at a rate (service 2A), for whoever logs; absent where the profile names no rates. */
  sendData?(asked: readonly { identifier: number; rate: SendMode }[]): Promise<DataStream>
  /** What the unit shows now, line by line, for whoever logs; absent where it shows no more than its page. */
  live?(): Promise<string[]>
  /** Fault codes as the unit words them, and taking them away; absent where it keeps none. */
  faults?: { read(): Promise<string>; clear(): Promise<void> }
  /** Fuse bytes, read and set one by one; absent where the link has none. */
  fuses?: { read(): Promise<{ fuse: Fuse; value: number }[]>; set(id: string, value: number): Promise<void> }
  /**
   * Joins again at the next lower speed that the bootloader takes up by itself, until it is left; absent where the link
   * has one speed.
   * @returns that speed, baud; null when there is none lower.
   */
  slower?(): Promise<number | null>
  /** Gives the link someone to ask in the middle of an operation; absent where it never asks. */
  withPerson?(person: Person): void
  /** Sends the running firmware to its bootloader; absent where hands do that. */
  enter?(command: string): Promise<void>
}

const silences = [
  'no-answer',
  'no-bootloader',
  'modbus-silent',
  'uds-silent',
  'isotp-no-flow',
  'kwp-no-wake',
  'slcan-silent',
  'debug-no-unit',
  'flash-silent',
  'in-system-silent',
  'port-lost',
] as const

/** Nobody answered: the unit is off, starting, or not at the other end. Asking again may help. */
export const isSilence = (error: unknown): boolean => silences.some((kind) => isProblem(error, kind))
