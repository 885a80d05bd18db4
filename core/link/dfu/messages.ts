import type { UsbInterface } from '../usb'
import { dfuStates, type DfuAttributes, type DfuState } from './states'

/** DFU functional descriptor (DFU 1.1, clause 4.1.3). */
export interface DfuFunction extends DfuAttributes {
  /** Longest the device waits for the reset after a detach, ms. */
  detachMs: number
  /** Most bytes of a block. */
  transferBytes: number
  /** Binary-coded decimal: 0x0110 is 1.1. */
  version: number
}

const functionalType = 0x21

/** Reads the functional descriptor; null where it is none (DFU 1.1, table 4.2). */
export function readFunction(bytes: Uint8Array): DfuFunction | null {
  if (bytes.length < 9 || bytes[1] !== functionalType) return null
  const word = (at: number) => bytes[at]! | (bytes[at + 1]! << 8)
  const attributes = bytes[2]!
  return {
    canDownload: !!(attributes & 1),
    canUpload: !!(attributes & 2),
    manifestationTolerant: !!(attributes & 4),
    willDetach: !!(attributes & 8),
    detachMs: word(3),
    transferBytes: word(5),
    version: word(7),
  }
}

/** The same the other way round. */
export function writeFunction(form: DfuFunction): Uint8Array {
  const attributes =
    Number(form.canDownload) |
    (Number(form.canUpload) << 1) |
    (Number(form.manifestationTolerant) << 2) |
    (Number(form.willDetach) << 3)
  const low = (value: number) => [value & 255, value >> 8]
  return Uint8Array.of(
    9,
    functionalType,
    attributes,
    ...low(form.detachMs),
    ...low(form.transferBytes),
    ...low(form.version),
  )
}

/** The device's update interface. Each alternate setting of it is a memory of its own, with a string that names it. */
export interface DfuInterface {
  number: number
  /** Its firmware runs, and knows how to detach. */
  running: boolean
  alternates: { alternate: number; name: number }[]
  function: DfuFunction
}

/**
 * The update interface among others: class FE, subclass 01; protocol 01 while its firmware runs, 02 in update mode (DFU 1.1,
 * tables 4.1 and 4.4). Its functional descriptor stands once, behind all its alternate settings (clause 4.2.3): which
 * setting it stands behind says nothing of what is written.
 */
export function dfuInterface(interfaces: readonly UsbInterface[]): DfuInterface | null {
  const own = interfaces.filter((each) => each.class === 0xfe && each.subclass === 0x01)
  for (const { number, protocol } of own) {
    const settings = own.filter((each) => each.number === number)
    const form = settings.flatMap(({ others }) => others.flatMap((other) => readFunction(other) ?? []))[0]
    if (!form) continue
    const alternates = settings.map(({ alternate, name }) => ({ alternate, name }))
    return { number, running: protocol === 1, alternates, function: form }
  }
  return null
}

/** Answer to GETSTATUS (clause 6.1.2): status, poll time in 24 bits, state, string. */
export interface DfuStatus {
  status: number
  pollMs: number
  state: DfuState
}

/** Reads the answer to DFU_GETSTATUS; null where it is too short. */
export function readStatus(bytes: Uint8Array): DfuStatus | null {
  const state = dfuStates[bytes[4] ?? -1]
  if (bytes.length < 6 || !state) return null
  return { status: bytes[0]!, pollMs: bytes[1]! | (bytes[2]! << 8) | (bytes[3]! << 16), state }
}

/** The same the other way round. */
export function writeStatus({ status, pollMs, state }: DfuStatus): Uint8Array {
  return Uint8Array.of(
    status,
    pollMs & 255,
    (pollMs >> 8) & 255,
    (pollMs >> 16) & 255,
    dfuStates.indexOf(state),
    0,
  )
}
