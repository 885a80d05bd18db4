import type { FlashController } from '@bench-wake/core/link'
import type { FlashPart, PartMemory } from './microcontroller'

/** A flash controller with keys, a control and a status register. */
export function registerController(flash: FlashController, memory: PartMemory): FlashPart {
  let locked = true
  let keysGiven = 0
  let control = 0
  let errors = 0
  let pageAt = 0
  const { protection } = memory

  const start = () => {
    if (control & flash.massErase) {
      memory.eraseAll()
    } else if (control & flash.pageErase) {
      if (protection.on || !memory.holds(pageAt, flash.pageBytes)) errors |= flash.errors
      else memory.erase(pageAt, flash.pageBytes)
    }
  }
  return {
    reset() {
      locked = true
    },
    read(address) {
      switch (address) {
        case flash.statusRegister:
          return (memory.busy() ? flash.busy : 0) | errors
        case flash.controlRegister:
          return (control | (locked ? flash.lock : 0)) >>> 0
        case flash.protection.register:
          return protection.on ? flash.protection.mask : 0
      }
      return null
    },
    program(address, value, width) {
      if (protection.on) return false
      if (locked || !(control & flash.program) || width !== flash.width) errors |= flash.errors
      else memory.program(address, value, width)
      return true
    },
    write(address, value) {
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
      }
      return null
    },
  }
}
