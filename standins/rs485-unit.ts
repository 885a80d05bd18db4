import type { DriveOf, FamilyLink } from '@bench-wake/core/family'
import { crc32, type Clock } from '@bench-wake/core/kernel'
import {
  answerRecords,
  bytesShown,
  readRecordRequest,
  recordsPerFile,
  statesOf,
  type Port,
} from '@bench-wake/core/link'
import { serialLine, type Line } from './line'
import { answerIdentity, refuseModbus, serveModbus, type ModbusUnit } from './protocols/modbus-unit'
import type { StandIn } from './stand-in'
import { unitMemory, type UnitForm } from './unit-memory'

/*
 * A unit on an RS-485 bus, with what else hangs there. It answers who it is, tells its page in registers and takes
 * images as file records; neighbours answer who they are, until somebody unplugs them.
 */

export interface Rs485UnitForm extends UnitForm {
  link: FamilyLink & { drive: DriveOf<'modbus'> }
  /** What else hangs on the bus, by the profile's name for it. */
  neighbours: readonly { id: string; address: number }[]
}

const bootMs = 1200
const word = (high: number, low: number) => high * 0x10000 + low

export function rs485Unit(form: Rs485UnitForm): StandIn {
  const { family, state, link } = form
  const { drive } = link
  let joined: readonly { id: string; address: number }[] = form.neighbours
  let line: Line | undefined
  let restart: (inBootloader: boolean) => void = (inBootloader) => {
    state.inBootloader = inBootloader
  }

  const identityOf = (serial: string) =>
    answerIdentity(['Corrie Sound', family.hardware.deviceIdentifier, serial])
  const neighbour = (id: string, address: number): ModbusUnit => ({
    address,
    answer: (pdu) =>
      pdu[0] === 0x2b && pdu[1] === 0x0e
        ? identityOf(`${form.serial}-${id}`)
        : refuseModbus(pdu[0]!, pdu[0] === 0x14 || pdu[0] === 0x15 ? 3 : 1),
  })

  /** The unit itself, in one clock. */
  const unitIn = (clock: Clock): ModbusUnit => {
    const memory = unitMemory(form, clock, form.power)
    const { registers, commands, block, commandsAre = 'values', wordOrder = 'high-first' } = drive
    const states = statesOf(drive)
    const lowFirst = wordOrder === 'low-first'
    /** What a pair of registers holds, in their order. */
    const pair = (value: number) => {
      const both = [value >>> 16, value & 0xffff]
      return lowFirst ? both.reverse() : both
    }
    /** A piece of the image, as registers. */
    const piece: number[] = Array.from({ length: block?.words ?? 0 }, () => 0xffff)
    let work: number = state.inBootloader ? states.loader : states.firmware
    let progress = [0, 0]
    const range = [0, 0, 0, 0]
    let sum = 0
    restart = (inBootloader) => {
      state.inBootloader = inBootloader || !memory.intact()
      work = state.inBootloader ? states.loader : states.firmware
    }
    restart(state.inBootloader)

    /** The page's registers, with those of the update. */
    const registerAt = (register: number): number | null => {
      switch (register) {
        case registers.state:
          return work
      }
      const { progress: told = NaN, checksum = NaN } = registers
      if (register === told || register === told + 1) return progress[register - told]!
      if (register === checksum || register === checksum + 1) return pair(sum)[register - checksum]!
      if (block && register >= block.register && register < block.register + block.words)
        return piece[register - block.register]!
      for (const item of drive.page) {
        const at = register - item.register
        if (at < 0 || at >= item.count) continue
        const value = memory.line(item.field)
        if (value === null) return 0xffff
        const bytes = bytesShown(value, item.as, item.count * 2)
        return (bytes[at * 2]! << 8) | bytes[at * 2 + 1]!
      }
      return null
    }
    const componentAt = (address: number, length: number) =>
      family.components.find(({ id }) => memory.covers(id, address, length))?.id
    const start = (code: number): boolean => {
      const [high, low] = lowFirst ? [1, 0] : [0, 1]
      const address = word(range[high]!, range[low]!)
      const length = word(range[2 + high]!, range[2 + low]!)
      if (code === commands.enter) {
        clock.after(bootMs, () => restart(true))
        return true
      }
      if (work !== states.loader) return false
      if (code === commands.start) {
        clock.after(bootMs, () => restart(false))
        return true
      }
      const id = componentAt(address, length)
      if (id === undefined) return false
      if (code === commands.check) {
        const { bytes, address: base } = memory.flash(id)
        sum = crc32(bytes.subarray(address - base, address - base + length))
        return true
      }
      const flash = memory.flash(id)
      if (block && code === commands.read) {
        const bytes = flash.bytes.subarray(address - flash.address, address - flash.address + length)
        for (let at = 0; at < piece.length; at++)
          piece[at] = ((bytes[at * 2] ?? 0xff) << 8) | (bytes[at * 2 + 1] ?? 0xff)
        return true
      }
      if (block && code === commands.write) {
        const bytes = Uint8Array.from(piece.flatMap((each) => [each >> 8, each & 255])).subarray(0, length)
        work = states.atWork
        void flash.program(address, bytes).then(() => (work = states.loader))
        return true
      }
      if (code !== commands.erase) return false
      work = states.atWork
      progress = [0, 0]
      void memory
        .flash(id)
        .erase(address, length, async (done, total) => void (progress = [done, total]))
        .then(() => (work = states.loader))
      return true
    }
    const write = (register: number, words: readonly number[]): number => {
      for (const [index, value] of words.entries()) {
        const at = register + index
        if (at === registers.command && commandsAre !== 'coils') {
          if (!start(value)) return 3
        } else if (at >= registers.address && at < registers.address + 2) {
          range[at - registers.address] = value
        } else if (at >= registers.length && at < registers.length + 2) {
          range[2 + at - registers.length] = value
        } else if (block && at >= block.register && at < block.register + block.words)
          piece[at - block.register] = value
        else return 2
      }
      return 0
    }
    /** Where a group of records lies: the component whose files hold it, and the address. */
    const placeOf = ({ file, record, count }: { file: number; record: number; count: number }) => {
      const own = (drive.files ?? [])
        .filter(({ first }) => first <= file)
        .sort((a, b) => b.first - a.first)[0]
      if (!own) return null
      const address =
        memory.region(own.component).address + ((file - own.first) * recordsPerFile + record) * 2
      return memory.covers(own.component, address, count * 2) ? { id: own.component, address } : null
    }

    return {
      address: drive.address,
      async answer(pdu) {
        const code = pdu[0]!
        const [first = 0, count = 0] = [(pdu[1]! << 8) | pdu[2]!, (pdu[3]! << 8) | pdu[4]!]
        if (code === 0x2b && pdu[1] === 0x0e) return identityOf(form.serial)
        if (code === 0x03) {
          const words = Array.from({ length: count }, (_, at) => registerAt(first + at))
          if (count < 1 || count > 125 || words.includes(null)) return refuseModbus(code, 2)
          return Uint8Array.of(code, count * 2, ...words.flatMap((each) => [each! >> 8, each! & 255]))
        }
        if (code === 0x06 || code === 0x10) {
          const words =
            code === 0x06
              ? [count]
              : Array.from({ length: count }, (_, at) => (pdu[6 + at * 2]! << 8) | pdu[7 + at * 2]!)
          const refused = write(first, words)
          return refused ? refuseModbus(code, refused) : pdu.slice(0, 5)
        }
        if (code === 0x05 && commandsAre === 'coils') {
          if (count !== 0xff00) return refuseModbus(code, 3)
          return start(first) ? pdu.slice(0, 5) : refuseModbus(code, 3)
        }
        if ((code !== 0x14 && code !== 0x15) || !drive.files) return refuseModbus(code, 1)
        const groups = readRecordRequest(pdu)
        if (!groups) return refuseModbus(code, 3)
        const placed = groups.map((group) => ({ ...group, place: placeOf(group) }))
        if (placed.some(({ place }) => !place)) return refuseModbus(code, 2)
        if (code === 0x15 && work !== states.loader) return refuseModbus(code, 4)
        for (const { place, bytes } of placed) {
          if (bytes) await memory.flash(place!.id).program(place!.address, bytes)
        }
        if (code === 0x15) return pdu
        return answerRecords(
          placed.map(({ place, count: words }) => {
            const { bytes, address } = memory.flash(place!.id)
            return bytes.slice(place!.address - address, place!.address - address + words * 2)
          }),
        )
      },
    }
  }

  return {
    id: form.id,
    name: form.name,
    familyId: family.id,
    linkId: link.id,
    channel: 'serial',
    hasMeter: false,
    connect(clock) {
      line?.interruptUnit()
      const here = serialLine({
        name: form.name,
        clock,
        unit: link.line!,
        ...(form.faults?.disturb ? { disturb: form.faults.disturb } : {}),
      })
      line = here
      const own = unitIn(clock)
      const { host } = here
      const port: Port = {
        ...host,
        get settings() {
          return host.settings
        },
        async open(settings) {
          await host.open(settings)
          // Ends when the port is closed: its read fails.
          void serveModbus(
            here.unit,
            () => [
              ...(form.power?.on === false ? [] : [own]),
              ...joined.map(({ id, address }) => neighbour(id, address)),
            ],
            (ms) => clock.sleep(ms),
          ).catch(() => {})
        },
        async close() {
          here.interruptUnit()
          await host.close()
        },
      }
      return {
        channel: { kind: 'serial', port },
      }
    },
    powerCycle: () => restart(false),
    enter: () => restart(true),
    unplug(neighbours) {
      joined = form.neighbours.filter(({ id }) => !neighbours.includes(id))
    },
    state: () => state,
  }
}
