import type { FlashSteps, MemoryStep } from '../../family'
import { hexNumber, Problem, type Clock } from '../../kernel'
import type { DebugPort } from './debug-port'

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

/** Bytes of one piece where a page is longer: between two reports of progress. */
const stretch = 4096
/** Longest that one piece may take to be programmed, ms. */
const programMs = 1000

/**
 * A controller with keys, a control and a status register, as steps.
 * @param eraseMs longest that one page's erasing takes, ms.
 */
export function stepsOfController(flash: FlashController, eraseMs: number): FlashSteps {
  const { keyRegister, keys, statusRegister, busy, errors, controlRegister, addressRegister } = flash
  const set = (register: number, value: number): MemoryStep => ({ do: 'set', register, value })
  const settled = (withinMs: number): MemoryStep[] => [
    { do: 'until', register: statusRegister, mask: busy, withinMs },
    { do: 'check', register: statusRegister, mask: errors, says: 'the memory reports a fault', clear: true },
  ]
  const { width, pageBytes, protection, lock, start, pageErase, massErase, program } = flash
  return {
    width,
    pageBytes,
    ...(pageBytes > stretch ? { pieceBytes: stretch } : {}),
    unlock: [
      { do: 'enough', register: controlRegister, mask: lock },
      ...keys.map((key) => set(keyRegister, key)),
    ],
    erasePage: [
      set(controlRegister, pageErase),
      { do: 'set', register: addressRegister, value: 0, with: 'page-address' },
      set(controlRegister, pageErase | start),
      ...settled(eraseMs * 4),
    ],
    eraseAll: [
      set(controlRegister, massErase),
      set(controlRegister, massErase | start),
      ...settled(eraseMs * 1000),
    ],
    program: [set(controlRegister, program), { do: 'data' }, ...settled(programMs)],
    lock: [set(controlRegister, lock)],
    protection,
  }
}

/** What an act is about. */
export interface ActPlace {
  /** Where the page begins, and which it is in its region. */
  page: number
  pageNumber: number
  /** Where the piece begins, with its bytes: whole writes of `width`. */
  at: number
  piece?: Uint8Array
}

/** The value that a step writes for this place. */
export function valueOf(step: MemoryStep & { do: 'set' }, place: ActPlace): number {
  if (step.with === undefined) return step.value
  const carried = { 'page-address': place.page, 'page-number': place.pageNumber, 'piece-address': place.at }
  return (step.value | (carried[step.with] << (step.shift ?? 0))) >>> 0
}

/** What steps are carried out on. */
export interface StepsBench {
  unit: DebugPort
  clock: Clock
  /** The link's name, for what is said. */
  thing: string
  width: 2 | 4
}

/**
 * Carries out one act on the unit's memory, step by step.
 * @throws Problem `debug-flash` where a wait ran out or a check found otherwise, with the place.
 */
export async function carryOut(
  steps: readonly MemoryStep[],
  place: ActPlace,
  { unit, clock, thing, width }: StepsBench,
): Promise<void> {
  const standsSo = async ({ register, mask, is = 0 }: { register: number; mask: number; is?: number }) =>
    ((await unit.read(register)) & mask) >>> 0 === is
  for (const step of steps) {
    switch (step.do) {
      case 'set':
        await unit.write(step.register, valueOf(step, place))
        break
      case 'data':
        await unit.writeBlock(step.to ?? place.at, place.piece!, width)
        break
      case 'wait':
        await clock.sleep(step.ms)
        break
      case 'enough':
        if (await standsSo(step)) return
        break
      case 'until':
        for (const end = clock.now() + step.withinMs; ; await clock.sleep(1)) {
          // What was asked in time and answered late, by a computer that stood still, is no sign of trouble.
          const asked = clock.now()
          if (await standsSo(step)) break
          if (asked > end)
            throw debugTrouble(
              thing,
              'the memory stays busy',
              'Take its supply away and try again.',
              place.at,
            )
        }
        break
      case 'check': {
        const found = await unit.read(step.register)
        if ((found & step.mask) >>> 0 === (step.is ?? 0)) break
        if (step.clear) await unit.write(step.register, (found & step.mask) >>> 0)
        throw debugTrouble(
          thing,
          `${step.says} at 0x${hexNumber(place.at, 8)}`,
          'It may be protected or not erased. Erase again, then write from the beginning.',
          place.at,
        )
      }
    }
  }
}

/** Exchanges with the adapter that an act costs beside its piece: one for each register that is asked or set. */
export const exchangesOf = (steps: readonly MemoryStep[] | undefined): number =>
  (steps ?? []).filter((step) => 'register' in step).length

/** Something is wrong with the unit’s memory. @param offset where. */
export function debugTrouble(thing: string, says: string, remedy: string, offset?: number): Problem {
  return new Problem({
    kind: 'debug-flash',
    thing,
    ...(offset === undefined ? {} : { place: { at: `0x${hexNumber(offset, 8)}` } }),
    says,
    remedy,
  })
}
