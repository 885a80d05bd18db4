import type { Clock } from '@bench-wake/core/kernel'
import {
  accessBits,
  ap,
  clearErrors,
  controlBits,
  dapCommand,
  dapInfo,
  dapPin,
  decodeRequest,
  dp,
  encodeRequest,
  incrementSpan,
  readDapRequestByte,
  wireAck,
  word32,
  wordsOf,
} from '@bench-wake/core/link'

/** A unit's memory as its bus has it. */
export interface TargetMemory {
  /** A word, or null where nothing answers: a bus fault. */
  read(address: number): number | null
  /** True when it was taken; false a bus fault; 'wait' where it is busy. `lanes` are the bits that are written. */
  write(address: number, value: number, bytes: 1 | 2 | 4): boolean | 'wait'
  /** The reset line, and whether the processor stands still; absent where nothing of it is modelled. */
  reset?(high: boolean): void
  isHalted?(): boolean
}

export interface WireTarget {
  /** Eight bits of request and, for a write, the word; as the wire has it. */
  access(request: number, value?: number): { ack: number; value?: number }
  /** Bits on the data line that are no request, least significant first. */
  bits(bytes: Uint8Array, count: number): void
  /** The unit's reset line: low while it is held. */
  reset?(high: boolean): void
}

/** How a unit differs from the usual. */
export interface TargetForm {
  /** The access port that leads to its memory. */
  accessPort?: number
  /** Its firmware uses the pads for something else as soon as it runs. */
  shutsPort?: boolean
}

/** The unit's half of serial wire (IHI 0031): selected by its sequence, sticky errors, posted reads, auto-increment. */
export function wireTarget(
  identity: number,
  memory: TargetMemory,
  { accessPort = 0, shutsPort = false }: TargetForm = {},
): WireTarget {
  let held = false
  /** Its firmware runs, and has taken the pads. */
  const shut = () => shutsPort && !held && !memory.isHalted?.()
  const isHere = () => select >>> 24 === accessPort
  let chosen = false
  let reset = false
  let recent: number[] = []
  let control = 0
  let select = 0
  let csw = 0
  let tar = 0
  let posted = 0

  const size = (): 1 | 2 | 4 => ((csw & 7) === 0 ? 1 : (csw & 7) === 1 ? 2 : 4)
  const advance = () => {
    if (((csw >> 4) & 3) === 0) return
    tar = (tar & ~(incrementSpan - 1)) | ((tar + size()) & (incrementSpan - 1))
  }
  const fault = () => {
    control |= controlBits.stickyError
    return { ack: wireAck.fault as number }
  }
  const apRegister = (register: number) => (select & 0xf0) | register

  const readAp = (register: number) => {
    const value = posted
    // Of an access port that there is not every register reads as nothing (C1.1.2).
    if (!isHere()) {
      posted = 0
      return { ack: wireAck.ok as number, value }
    }
    switch (apRegister(register)) {
      case ap.control:
        posted = csw
        break
      case ap.address:
        posted = tar >>> 0
        break
      case ap.id:
        posted = 0x24770011
        break
      case ap.data: {
        const word = memory.read((tar & ~3) >>> 0)
        if (word === null) return fault()
        posted = word
        advance()
        break
      }
      default:
        posted = 0
    }
    return { ack: wireAck.ok as number, value }
  }
  const writeAp = (register: number, value: number) => {
    if (!isHere()) return { ack: wireAck.ok as number }
    switch (apRegister(register)) {
      case ap.control:
        csw = value
        break
      case ap.address:
        tar = value
        break
      case ap.data: {
        const bytes = size()
        const lane =
          bytes === 4 ? value : (value >>> ((tar & (4 - bytes)) * 8)) & (bytes === 2 ? 0xffff : 0xff)
        const taken = memory.write(tar >>> 0, lane >>> 0, bytes)
        if (taken === 'wait') return { ack: wireAck.wait as number }
        if (!taken) return fault()
        advance()
        break
      }
    }
    return { ack: wireAck.ok as number }
  }

  return {
    reset(high) {
      held = !high
      memory.reset?.(high)
    },
    access(request, value = 0) {
      const asked = decodeRequest(request)
      if (!asked || !chosen || shut()) return { ack: wireAck.none }
      // After a line reset only the identity may be read (B4.3.3).
      if (reset) {
        if (asked.port !== 'dp' || !asked.read || asked.register !== dp.id) return { ack: wireAck.none }
        reset = false
      }
      const sticky = control & controlBits.stickyError
      if (asked.port === 'dp') {
        if (asked.read) {
          if (asked.register === dp.id) return { ack: wireAck.ok, value: identity }
          if (asked.register === dp.control) {
            const up = ((control & (controlBits.debugPowerUp | controlBits.systemPowerUp)) << 1) >>> 0
            return { ack: wireAck.ok, value: (control | up) >>> 0 }
          }
          if (sticky) return { ack: wireAck.fault }
          return { ack: wireAck.ok, value: posted }
        }
        if (asked.register === dp.abort) {
          if (value & clearErrors) control &= ~controlBits.stickyError
        } else if (sticky) return { ack: wireAck.fault }
        else if (asked.register === dp.control) control = value & ~controlBits.stickyError
        else if (asked.register === dp.select) select = value
        return { ack: wireAck.ok }
      }
      if (sticky || !(control & controlBits.debugPowerUp)) return { ack: wireAck.fault }
      return asked.read ? readAp(asked.register) : writeAp(asked.register, value)
    },
    bits(bytes, count) {
      for (let at = 0; at < count; at++) recent.push((bytes[at >> 3]! >> (at & 7)) & 1)
      recent = recent.slice(-120)
      const text = recent.join('')
      // 0xE79E, least significant bit first, after a line reset.
      if (/1{50}0111100111100111/.test(text)) chosen = true
      if (/1{50,}0*$/.test(text)) reset = true
    },
  }
}

/** What hangs on an adapter's JTAG lines when they are used as a plain synchronous port. */
export interface LineTarget {
  /**
   * One clock: the level of select and of data to the chip; what the chip gives, as it stands before the clock rises.
   */
  clock(select: boolean, data: boolean): boolean
  /** Select without a clock. */
  select(high: boolean): void
  /** The board's reset line: low while it is held. */
  reset(high: boolean): void
  /** The adapter's clock was set, Hz. */
  speed?(hertz: number): void
}

/** What an adapter is joined to: a unit's serial wire, lines that clock a chip, or either. */
export interface AdapterEnds {
  wire?: WireTarget
  lines?: LineTarget
}

/** Wires that lie open: nobody acknowledges. */
const openWire: WireTarget = { access: () => ({ ack: wireAck.none }), bits() {} }

/** A target that answers nothing while it has no power. */
export const whilePowered = (target: WireTarget, powered: () => boolean): WireTarget => ({
  access: (request, value) => (powered() ? target : openWire).access(request, value),
  bits: (bytes, count) => (powered() ? target : openWire).bits(bytes, count),
  reset: (high) => target.reset?.(high),
})

/**
 * The adapter's half: packets of CMSIS-DAP to requests on the wire, "wait" repeated as often as it was told. A packet
 * takes the time of its bits.
 */
export function dapProbe(
  { wire, lines }: AdapterEnds,
  clock: Pick<Clock, 'sleep'>,
  packetBytes: number,
  name: string,
  serial = '1',
): (packet: Uint8Array) => Promise<Uint8Array> {
  const target = wire ?? openWire
  let retries = 0
  let hertz = 1_000_000
  let bits = 0
  /** How the lines stand, as DAP_SWJ_Pins numbers them. */
  let pins: number = dapPin.select | dapPin.clock | dapPin.reset
  const text = (words: string) => [words.length + 1, ...[...words].map((each) => each.charCodeAt(0)), 0]
  const access = (byte: number, value?: number) => {
    const wire = encodeRequest(readDapRequestByte(byte))
    for (let tries = 0; ; tries++) {
      const done = target.access(wire, value)
      bits += accessBits
      if (done.ack !== wireAck.wait || tries === retries) return done
    }
  }
  /** A read of an access port comes one access late: the adapter fetches it from the buffer then. */
  const readNow = (byte: number) => {
    const done = access(byte)
    if (done.ack !== wireAck.ok || !(byte & 1)) return done
    return access(0x0e)
  }

  const transfer = (packet: Uint8Array): Uint8Array => {
    const words: Uint8Array[] = []
    let [at, count, ack] = [3, 0, wireAck.ok as number]
    for (let left = packet[2] ?? 0; left > 0; left--) {
      const byte = packet[at]!
      const reads = !!(byte & 2)
      const value = reads ? undefined : wordsOf(packet.subarray(at + 1, at + 5))[0]
      at += reads ? 1 : 5
      const done = reads ? readNow(byte) : access(byte, value)
      ack = done.ack
      if (ack !== wireAck.ok) break
      count++
      if (reads) words.push(word32(done.value ?? 0))
    }
    return Uint8Array.of(dapCommand.transfer, count, ack, ...words.flatMap((word) => [...word]))
  }
  const block = (packet: Uint8Array): Uint8Array => {
    const asked = packet[2]! | (packet[3]! << 8)
    const byte = packet[4]!
    const reads = !!(byte & 2)
    const values = reads ? [] : wordsOf(packet.subarray(5))
    const words: number[] = []
    let [count, ack] = [0, wireAck.ok as number]
    while (count < asked) {
      const done = reads ? readNow(byte) : access(byte, values[count])
      ack = done.ack
      if (ack !== wireAck.ok) break
      count++
      if (reads) words.push(...word32(done.value ?? 0))
    }
    return Uint8Array.of(dapCommand.transferBlock, count & 255, count >> 8, ack, ...words)
  }

  /** DAP_JTAG_Sequence: clocks with TMS at a level; what comes back is kept where it is asked for. */
  const sequences = (packet: Uint8Array, on: LineTarget): Uint8Array => {
    const kept: number[] = []
    let at = 2
    for (let left = packet[1]!; left > 0; left--) {
      const about = packet[at++]!
      const count = about & 0x3f || 64
      const high = !!(about & 0x40)
      pins = high ? pins | dapPin.select : pins & ~dapPin.select
      for (let from = 0; from < count; from += 8) {
        const out = packet[at++]!
        let back = 0
        for (let bit = 0; bit < Math.min(8, count - from); bit++) {
          if (on.clock(high, !!((out >> bit) & 1))) back |= 1 << bit
        }
        if (about & 0x80) kept.push(back)
      }
      bits += count
    }
    return Uint8Array.of(dapCommand.jtagSequence, 0, ...kept)
  }

  const answer = (packet: Uint8Array): Uint8Array => {
    const [command, argument = 0] = packet
    switch (command) {
      case dapCommand.info:
        if (argument === dapInfo.packetSize) {
          return Uint8Array.of(0, 2, packetBytes & 255, packetBytes >> 8)
        }
        if (argument === dapInfo.packetCount) return Uint8Array.of(0, 1, 1)
        // Bit 0 serial wire, bit 1 JTAG.
        if (argument === dapInfo.capabilities) return Uint8Array.of(0, 1, (wire ? 1 : 0) | (lines ? 2 : 0))
        if (argument === dapInfo.product) return Uint8Array.of(0, ...text(name))
        if (argument === dapInfo.serial) return Uint8Array.of(0, ...text(serial))
        if (argument === dapInfo.version) return Uint8Array.of(0, ...text('2.1.1'))
        if (argument === dapInfo.firmware) return Uint8Array.of(0, ...text('1.04'))
        return Uint8Array.of(0, 0)
      case dapCommand.connect:
        if (argument === 2) return Uint8Array.of(command, lines ? 2 : 0)
        return Uint8Array.of(command, argument === 0 || argument === 1 ? 1 : 0)
      case dapCommand.transferConfigure:
        retries = packet[2]! | (packet[3]! << 8)
        return Uint8Array.of(command, 0)
      case dapCommand.sequence:
        target.bits(packet.subarray(2), argument === 0 ? 256 : argument)
        return Uint8Array.of(command, 0)
      case dapCommand.writeAbort:
        target.access(
          encodeRequest({ port: 'dp', read: false, register: dp.abort }),
          wordsOf(packet.subarray(2, 6))[0],
        )
        return Uint8Array.of(command, 0)
      case dapCommand.transfer:
        return transfer(packet)
      case dapCommand.transferBlock:
        return block(packet)
      case dapCommand.clock:
        hertz = wordsOf(packet.subarray(1, 5))[0] || hertz
        lines?.speed?.(hertz)
        return Uint8Array.of(command, 0)
      case dapCommand.pins: {
        const mask = packet[2]!
        const before = pins
        pins = (pins & ~mask) | (argument & mask)
        if ((before ^ pins) & dapPin.reset) {
          lines?.reset(!!(pins & dapPin.reset))
          target.reset?.(!!(pins & dapPin.reset))
        }
        if (lines && (before ^ pins) & dapPin.select) lines.select(!!(pins & dapPin.select))
        return Uint8Array.of(command, pins)
      }
      case dapCommand.jtagSequence:
        return lines ? sequences(packet, lines) : Uint8Array.of(0xff)
      case dapCommand.hostStatus:
      case dapCommand.disconnect:
      case dapCommand.wireConfigure:
      case dapCommand.delay:
      case dapCommand.resetTarget:
        return Uint8Array.of(command, 0)
      default:
        return Uint8Array.of(0xff)
    }
  }
  return async (packet) => {
    bits = 0
    const done = answer(packet)
    if (bits > 0) await clock.sleep((bits * 1000) / hertz)
    return done
  }
}
