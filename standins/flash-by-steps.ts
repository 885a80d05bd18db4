import type { FlashSteps, MemoryStep } from '@bench-wake/core/family'
import type { FlashPart, PartMemory } from './microcontroller'

/** What one act waits to be given next. */
type Given = Extract<MemoryStep, { do: 'set' | 'data' }>
const actNames = ['unlock', 'erasePage', 'eraseAll', 'program', 'lock'] as const
type Act = (typeof actNames)[number]

/**
 * A flash controller that a profile describes by steps: it does an act once all that the steps write has come, in their order,
 * and shows in the registers that they look at whether it works, is open or met a fault.
 */
export function stepsController(flash: FlashSteps, memory: PartMemory): FlashPart {
  const { pageBytes, pieceBytes = pageBytes, base = 0, width } = flash
  const given = (steps: readonly MemoryStep[] = []): Given[] =>
    steps.filter((step): step is Given => step.do === 'set' || step.do === 'data')
  const acts = Object.fromEntries(actNames.map((act) => [act, given(flash[act])])) as Record<Act, Given[]>
  const at: Record<Act, number> = { unlock: 0, erasePage: 0, eraseAll: 0, program: 0, lock: 0 }
  let open = acts.unlock.length === 0
  let failed = false
  /** What the values of an act under way carried. */
  const place: Record<Act, number | null> = {
    unlock: null,
    erasePage: null,
    eraseAll: null,
    program: null,
    lock: null,
  }
  const tests = testsOf(flash)
  const registers = registersOf(flash)
  const clearable = tests.some(({ step }) => step.do === 'check' && step.clear)
  const kept = new Map<number, number>()
  const buffer = new Uint8Array(pieceBytes).fill(0xff)
  const dataStep = acts.program.find((step) => step.do === 'data')
  const to = dataStep?.do === 'data' ? dataStep.to : undefined

  /** Where a value says that the act takes place; null where it is not that value, undefined where it says nothing of it. */
  const carried = (step: MemoryStep & { do: 'set' }, value: number): number | null | undefined => {
    if (step.with === undefined) return value === step.value ? undefined : null
    if ((value & step.value) >>> 0 !== step.value) return null
    const part = ((value & ~step.value) >>> 0) >>> (step.shift ?? 0)
    return step.with === 'page-number' ? base + part * pageBytes : part
  }
  const done: Record<Act, () => void> = {
    unlock: () => (open = true),
    lock: () => (open = acts.unlock.length === 0),
    erasePage() {
      if (
        !open ||
        memory.protection.on ||
        place.erasePage === null ||
        !memory.holds(place.erasePage, pageBytes)
      )
        failed = true
      else memory.erase(place.erasePage, pageBytes)
    },
    eraseAll() {
      if (open) memory.eraseAll()
      else failed = true
    },
    program() {
      if (to === undefined) return
      if (!open || memory.protection.on || place.program === null || !memory.holds(place.program, pieceBytes))
        failed = true
      else
        for (let offset = 0; offset < pieceBytes; offset += width)
          memory.program(place.program + offset, wordAt(buffer, offset, width), width)
      buffer.fill(0xff)
    },
  }
  const come = (act: Act) => {
    at[act]++
    if (at[act] < acts[act].length) return
    at[act] = 0
    done[act]()
    place[act] = null
  }
  /** Any other value than the one an act waits for ends that act: it begins anew. A piece has no end but the next value. */
  const offer = (register: number, value: number) => {
    for (const act of actNames) {
      const now = at[act]
      const afterPiece = to === undefined && acts[act][now]?.do === 'data' ? [now + 1] : []
      at[act] = 0
      for (const index of [now, ...afterPiece, 0]) {
        const step = acts[act][index]
        if (step?.do !== 'set' || step.register !== register) continue
        const says = carried(step, value)
        if (says === null) continue
        if (index === 0 && !clearable) failed = false
        if (says !== undefined) place[act] = says
        at[act] = index
        come(act)
        break
      }
    }
  }

  return {
    reset() {
      open = acts.unlock.length === 0
      for (const act of actNames) at[act] = 0
    },
    read(address) {
      const { protection } = flash
      const shown = tests.filter(({ step }) => step.register === address)
      if (protection?.register === address) {
        const { mask, is = mask } = protection
        return memory.protection.on ? is : (~is & mask) >>> 0
      }
      if (shown.length === 0) return kept.get(address) ?? (registers.has(address) ? 0 : null)
      return shown.reduce(
        (value, { step, act }) => {
          const { mask, is = 0 } = step
          const holds =
            step.do === 'until'
              ? !memory.busy()
              : step.do === 'check'
                ? !failed
                : act === 'lock'
                  ? !open
                  : open
          return ((value & ~mask) | (holds ? is : (is ^ mask) & mask)) >>> 0
        },
        kept.get(address) ?? 0,
      )
    },
    write(address, value, bytes) {
      if (to !== undefined && address >= to && address < to + pieceBytes) {
        for (let lane = 0; lane < bytes; lane++) buffer[address - to + lane] = (value >>> (8 * lane)) & 255
        if (acts.program[at.program]?.do === 'data' && address + bytes >= to + pieceBytes) come('program')
        return true
      }
      if (!registers.has(address)) return null
      const clears = tests.some(({ step }) => step.register === address && step.do === 'check' && step.clear)
      if (clears && failed) failed = false
      else kept.set(address, value)
      offer(address, value)
      return true
    },
    program(address, value, bytes) {
      if (memory.protection.on) return false
      const armed = to === undefined && acts.program[at.program]?.do === 'data'
      if (!open || !armed || bytes !== width) failed = true
      else memory.program(address, value, width)
      // The piece has no end that the memory could see: whatever is set next ends it.
      return true
    },
  }
}

const wordAt = (bytes: Uint8Array, at: number, width: number): number =>
  Array.from({ length: width }, (_, lane) => bytes[at + lane]! * 2 ** (8 * lane)).reduce(
    (sum, lane) => sum + lane,
    0,
  )

/** Every step that looks at a register, with the act it belongs to. */
const testsOf = (flash: FlashSteps) =>
  actNames.flatMap((act) =>
    (flash[act] ?? []).flatMap((step) =>
      step.do === 'until' || step.do === 'check' || step.do === 'enough' ? [{ step, act }] : [],
    ),
  )

/** Registers that the profile speaks of. */
const registersOf = (flash: FlashSteps): Set<number> =>
  new Set(
    actNames.flatMap((act) =>
      (flash[act] ?? []).flatMap((step) => ('register' in step ? [step.register] : [])),
    ),
  )
