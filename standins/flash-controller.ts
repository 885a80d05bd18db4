import type { Clock } from '@bench-wake/core/kernel'
import type { FlashController } from '@bench-wake/core/link'
import type { TargetMemory } from './protocols/wire-target'

/**
 * A microcontroller's memory as its debug port sees it: flash under a controller with keys, a processor that halts, and
 * whatever else the profile names. Flash behaves as NOR does: erasing sets a page, programming only clears bits.
 */
export interface MicrocontrollerForm {
  clock: Clock
  flash: FlashController
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
  const { clock, flash, base, bytes, words = new Map<number, number>() } = form
  let locked = true
  let keysGiven = 0
  let control = 0
  let errors = 0
  let pageAt = 0
  let busyUntil = 0
  let halted = false
  let debugged = false
  let catches = false
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
  const busy = () => clock.now() < busyUntil
  const works = (ms: number) => (busyUntil = Math.max(clock.now(), busyUntil) + ms)
  const inFlash = (address: number, length: number) =>
    address >= base && address + length <= base + bytes.length

  const program = (address: number, value: number, width: number): boolean => {
    if (form.protection.on) return false
    if (locked || !(control & flash.program) || width !== flash.width) {
      errors |= flash.errors
      return true
    }
    for (let at = 0; at < width; at++) bytes[address - base + at]! &= (value >>> (8 * at)) & 255
    works(form.programMs)
    form.onProgram?.(width)
    return true
  }
  const start = () => {
    if (control & flash.massErase) {
      bytes.fill(0xff)
      form.protection.on = false
      works(form.eraseMs * 4)
    } else if (control & flash.pageErase) {
      if (form.protection.on || !inFlash(pageAt, flash.pageBytes)) errors |= flash.errors
      else bytes.fill(0xff, pageAt - base, pageAt - base + flash.pageBytes)
      works(form.eraseMs)
    }
  }

  let inReset = false

  return {
    reset(high) {
      inReset = !high
      halted = high && debugged && catches
      if (!high) return
      locked = true
      form.onReset()
    },
    isHalted: () => halted,
    read(address) {
      switch (address) {
        case flash.statusRegister:
          return (busy() ? flash.busy : 0) | errors
        case flash.controlRegister:
          return (control | (locked ? flash.lock : 0)) >>> 0
        case flash.protection.register:
          return form.protection.on ? flash.protection.mask : 0
        case halting:
          return halted ? 0x00020003 : 1
        case catchReset:
          return Number(catches)
      }
      if (inFlash(address, 4)) return form.protection.on ? null : view.getUint32(address - base, true)
      return words.get(address) ?? null
    },
    write(address, value, width) {
      if (inFlash(address, width)) return program(address, value, width)
      switch (address) {
        case flash.keyRegister:
          keysGiven = value === flash.keys[keysGiven] ? keysGiven + 1 : 0
          if (keysGiven === flash.keys.length) {
            locked = false
            keysGiven = 0
          }
          return true
        case flash.statusRegister:
          errors &= ~value
          return true
        case flash.addressRegister:
          pageAt = value
          return true
        case flash.controlRegister:
          if (locked) return true
          if (value & flash.lock) {
            locked = true
            control = 0
            return true
          }
          control = value & ~flash.start
          if (value & flash.start) start()
          return true
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
            locked = true
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
