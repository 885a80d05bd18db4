import { concatBytes, firstDifference, hexNumber, Problem, type Clock } from '../../kernel'
import { adapterPassing, joinOrNobody } from '../join'
import { retryPassing } from '../retry-passing'
import { readBackVerification } from '../check'
import { writeAbandoned, type Loader, type Range } from '../loader'
import type { UsbPort } from '../usb'
import { dapAdapter, type DapAdapter } from './adapter'
import { dapPin, encodePins } from './dap-packets'
import { openDebugPort, type DebugPort } from './debug-port'

/** A flash controller as the unit's profile describes it: registers by address, bits as masks. */
export interface FlashController {
  keyRegister: number
  keys: readonly number[]
  statusRegister: number
  busy: number
  /** Bits that say that an act failed; written back they are cleared. */
  errors: number
  controlRegister: number
  program: number
  pageErase: number
  massErase: number
  start: number
  lock: number
  addressRegister: number
  /** Bytes of one programming access. */
  width: 2 | 4
  pageBytes: number
  /** Where the unit tells that its memory may not be read, and where that is taken away. */
  protection: { register: number; mask: number }
}

/** How a unit on the debug port is driven. */
export interface DebugSettings {
  hertz: number
  /** Which access port leads to the memory; 0 where nothing is said. */
  accessPort?: number
  /** Its reset is held while it is joined. */
  underReset?: boolean
  flash: FlashController
  /** Longest that one page's erasing may take, ms. */
  eraseMs: number
}

/** Debug halting control and status, application interrupt and reset control (Armv6-M and v7-M, C1.6 and B3.2). */
const halting = { register: 0xe000edf0, key: 0xa05f0000, enable: 1, halt: 2, isHalted: 1 << 17 }
/** Debug exception and monitor control: the processor halts at its first instruction (C1.6.5). */
const catchReset = { register: 0xe000edfc, value: 1 }
const resetControl = { register: 0xe000ed0c, key: 0x05fa0000, request: 4 }

/** How often a piece is tried; the unit is joined anew in between. */
const tries = 4
/** What another try may mend: a contact that gave way, an answer that broke off. */
const passing = [...adapterPassing, 'debug-no-unit', 'debug-wait']

/** Bytes between two reports of progress. */
const stretch = 4096

/** A loader that writes through the debug port. */
export interface DebugLoader extends Loader {
  protected(): Promise<boolean>
  eraseAll(consent: 'erase the whole unit'): Promise<void>
  /** Lets the processor run on, as it stood. */
  release(): Promise<void>
}

/** A unit without a loader of its own: its memory is written through the debug port. */
export function debugLoader(
  usb: UsbPort,
  clock: Clock,
  settings: DebugSettings,
  page: (port: DebugPort) => Promise<string[]>,
): DebugLoader {
  const { flash } = settings
  let opened: DebugPort | undefined
  const unit = () => {
    if (opened) return opened
    throw trouble(usb.name, 'the debug port is not joined', 'Join the unit first.')
  }
  const settle = async (at: number, maxMs: number) => {
    for (let waited = 0; (await unit().read(flash.statusRegister)) & flash.busy; waited++) {
      if (waited > maxMs)
        throw trouble(usb.name, 'the memory stays busy', 'Take its supply away and try again.', at)
      await clock.sleep(1)
    }
    const status = await unit().read(flash.statusRegister)
    if (!(status & flash.errors)) return
    await unit().write(flash.statusRegister, status & flash.errors)
    throw trouble(
      usb.name,
      `the memory reports a fault at 0x${hexNumber(at, 8)}`,
      'It may be protected or not erased. Erase again, then write from the beginning.',
      at,
    )
  }
  /** Control open for one act, and shut after it whatever comes. */
  const unlocked = async (bits: number, act: () => Promise<void>) => {
    if ((await unit().read(flash.controlRegister)) & flash.lock) {
      for (const key of flash.keys) await unit().write(flash.keyRegister, key)
    }
    await unit().write(flash.controlRegister, bits)
    try {
      await act()
    } finally {
      // A unit that is no longer joined shuts by itself at its next reset.
      await opened?.write(flash.controlRegister, flash.lock).catch(() => {})
    }
  }
  const pagesOf = ({ address, length }: Range) => {
    const first = Math.floor(address / flash.pageBytes) * flash.pageBytes
    return Array.from(
      { length: Math.ceil((address + length - first) / flash.pageBytes) },
      (_, index) => first + index * flash.pageBytes,
    )
  }
  const readUp = async ({ address, length }: Range, report: (done: number) => Promise<void> | void) => {
    const parts: Uint8Array[] = []
    const whole = Math.ceil(length / 4) * 4
    for (let done = 0; done < whole; done += stretch) {
      const piece = Math.min(stretch, whole - done)
      parts.push(await again(() => unit().readBlock(address + done, piece)))
      await report(Math.min(length, done + stretch))
    }
    return concatBytes(parts).subarray(0, length)
  }
  const isProtected = async () =>
    ((await unit().read(flash.protection.register)) & flash.protection.mask) !== 0

  const join = async () => {
    opened = undefined
    const { accessPort = 0, underReset = false } = settings
    const adapter = await dapAdapter(usb)
    try {
      opened = await joined(adapter, { accessPort, underReset })
    } catch (error) {
      // A unit that could not be joined is not left with its reset held.
      if (underReset) await adapter.exchange(encodePins(dapPin.reset, dapPin.reset)).catch(() => {})
      throw error
    }
  }
  const joined = async (
    adapter: DapAdapter,
    form: { accessPort: number; underReset: boolean },
  ): Promise<DebugPort> => {
    const port = await openDebugPort(adapter, clock, settings.hertz, form)
    // Halted, the unit's own firmware does not touch the memory meanwhile.
    await port.write(halting.register, halting.key | halting.enable | halting.halt)
    if (form.underReset) {
      // It halts at its first instruction, before its firmware does anything.
      await port.write(catchReset.register, catchReset.value)
      await port.releaseReset()
    }
    for (let asked = 0; !((await port.read(halting.register)) & halting.isHalted); asked++) {
      if (asked === 50) {
        throw trouble(usb.name, 'the processor does not stop', 'Hold its reset while you join.')
      }
      await clock.sleep(2)
    }
    return port
  }
  /** Does a piece, joined anew where the contact gave way; what is done twice does no harm in this memory. */
  const again = <T>(act: () => Promise<T>, onRetry: () => unknown = () => {}) =>
    retryPassing(
      async () => {
        if (!opened) await join()
        return act()
      },
      {
        tries,
        passing,
        onRetry: () => {
          opened = undefined
          onRetry()
        },
      },
    )

  return {
    can: { read: true, erase: true, verify: 'read-back', resume: false },
    attach: () => joinOrNobody(join, 'debug-no-unit', { tries, passing }),
    identify: () => page(unit()),
    protected: isProtected,
    async eraseAll(consent) {
      if (consent !== 'erase the whole unit') throw new TypeError('asked without consent')
      await unlocked(flash.massErase, async () => {
        await unit().write(flash.controlRegister, flash.massErase | flash.start)
        await settle(0, settings.eraseMs * 1000)
      })
    },
    read: (range, report) =>
      readUp(range, (done) => report({ done, total: range.length, unit: 'bytes', retries: 0 })),
    async erase(range, report) {
      if (await again(isProtected)) throw shut(usb.name)
      const pages = pagesOf(range)
      let retries = 0
      for (const [index, page] of pages.entries()) {
        await again(
          () =>
            unlocked(flash.pageErase, async () => {
              await unit().write(flash.addressRegister, page)
              await unit().write(flash.controlRegister, flash.pageErase | flash.start)
              await settle(page, settings.eraseMs * 4)
            }),
          () => retries++,
        )
        await report({ done: index + 1, total: pages.length, unit: 'sectors', retries })
      }
    },
    async write(address, bytes, report, abandon) {
      const whole = Math.ceil(bytes.length / flash.width) * flash.width
      const padded = new Uint8Array(whole).fill(0xff)
      padded.set(bytes)
      let retries = 0
      for (let done = 0; done < whole;) {
        if (abandon.raised) throw writeAbandoned(usb.name, done, 'the unit holds a part of the image')
        const at = address + done
        const piece = padded.subarray(done, done + Math.min(stretch, flash.pageBytes))
        await again(
          () =>
            unlocked(flash.program, async () => {
              await unit().writeBlock(at, piece, flash.width)
              await settle(at, 1000)
            }),
          () => retries++,
        )
        done += piece.length
        await report({ done: Math.min(done, bytes.length), total: bytes.length, unit: 'bytes', retries })
      }
    },
    async verify(address, bytes) {
      const back = await readUp({ address, length: bytes.length }, () => {})
      return readBackVerification(
        firstDifference(bytes, back),
        bytes,
        (offset) => `0x${hexNumber(address + offset, 8)}`,
      )
    },
    async release() {
      await opened?.write(halting.register, halting.key)
      opened = undefined
    },
    async startApplication() {
      const port = unit()
      opened = undefined
      if (settings.underReset) {
        // Once it ran, its firmware would have the pads: it is let go of while its reset is held.
        await port.holdReset()
        await port.write(catchReset.register, 0)
        await port.write(halting.register, halting.key)
        return port.releaseReset()
      }
      await port.write(halting.register, halting.key)
      await port.write(resetControl.register, resetControl.key | resetControl.request)
    },
  }
}

function trouble(thing: string, says: string, remedy: string, offset?: number): Problem {
  return new Problem({
    kind: 'debug-flash',
    thing,
    ...(offset === undefined ? {} : { place: { at: `0x${hexNumber(offset, 8)}` } }),
    says,
    remedy,
  })
}

function shut(thing: string): Problem {
  return new Problem({
    kind: 'debug-protected',
    thing,
    says: 'the unit keeps its memory from being read and written',
    remedy: 'Taking that away erases everything in the unit, its own settings too: it needs your word twice.',
  })
}
