import type { Clock } from '@bench-wake/core/kernel'
import type { TargetMemory } from './protocols/wire-target'

/** A unit's flash as its controller works on it. */
export interface PartMemory {
  protection: { on: boolean }
  /** Whether it still erases or programs. */
  busy(): boolean
  holds(address: number, length: number): boolean
  /** Only clears bits, as NOR does. */
  program(address: number, value: number, width: 1 | 2 | 4): void
  erase(address: number, length: number): void
  /** Everything, and the protection with it. */
  eraseAll(): void
}

/** A flash controller: its registers, and what it makes of a write to the memory. */
export interface FlashPart {
  /** null where it has no such register. */
  read(address: number): number | null
  write(address: number, value: number, width: 1 | 2 | 4): boolean | null
  /** A write to a place in the flash. @returns false a bus fault */
  program(address: number, value: number, width: 1 | 2 | 4): boolean
  reset(): void
}

/**
 * A microcontroller's memory as its debug port sees it: flash under a controller, a processor that halts, and whatever else
 * the profile names. Flash behaves as NOR does: erasing sets a page, programming only clears bits.
 */
export interface MicrocontrollerForm {
  clock: Clock
  controller(memory: PartMemory): FlashPart
  base: number
  bytes: Uint8Array
  eraseMs: number
  /** Time for one programming access, ms. */
  programMs: number
  /** Words that can be read and written as they are, by address. */
  words?: Map<number, number>
  protection: { on: boolean }
  onReset(): void
  /** Told of each piece that was programmed, bytes. */
  onProgram?(count: number): void
}

const halting = 0xe000edf0
const resetControl = 0xe000ed0c
const catchReset = 0xe000edfc

export function microcontroller(form: MicrocontrollerForm): TargetMemory {
  const { clock, base, bytes, words = new Map<number, number>() } = form
  let busyUntil = 0
  let halted = false
  let debugged = false
  let catches = false
  let inReset = false
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
  const works = (ms: number) => (busyUntil = Math.max(clock.now(), busyUntil) + ms)
  const inFlash = (address: number, length: number) =>
    address >= base && address + length <= base + bytes.length
  const part = form.controller({
    protection: form.protection,
    busy: () => clock.now() < busyUntil,
    holds: inFlash,
    program(address, value, width) {
      for (let at = 0; at < width; at++) bytes[address - base + at]! &= (value >>> (8 * at)) & 255
      works(form.programMs)
      form.onProgram?.(width)
    },
    erase(address, length) {
      bytes.fill(0xff, address - base, address - base + length)
      works(form.eraseMs)
    },
    eraseAll() {
      bytes.fill(0xff)
      form.protection.on = false
      works(form.eraseMs * 4)
    },
  })

  return {
    reset(high) {
      inReset = !high
      halted = high && debugged && catches
      if (!high) return
      part.reset()
      form.onReset()
    },
    isHalted: () => halted,
    read(address) {
      const told = part.read(address)
      if (told !== null) return told
      if (address === halting) return halted ? 0x00020003 : 1
      if (address === catchReset) return Number(catches)
      if (inFlash(address, 4)) return form.protection.on ? null : view.getUint32(address - base, true)
      return words.get(address) ?? null
    },
    write(address, value, width) {
      if (inFlash(address, width)) return part.program(address, value, width)
      const took = part.write(address, value, width)
      if (took !== null) return took
      switch (address) {
        case halting:
          debugged = value >>> 16 === 0xa05f && !!(value & 1)
          // While its reset is held there is nothing that could stop.
          halted = debugged && !!(value & 2) && !inReset
          return true
        case catchReset:
          catches = !!(value & 1)
          return true
        case resetControl:
          if (value >>> 16 === 0x05fa && value & 4) {
            halted = false
            part.reset()
            form.onReset()
          }
          return true
      }
      if (!words.has(address)) return false
      words.set(address, value)
      return true
    },
  }
}
