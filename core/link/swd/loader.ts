import type { FlashSteps, MemoryStep } from '../../family'
import { concatBytes, equalBytes, firstDifference, hexNumber, Problem, type Clock } from '../../kernel'
import { adapterPassing, joinOrNobody } from '../join'
import { retryPassing } from '../retry-passing'
import { readBackVerification } from '../check'
import { writeAbandoned, type Loader, type Range } from '../loader'
import type { UsbPort } from '../usb'
import { dapAdapter, type DapAdapter } from './adapter'
import { dapPin, encodePins } from './dap-packets'
import { openDebugPort, type DebugPort } from './debug-port'
import { carryOut, debugTrouble, stepsOfController, type ActPlace, type FlashController } from './flash-steps'

/** How a unit on the debug port is driven. */
export interface DebugSettings {
  hertz: number
  /** Which access port leads to the memory; 0 where nothing is said. */
  accessPort?: number
  /** Its reset is held while it is joined. */
  underReset?: boolean
  /** The flash controller, or each of its acts where it is of another shape. One of both. */
  flash?: FlashController
  flashSteps?: FlashSteps
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

/** Bytes between two reports of progress while it is read. */
const stretch = 4096

/** A loader that writes through the debug port. */
export interface DebugLoader extends Loader {
  protected(): Promise<boolean>
  /** Absent where the unit’s manual knows no such act. */
  eraseAll?(consent: 'erase the whole unit'): Promise<void>
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
  const flash = settings.flashSteps ?? stepsOfController(settings.flash!, settings.eraseMs)
  const { width, pageBytes, pieceBytes = pageBytes, base = 0 } = flash
  let opened: DebugPort | undefined
  const unit = () => {
    if (opened) return opened
    throw debugTrouble(usb.name, 'the debug port is not joined', 'Join the unit first.')
  }
  const placeOf = (at: number, piece?: Uint8Array): ActPlace => {
    const pageNumber = Math.floor((at - base) / pageBytes)
    return { at, page: base + pageNumber * pageBytes, pageNumber, ...(piece && { piece }) }
  }
  /** One act on its own: opened before it, and shut after it whatever comes. */
  const act = async (steps: readonly MemoryStep[], place: ActPlace) => {
    const bench = () => ({ unit: unit(), clock, thing: usb.name, width })
    try {
      await carryOut(flash.unlock ?? [], place, bench())
      await carryOut(steps, place, bench())
    } finally {
      // A unit that is no longer joined shuts by itself at its next reset.
      if (opened) await carryOut(flash.lock ?? [], place, bench()).catch(() => {})
    }
  }
  const pagesOf = ({ address, length }: Range) => {
    const first = placeOf(address).page
    return Array.from(
      { length: Math.ceil((address + length - first) / pageBytes) },
      (_, index) => first + index * pageBytes,
    )
  }
  /** Bytes as they stand now; the port reads whole words. */
  const bytesAt = async (address: number, length: number) => {
    const from = Math.floor(address / 4) * 4
    const words = await unit().readBlock(from, Math.ceil((address + length - from) / 4) * 4)
    return words.subarray(address - from, address - from + length)
  }
  /**
   * The next piece: up to where a piece ends, filled up with FF to whole writes; a controller's buffer is filled whole.
   */
  const pieceAt = (at: number, left: Uint8Array, buffered: boolean) => {
    const start =
      base + Math.floor((at - base) / (buffered ? pieceBytes : width)) * (buffered ? pieceBytes : width)
    const end = base + (Math.floor((at - base) / pieceBytes) + 1) * pieceBytes
    const taken = Math.min(left.length, end - at)
    const filled = buffered ? pieceBytes : Math.ceil((at + taken - start) / width) * width
    const piece = new Uint8Array(filled).fill(0xff)
    piece.set(left.subarray(0, taken), at - start)
    return { start, piece, taken }
  }
  const readUp = async ({ address, length }: Range, report: (done: number) => Promise<void> | void) => {
    const parts: Uint8Array[] = []
    for (let done = 0; done < length; done += stretch) {
      parts.push(await again(() => bytesAt(address + done, Math.min(stretch, length - done))))
      await report(Math.min(length, done + stretch))
    }
    return concatBytes(parts)
  }
  const isProtected = async () => {
    if (!flash.protection) return false
    const { register, mask, is } = flash.protection
    const found = ((await unit().read(register)) & mask) >>> 0
    return is === undefined ? found !== 0 : found === is
  }

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
        throw debugTrouble(usb.name, 'the processor does not stop', 'Hold its reset while you join.')
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
    ...(flash.eraseAll && {
      async eraseAll(consent) {
        if (consent !== 'erase the whole unit') throw new TypeError('asked without consent')
        await act(flash.eraseAll!, placeOf(0))
      },
    }),
    read: (range, report) =>
      readUp(range, (done) => report({ done, total: range.length, unit: 'bytes', retries: 0 })),
    async erase(range, report) {
      if (await again(isProtected)) throw shut(usb.name, flash.eraseAll !== undefined)
      const pages = pagesOf(range)
      let retries = 0
      for (const [index, page] of pages.entries()) {
        await again(
          () => act(flash.erasePage, placeOf(page)),
          () => retries++,
        )
        await report({ done: index + 1, total: pages.length, unit: 'sectors', retries })
      }
    },
    async write(address, bytes, report, abandon) {
      const buffered = flash.program.some((step) => step.do === 'data' && step.to !== undefined)
      let retries = 0
      for (let done = 0; done < bytes.length;) {
        if (abandon.raised) throw writeAbandoned(usb.name, done, 'the unit holds a part of the image')
        const { start, piece, taken } = pieceAt(address + done, bytes.subarray(done), buffered)
        const within = address + done - start
        let tried = 0
        await again(
          async () => {
            // What a cut left whole is not programmed twice: many a memory takes each word once.
            if (tried++ > 0 && equalBytes(await bytesAt(start, piece.length), piece)) return
            // Beside this part of the page stays what stands there.
            if (buffered && taken < piece.length) {
              const page = await bytesAt(start, piece.length)
              page.set(piece.subarray(within, within + taken), within)
              piece.set(page)
            }
            await act(flash.program, placeOf(start, piece))
          },
          () => retries++,
        )
        done += taken
        await report({ done, total: bytes.length, unit: 'bytes', retries })
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

function shut(thing: string, canErase: boolean): Problem {
  return new Problem({
    kind: 'debug-protected',
    thing,
    says: 'the unit keeps its memory from being read and written',
    remedy: canErase
      ? 'Taking that away erases everything in the unit, its own settings too: it needs your word twice.'
      : 'The profile names no way to take that away. Look in the unit’s manual, and write it into the profile as "eraseAll".',
  })
}
