/*
 * USB Device Class Specification for Device Firmware Upgrade, version 1.1 (USB-IF, August 5, 2004): requests (table 3.2),
 * states and status (clause 6.1.2), and the transitions of annex A.2 as a pure function.
 */

/** States of a device (DFU 1.1, 6.1.2), by their numbers. */
export const dfuStates = [
  'appIDLE',
  'appDETACH',
  'dfuIDLE',
  'dfuDNLOAD-SYNC',
  'dfuDNBUSY',
  'dfuDNLOAD-IDLE',
  'dfuMANIFEST-SYNC',
  'dfuMANIFEST',
  'dfuMANIFEST-WAIT-RESET',
  'dfuUPLOAD-IDLE',
  'dfuERROR',
] as const
export type DfuState = (typeof dfuStates)[number]

/** Class requests (DFU 1.1, table 3.2). */
export const dfuRequest = {
  detach: 0,
  download: 1,
  upload: 2,
  getStatus: 3,
  clearStatus: 4,
  getState: 5,
  abort: 6,
} as const

/** Status codes in words (clause 6.1.2). */
export const dfuStatusWords: readonly string[] = [
  'no error',
  'the file is not for this device',
  'the file fails a check that this maker makes',
  'memory could not be written',
  'erasing failed',
  'memory is not empty after erasing',
  'programming failed',
  'what was programmed does not hold',
  'the address is out of range',
  'the transfer ended before the file was whole',
  'the firmware is damaged: it cannot leave update mode',
  'a fault that this maker has a text for',
  'an unexpected reset',
  'the supply failed',
  'it does not know what went wrong',
  'it did not expect this request',
]

/** What can be done to a device in some state. */
export type DfuEvent =
  | 'detach'
  /** A block with data, taken or refused. */
  | 'download'
  | 'download-refused'
  /** A block of no length: the file is whole, or is not. */
  | 'download-end'
  | 'download-end-refused'
  | 'upload'
  /** A block shorter than was asked for: the last one. */
  | 'upload-short'
  | 'get-status'
  | 'clear-status'
  | 'get-state'
  | 'abort'
  | 'reset'
  /** The poll time is over. */
  | 'timeout'

/** What a device says it can (bmAttributes). */
export interface DfuAttributes {
  canDownload: boolean
  canUpload: boolean
  manifestationTolerant: boolean
  willDetach: boolean
}

/** What decides the next state beside the request. */
export interface DfuContext extends DfuAttributes {
  /** The block is not yet worked off: asked for its status, the device goes on being busy. */
  busy: boolean
  /** Manifestation is still to be done. */
  manifesting: boolean
  /** The firmware in the device can run. */
  intact: boolean
}

/** Where a transition leads, and whether the request is refused by a stall. */
export interface DfuStep {
  to: DfuState
  stalls?: true
}

/** Annex A.2: from a state by an event. */
export function dfuStep(state: DfuState, event: DfuEvent, context: DfuContext): DfuStep {
  const to = (next: DfuState): DfuStep => ({ to: next })
  const stall = (next: DfuState): DfuStep => ({ to: next, stalls: true })
  const any = (next: DfuState) => (event === 'get-status' || event === 'get-state' ? to(next) : null)
  /** A bus reset in update mode leads to the firmware, or, where it is damaged, back into the error (A.2.3 to A.2.11). */
  const afterReset = () => to(context.intact ? 'appIDLE' : 'dfuERROR')
  switch (state) {
    case 'appIDLE':
      if (event === 'detach') return to('appDETACH')
      return any('appIDLE') ?? (event === 'reset' || event === 'timeout' ? to('appIDLE') : stall('appIDLE'))
    case 'appDETACH':
      if (event === 'reset') return to('dfuIDLE')
      if (event === 'timeout') return to('appIDLE')
      return any('appDETACH') ?? stall('appIDLE')
    case 'dfuIDLE':
      if (event === 'reset') return afterReset()
      if (event === 'download') return context.canDownload ? to('dfuDNLOAD-SYNC') : stall('dfuERROR')
      if (event === 'upload') return context.canUpload ? to('dfuUPLOAD-IDLE') : stall('dfuERROR')
      if (event === 'upload-short') return context.canUpload ? to('dfuIDLE') : stall('dfuERROR')
      if (event === 'abort' || event === 'timeout') return to('dfuIDLE')
      return any('dfuIDLE') ?? stall('dfuERROR')
    case 'dfuDNLOAD-SYNC':
      if (event === 'reset') return afterReset()
      if (event === 'get-status') return to(context.busy ? 'dfuDNBUSY' : 'dfuDNLOAD-IDLE')
      if (event === 'get-state' || event === 'timeout') return to('dfuDNLOAD-SYNC')
      return stall('dfuERROR')
    case 'dfuDNBUSY':
      if (event === 'reset') return afterReset()
      if (event === 'timeout') return to('dfuDNLOAD-SYNC')
      return stall('dfuERROR')
    case 'dfuDNLOAD-IDLE':
      if (event === 'reset') return afterReset()
      if (event === 'download') return to('dfuDNLOAD-SYNC')
      if (event === 'download-end') return to('dfuMANIFEST-SYNC')
      if (event === 'abort') return to('dfuIDLE')
      if (event === 'timeout') return to('dfuDNLOAD-IDLE')
      return any('dfuDNLOAD-IDLE') ?? stall('dfuERROR')
    case 'dfuMANIFEST-SYNC':
      if (event === 'reset') return afterReset()
      if (event === 'get-status') {
        if (context.manifesting) return to('dfuMANIFEST')
        return to(context.manifestationTolerant ? 'dfuIDLE' : 'dfuMANIFEST')
      }
      if (event === 'get-state' || event === 'timeout') return to('dfuMANIFEST-SYNC')
      return stall('dfuERROR')
    case 'dfuMANIFEST':
      if (event === 'reset') return afterReset()
      if (event === 'timeout') {
        return to(context.manifestationTolerant ? 'dfuMANIFEST-SYNC' : 'dfuMANIFEST-WAIT-RESET')
      }
      return stall('dfuERROR')
    case 'dfuMANIFEST-WAIT-RESET':
      if (event === 'reset') return afterReset()
      if (event === 'timeout') return to('dfuMANIFEST-WAIT-RESET')
      return stall('dfuMANIFEST-WAIT-RESET')
    case 'dfuUPLOAD-IDLE':
      if (event === 'reset') return afterReset()
      if (event === 'upload') return to('dfuUPLOAD-IDLE')
      if (event === 'upload-short' || event === 'abort') return to('dfuIDLE')
      if (event === 'timeout') return to('dfuUPLOAD-IDLE')
      return any('dfuUPLOAD-IDLE') ?? stall('dfuERROR')
    case 'dfuERROR':
      if (event === 'reset') return afterReset()
      if (event === 'clear-status') return to('dfuIDLE')
      return any('dfuERROR') ?? (event === 'timeout' ? to('dfuERROR') : stall('dfuERROR'))
  }
}
