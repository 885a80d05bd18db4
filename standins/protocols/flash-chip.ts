import type { Clock } from '@bench-wake/core/kernel'
import type { LineTarget } from './wire-target'

/** A serial flash as its sheet has it. */
export interface FlashChipForm {
  clock: Pick<Clock, 'now'>
  bytes: Uint8Array
  /** Maker's and device's bytes (JEDEC, command 9F). */
  identity: readonly [number, number, number]
  /** Its table of parameters (JESD216); none where it has none. */
  table?: Uint8Array
  pageBytes: number
  programMs: number
  /** Blocks by command, with their time. */
  erases: readonly { bytes: number; command: number; ms: number }[]
  /** Bits of status that protect all blocks; kept when the chip is written. */
  status?: number
  /** The write-protect leg is low: status bit 7 keeps status from being written. */
  statusHeld?: boolean
  /** Bends what goes over the wire: contact that gives way, noise. */
  wire?(bit: boolean, direction: 'in' | 'out'): boolean
  /** Never done with what it began. */
  busyForEver?: boolean
  /** Bytes of it were erased or programmed. */
  changed?(): void
  /** The board runs when it is not held, and talks to the chip itself. */
  board?: boolean
}

const busyBit = 1
const enabledBit = 2

/**
 * The chip's half of serial flash (JESD216, and every sheet): select falls, a command with its address and its bytes, select
 * rises and it works. What is programmed can only clear bits; a page wraps in itself; while it works only its status
 * answers.
 */
export function flashChip(form: FlashChipForm): LineTarget & { status(): number } {
  const { bytes, clock, wire = (bit: boolean) => bit } = form
  let selected = false
  let status = form.status ?? 0
  let enabled = false
  let workUntil = 0
  let fourBytes = false
  let asleep = false
  let boardHeld = false
  let noise = 1
  /** Bytes since select fell, and the one that is on its way in. */
  let heard: number[] = []
  let [byteIn, bitsIn] = [0, 0]
  let byteOut = 0xff

  const busy = () => (form.busyForEver === true && workUntil > 0) || clock.now() < workUntil
  const statusNow = () => (status & ~3) | (busy() ? busyBit : 0) | (enabled ? enabledBit : 0)
  const work = (ms: number) => {
    form.changed?.()
    workUntil = clock.now() + ms
    enabled = false
  }
  const erases = new Map(form.erases.map((each) => [each.command, each]))
  /** Bytes of address after a command, and whether the command has bytes of its own. */
  const addressed = (command: number): number => {
    if (command === 0x13 || command === 0x12 || command === 0x21 || command === 0xdc) return 4
    if (command === 0x03 || command === 0x02 || erases.has(command)) return fourBytes ? 4 : 3
    return command === 0x5a ? 3 : 0
  }
  const addressOf = (count: number) => heard.slice(1, 1 + count).reduce((sum, byte) => sum * 256 + byte, 0)
  /** The byte that comes next, once this many were heard. */
  const next = (): number => {
    const [command] = heard
    if (command === undefined || asleep) return 0xff
    if (command === 0x05) return statusNow()
    if (busy()) return 0xff
    const at = heard.length - 1
    if (command === 0x35) return 0
    if (command === 0x9f) return form.identity[at % 3]!
    if (command === 0x5a) return heard.length < 5 ? 0xff : (form.table?.[addressOf(3) + at - 4] ?? 0xff)
    if (command === 0x03 || command === 0x13) {
      const count = addressed(command)
      return at < count ? 0xff : bytes[(addressOf(count) + at - count) % bytes.length]!
    }
    return 0xff
  }
  /** Select rises: what was said is done. */
  const done = () => {
    const [command] = heard
    if (command === undefined || bitsIn !== 0) return
    if (command === 0xab) asleep = false
    if (asleep || busy()) return
    if (command === 0xb9) asleep = true
    if (command === 0x06) enabled = true
    if (command === 0x04) enabled = false
    if (command === 0xb7) fourBytes = true
    if (command === 0xe9) fourBytes = false
    if (!enabled) return
    const count = addressed(command)
    const shut = (status & 0x1c) !== 0
    if (command === 0x01 && heard.length > 1) {
      if (!(form.statusHeld && status & 0x80)) status = heard[1]! & 0xfc
      work(10)
    } else if ((command === 0x02 || command === 0x12) && heard.length > 1 + count) {
      if (!shut) {
        const [at, data] = [addressOf(count), heard.slice(1 + count)]
        const page = at - (at % form.pageBytes)
        data.slice(-form.pageBytes).forEach((byte, index) => {
          const place = page + ((at + Math.max(0, data.length - form.pageBytes) + index) % form.pageBytes)
          bytes[place % bytes.length]! &= byte
        })
      }
      work(form.programMs)
    } else if (erases.has(command) && heard.length === 1 + count) {
      const block = erases.get(command)!
      const at = addressOf(count) % bytes.length
      if (!shut) bytes.fill(0xff, at - (at % block.bytes), at - (at % block.bytes) + block.bytes)
      work(block.ms)
    }
  }

  const select = (high: boolean) => {
    if (selected && high) done()
    if (!selected && !high) {
      heard = []
      ;[byteIn, bitsIn] = [0, 0]
      byteOut = 0xff
    }
    selected = !high
  }
  return {
    select,
    reset: (high) => {
      boardHeld = !high
    },
    clock(high, data) {
      if (selected === high) select(high)
      if (!selected) return wire(true, 'out')
      // The board's processor clocks the same wires when nobody holds it.
      if (form.board && !boardHeld) {
        noise = (noise * 1103515245 + 12345) & 0x7fffffff
        return !!((noise >> 16) & 1)
      }
      const out = wire(!!((byteOut >> (7 - bitsIn)) & 1), 'out')
      byteIn = (byteIn << 1) | Number(wire(data, 'in'))
      if (++bitsIn === 8) {
        heard.push(byteIn & 0xff)
        ;[byteIn, bitsIn] = [0, 0]
        byteOut = next()
      }
      return out
    },
    status: statusNow,
  }
}

/** A table of parameters (JESD216, first edition's nine words and the two after them) for a made-up chip. */
export function flashTable(form: {
  bytes: number
  pageBytes: number
  programMs: number
  erases: readonly { bytes: number; command: number; ms: number }[]
}): Uint8Array {
  const table = new Uint8Array(0x80).fill(0xff)
  const view = new DataView(table.buffer)
  const words = 16
  table.set([0x53, 0x46, 0x44, 0x50, 6, 1, 0, 0xff, 0x00, 6, 1, words, 0x30, 0, 0, 0xff])
  const word = (number: number, value: number) => view.setUint32(0x30 + (number - 1) * 4, value >>> 0, true)
  for (let number = 1; number <= words; number++) word(number, 0)
  word(1, 0xfff120e5 & ~(3 << 17))
  word(2, form.bytes * 8 - 1)
  form.erases.slice(0, 4).forEach(({ bytes, command, ms }, index) => {
    table[0x30 + 28 + index * 2] = Math.log2(bytes)
    table[0x30 + 29 + index * 2] = command
    // A count of up to 32 in units of 1, 16 or 128 ms.
    const unit = ms <= 32 ? 0 : ms <= 512 ? 1 : 2
    const count = Math.max(1, Math.round(ms / [1, 16, 128][unit]!)) - 1
    view.setUint32(
      0x30 + 36,
      (view.getUint32(0x30 + 36, true) | ((count | (unit << 5)) << (4 + index * 7))) >>> 0,
      true,
    )
  })
  // The longest time is 2 × (4 + 1) times the usual one.
  view.setUint32(0x30 + 36, (view.getUint32(0x30 + 36, true) | 4) >>> 0, true)
  const count = Math.max(1, Math.round((form.programMs * 1000) / 64)) - 1
  word(11, 1 | (Math.log2(form.pageBytes) << 4) | (count << 8) | (1 << 13))
  return table
}
