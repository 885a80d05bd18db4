import { bytesOfHex, hexOf, isProblem, type ProblemFacts } from '@bench-wake/core/kernel'
import {
  portLost,
  webUsbPort,
  type ControlSetup,
  type SerialSettings,
  type WebUsbDevice,
} from '@bench-wake/core/link'
import { defineStore } from 'pinia'
import { reactive, ref } from 'vue'
import { api, got, problemOf } from './api'
import { sendInOrder } from './in-order'

/** The part of the browser's serial interface that is used (WICG Web Serial). */
interface BrowserSerialPort {
  readable: ReadableStream<Uint8Array> | null
  writable: WritableStream<Uint8Array> | null
  open(options: {
    baudRate: number
    dataBits: number
    parity: string
    stopBits: number
    flowControl: 'none' | 'hardware'
  }): Promise<void>
  close(): Promise<void>
  setSignals(signals: {
    dataTerminalReady?: boolean
    requestToSend?: boolean
    break?: boolean
  }): Promise<void>
  getInfo(): { usbVendorId?: number; usbProductId?: number }
}
interface Lending {
  serial?: { requestPort(): Promise<BrowserSerialPort> }
  usb?: {
    requestDevice(options: {
      filters: object[]
    }): Promise<WebUsbDevice & { vendorId: number; productId: number }>
    getDevices(): Promise<(WebUsbDevice & { vendorId: number; productId: number; serialNumber?: string })[]>
  }
}
const browser = navigator as unknown as Lending

const wait = (ms: number) => new Promise<void>((done) => setTimeout(done, ms))

/** Does what the server calls for, on something that is plugged into this computer. */
type Calls = Record<string, (...args: never[]) => Promise<unknown>>

export interface LentHere {
  id: string
  name: string
  kind: 'serial' | 'usb'
}

/** Ports of this computer that this page lends to the program, for as long as the page is open. */
export const useLend = defineStore('lend', () => {
  const lent = reactive(new Map<string, LentHere>())
  const ends = new Map<string, () => void>()
  /** Why a port was taken back by itself. */
  const lost = ref('')

  async function join(
    form: { name: string; kind: 'serial' | 'usb'; usb?: { vendorId: string; productId: string } },
    make: (hear: (bytes: Uint8Array) => void, gone: () => void) => Calls,
  ): Promise<void> {
    const { id } = await got<{ id: string }>(api.lent.$post({ json: form }))
    const heard = sendInOrder(
      ({ seq, bytes }) =>
        got(api.lent[':id'].heard.$post({ param: { id }, json: { seq, bytes: hexOf(bytes) } })),
      wait,
      (error) => {
        lost.value = `${form.name}: what it heard did not reach the program (${problemOf(error).says}), so it was taken back. Lend it anew; a run that used it goes on as its next leg.`
        end()
      },
    )
    const end = () => {
      stream.close()
      lent.delete(id)
      ends.delete(id)
      void got(api.lent[':id'].$delete({ param: { id } })).catch(() => {})
    }
    const calls = make((bytes) => heard.push(bytes), end)
    const stream = new EventSource(`/api/lent/${id}/calls`)
    const answerCall = async (message: MessageEvent<string>) => {
      const { seq, call, args } = JSON.parse(message.data)
      const answer: { seq: number; value?: unknown; problem?: ProblemFacts } = { seq }
      try {
        answer.value = (await calls[call]!(...(args as never[]))) ?? null
      } catch (error) {
        answer.problem = isProblem(error)
          ? error.facts
          : portLost(form.name, error instanceof Error ? error.message : String(error)).facts
      }
      await got(api.lent[':id'].answers.$post({ param: { id }, json: answer as never })).catch(() => {})
    }
    stream.addEventListener('call', (message) => void answerCall(message as MessageEvent<string>))
    // Broken off, the server has taken the port for lost: it is lent anew by hand.
    stream.onerror = end
    lent.set(id, { id, name: form.name, kind: form.kind })
    ends.set(id, end)
  }

  /** Asks the person which serial port, and lends it. @throws where they choose none. */
  async function lendSerial(): Promise<void> {
    const port = await browser.serial!.requestPort()
    const { usbVendorId, usbProductId } = port.getInfo()
    const hex = (value: number) => value.toString(16).padStart(4, '0')
    const usb =
      usbVendorId === undefined || usbProductId === undefined
        ? undefined
        : { vendorId: hex(usbVendorId), productId: hex(usbProductId) }
    await join(
      { name: 'serial port of another computer', kind: 'serial', ...(usb ? { usb } : {}) },
      (hear, gone) => {
        let reader: ReadableStreamDefaultReader<Uint8Array> | undefined
        const listen = async () => {
          reader = port.readable?.getReader()
          try {
            for (;;) {
              const { value, done } = (await reader?.read()) ?? { done: true, value: undefined }
              if (value) hear(value)
              if (done) return
            }
          } catch {
            gone()
          } finally {
            reader?.releaseLock()
          }
        }
        let listening = Promise.resolve()
        const close = async () => {
          await reader?.cancel().catch(() => {})
          await listening
          await port.close().catch(() => {})
        }
        return {
          async open(settings: SerialSettings) {
            if (port.readable) await close()
            const { flow, lines, ...line } = settings
            // What the browser's interface cannot do is said, not left out.
            if (flow === 'xon-xoff' || line.parity === 'mark' || line.parity === 'space')
              throw new Error(
                'A browser lends no port with XON/XOFF, mark or space parity. Plug it into the computer the program runs on.',
              )
            await port.open({ ...line, flowControl: flow ? 'hardware' : 'none' })
            if (lines)
              await port.setSignals({
                ...(lines.dtr === undefined ? {} : { dataTerminalReady: lines.dtr }),
                ...(lines.rts === undefined ? {} : { requestToSend: lines.rts }),
              })
            listening = listen()
          },
          close,
          async write(bytes: string) {
            const writer = port.writable!.getWriter()
            try {
              await writer.write(bytesOfHex(bytes))
            } finally {
              writer.releaseLock()
            }
          },
          lines: ({ dtr, rts, brk }: { dtr?: boolean; rts?: boolean; brk?: boolean }) =>
            port.setSignals({
              ...(dtr === undefined ? {} : { dataTerminalReady: dtr }),
              ...(rts === undefined ? {} : { requestToSend: rts }),
              ...(brk === undefined ? {} : { break: brk }),
            }),
        }
      },
    )
  }

  /** Asks the person which USB device, and lends it. */
  async function lendUsb(): Promise<void> {
    const chosen = await browser.usb!.requestDevice({ filters: [] })
    const name = chosen.productName ?? 'USB device of another computer'
    const clock = {
      now: () => performance.now(),
      sleep: (ms: number) => new Promise<void>((done) => setTimeout(done, ms)),
    }
    const port = webUsbPort(name, clock, async () => {
      const devices = await browser.usb!.getDevices()
      return (
        devices.find((each) => each === chosen) ??
        devices.find((each) => each.vendorId === chosen.vendorId) ??
        null
      )
    })
    const hex = (value: number) => value.toString(16).padStart(4, '0')
    await join(
      { name, kind: 'usb', usb: { vendorId: hex(chosen.vendorId), productId: hex(chosen.productId) } },
      () => ({
        open: () => port.open(),
        close: () => port.close(),
        claimInterface: (number: number, alternate: number) => port.claimInterface(number, alternate),
        controlIn: async (setup: ControlSetup, length: number) => hexOf(await port.controlIn(setup, length)),
        controlOut: (setup: ControlSetup, data: string) => port.controlOut(setup, bytesOfHex(data)),
        transferIn: async (endpoint: number, length: number) =>
          hexOf(await port.transferIn(endpoint, length)),
        transferOut: (endpoint: number, data: string) => port.transferOut(endpoint, bytesOfHex(data)),
        reset: () => port.reset(),
        reopen: (timeoutMs: number) => port.reopen(timeoutMs),
      }),
    )
  }

  const takeBack = (id: string) => ends.get(id)?.()
  return {
    lent,
    lost,
    canSerial: browser.serial !== undefined,
    canUsb: browser.usb !== undefined,
    lendSerial,
    lendUsb,
    takeBack,
  }
})
