import type { Clock } from '@bench-wake/core/kernel'
import {
  type ControlSetup,
  type DfuEvent,
  type DfuFunction,
  type DfuState,
  dfuRequest,
  dfuStates,
  dfuStep,
  usbStall,
  writeStatus,
} from '@bench-wake/core/link'

/** What a device does for the requests. */
export interface DfuDevice {
  readonly form: DfuFunction
  /** Longest that working off a block takes, ms: its poll time. */
  blockMs(at: number, length: number): number
  manifestMs: number
  /** Works a block off; gives a status, 0 where it went well. */
  program(at: number, data: Uint8Array): Promise<number>
  /** Whether the file is whole; a status, 0 where it is. */
  finish(length: number): number
  readBack(at: number, length: number): Uint8Array
  intact(): boolean
}

export interface DfuMachine {
  readonly state: DfuState
  control(setup: ControlSetup, direction: 'in' | 'out', length: number, data: Uint8Array): Promise<Uint8Array>
  reset(): void
}

/** The device's half: annex A.2 with a clock, refusing by a stall what the state does not allow. */
export function dfuMachine(name: string, clock: Clock, device: DfuDevice, start: DfuState): DfuMachine {
  let state = start
  let status = 0
  let done = 0
  let busyUntil = 0
  let manifesting = false

  const step = (event: DfuEvent): boolean => {
    const { to, stalls } = dfuStep(state, event, {
      ...device.form,
      busy: clock.now() < busyUntil,
      manifesting,
      // Judged where a state asks for it: the whole memory is read for it.
      get intact() {
        return device.intact()
      },
    })
    if (to === 'dfuERROR' && state !== 'dfuERROR' && status === 0) status = 15
    state = to
    return !stalls
  }
  const refuse = (request: string) => {
    throw usbStall(name, request)
  }
  const fail = (code: number, request: string) => {
    status = code
    state = 'dfuERROR'
    refuse(request)
  }
  /** The poll time is over: what was busy is asked for its status next. */
  const later = (ms: number) => {
    const now = state
    clock.after(ms, () => {
      if (state === now) step('timeout')
    })
  }

  return {
    get state() {
      return state
    },
    async control(setup, direction, length, data) {
      const nothing = new Uint8Array(0)
      switch (setup.request) {
        case dfuRequest.detach:
          if (!step('detach')) refuse('DETACH')
          later(setup.value)
          return nothing
        case dfuRequest.download: {
          if (direction !== 'out') refuse('DNLOAD')
          if (data.length > device.form.transferBytes) fail(15, 'DNLOAD')
          if (state === 'dfuIDLE') done = 0
          if (!step(data.length > 0 ? 'download' : 'download-end')) refuse('DNLOAD')
          if (data.length === 0) {
            const code = device.finish(done)
            if (code !== 0) fail(code, 'DNLOAD')
            manifesting = true
            return nothing
          }
          const ms = device.blockMs(done, data.length)
          busyUntil = clock.now() + ms
          // The work goes on while the host waits; a fault shows at the next status.
          void device.program(done, data).then((code) => {
            if (code !== 0) {
              status = code
              state = 'dfuERROR'
            }
          })
          done += data.length
          return nothing
        }
        case dfuRequest.upload: {
          if (state === 'dfuIDLE') done = 0
          const piece = device.readBack(done, length)
          if (!step(piece.length < length ? 'upload-short' : 'upload')) refuse('UPLOAD')
          done += piece.length
          return piece
        }
        case dfuRequest.getStatus: {
          const waits = Math.max(0, busyUntil - clock.now())
          if (!step('get-status')) refuse('GETSTATUS')
          let pollMs = 0
          if (state === 'dfuDNBUSY') {
            pollMs = Math.ceil(waits)
            later(waits)
          } else if (state === 'dfuMANIFEST') {
            pollMs = device.manifestMs
            clock.after(pollMs, () => {
              manifesting = false
              if (state === 'dfuMANIFEST') step('timeout')
            })
          }
          return writeStatus({ status, pollMs, state })
        }
        case dfuRequest.clearStatus:
          if (!step('clear-status')) refuse('CLRSTATUS')
          status = 0
          return nothing
        case dfuRequest.getState:
          if (!step('get-state')) refuse('GETSTATE')
          return Uint8Array.of(dfuStates.indexOf(state))
        case dfuRequest.abort:
          if (!step('abort')) refuse('ABORT')
          return nothing
        default:
          return refuse(`request ${setup.request}`) as never
      }
    },
    reset() {
      step('reset')
      status = state === 'dfuERROR' ? 10 : 0
      manifesting = false
      busyUntil = 0
    },
  }
}
