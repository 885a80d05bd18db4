import { concatBytes, crc32, isProblem, type Clock } from '@bench-wake/core/kernel'
import { keyOfSeed, olderService, service, type Transport } from '@bench-wake/core/link'
import type { UdsUnit } from './services-unit'

/*
 * A controller's half of the older services on the single wire (ISO 14230-3): routines and data by one byte, a routine's
 * result by itself, blocks without a number. It shares the unit behind it with the newer services.
 */

/** Widths of address and size where nothing is said. */
const usualWidths = { address: 3, length: 3 }
/** How long a routine goes on after it was begun, ms: until then its result is not there. */
const eraseMs = 350

/** Answers until its transport fails. Access falls shut after five seconds without a word. */
export async function serveOlder(transport: Transport, clock: Clock, unit: UdsUnit): Promise<void> {
  const { sessions = [0x85] } = unit
  const programming = sessions.at(-1)!
  const widths = { ...usualWidths, ...unit.widths }
  let inSession = 0x81
  let open = false
  let seed: Uint8Array | undefined
  let transferring: { kind: 'down' | 'up'; at: number; end: number } | null = null
  /** The routine that was begun last: when it is over, and what it gives then. */
  let routine: { id: number; readyAt: number; gives(): Uint8Array } | null = null

  const say = (...parts: (number | Uint8Array)[]) =>
    transport.send(concatBytes(parts.map((part) => (typeof part === 'number' ? Uint8Array.of(part) : part))))
  const no = (id: number, code: number) => say(0x7f, id, code)
  const number = (bytes: Uint8Array) => bytes.reduce((sum, byte) => sum * 256 + byte, 0)
  const shut = () => {
    inSession = 0x81
    open = false
    transferring = null
  }
  const data = async (id: number, rest: Uint8Array, bytes: number) => {
    const value = rest.length === bytes ? unit.read(number(rest)) : null
    return value ? say(id + 0x40, rest, value) : no(id, rest.length === bytes ? 0x31 : 0x12)
  }
  const announce = async (id: number, rest: Uint8Array) => {
    if (inSession !== programming || !open) return no(id, 0x33)
    if (rest.length !== widths.address + 1 + widths.length) return no(id, 0x12)
    const address = number(rest.subarray(0, widths.address))
    const length = number(rest.subarray(widths.address + 1))
    const isDown = id === service.requestDownload
    if (!unit.memory.covers(address, length) || (isDown && rest[widths.address] !== (unit.dataFormat ?? 0)))
      return no(id, 0x42)
    transferring = { kind: isDown ? 'down' : 'up', at: address, end: address + length }
    return say(id + 0x40, unit.maxTransferBytes - 1)
  }
  const acts: Record<number, (rest: Uint8Array) => Promise<void>> = {
    async [service.session](rest) {
      if (!sessions.includes(rest[0]!) && rest[0] !== 0x81) return no(service.session, 0x12)
      if (rest[0] === programming && !unit.ready()) return no(service.session, 0x22)
      inSession = rest[0]!
      open = unit.isOpen === true
      await say(0x50, inSession)
    },
    async [service.reset]() {
      await say(0x51)
      shut()
      unit.reset()
    },
    [service.readData]: (rest) => data(service.readData, rest, 2),
    [olderService.localData]: (rest) => data(olderService.localData, rest, 1),
    [olderService.identification]: (rest) => data(olderService.identification, rest, 1),
    async [service.security](rest) {
      if (inSession === 0x81) return no(service.security, 0x22)
      const asked = unit.level ?? 1
      if (rest[0] === asked) {
        seed = open ? new Uint8Array(2) : Uint8Array.of(0x5a, Math.floor(clock.now()) & 255 || 1)
        return say(0x67, asked, seed)
      }
      if (rest[0] !== asked + 1) return no(service.security, 0x12)
      const due: Uint8Array | null = seed ? keyOfSeed(seed, unit.key) : null
      seed = undefined
      if (!due || !due.every((byte, at) => rest[1 + at] === byte)) return no(service.security, 0x35)
      open = true
      await say(0x67, asked + 1)
    },
    async [olderService.faultsByStatus](rest) {
      if (rest.length !== 3) return no(olderService.faultsByStatus, 0x12)
      const list = unit.faults()
      await say(
        0x58,
        list.length,
        ...list.flatMap(({ code, status }) => [(code >> 8) & 255, code & 255, status]),
      )
    },
    async [service.clearFaults](rest) {
      unit.clearFaults()
      await say(0x54, rest.subarray(0, 2))
    },
    async [service.writeData](rest) {
      if (!open) return no(service.writeData, 0x33)
      const identifier = number(rest.subarray(0, 2))
      if (identifier !== unit.fingerprint && !unit.write(identifier, rest.slice(2)))
        return no(service.writeData, 0x31)
      await say(0x6e, rest.subarray(0, 2))
    },
    async [service.routine](rest) {
      const [id = 0] = rest
      const isWell = unit.routines.well?.includes(id) ?? false
      if (!isWell && (inSession !== programming || !open)) return no(service.routine, 0x33)
      const asked = rest.subarray(1)
      const address = number(asked.subarray(0, widths.address))
      const length = number(asked.subarray(widths.address))
      if (isWell) routine = { id, readyAt: clock.now(), gives: () => Uint8Array.of(0) }
      else if (asked.length !== widths.address + widths.length || !unit.memory.covers(address, length))
        return no(service.routine, 0x31)
      else if (id === unit.routines.erase) {
        await unit.erase(address, length)
        routine = { id, readyAt: clock.now() + eraseMs, gives: () => Uint8Array.of(0) }
      } else if (id === unit.routines.check) {
        const sum = crc32(unit.readBack(address, length))
        const bytes = Uint8Array.of(sum >>> 24, (sum >> 16) & 255, (sum >> 8) & 255, sum & 255)
        routine = { id, readyAt: clock.now() + 20, gives: () => bytes }
      } else return no(service.routine, 0x31)
      await say(0x71, id, ...(unit.tellsResults ? [] : [routine.gives()]))
    },
    async [olderService.routineResult](rest) {
      if (!routine || routine.id !== rest[0]) return no(olderService.routineResult, 0x31)
      if (clock.now() < routine.readyAt) return no(olderService.routineResult, 0x23)
      await say(0x73, routine.id, routine.gives())
    },
    [service.requestDownload]: (rest) => announce(service.requestDownload, rest),
    [service.requestUpload]: (rest) => announce(service.requestUpload, rest),
    async [service.transferData](rest) {
      if (!transferring) return no(service.transferData, 0x22)
      const { at, end } = transferring
      if (transferring.kind === 'down') {
        if (rest.length === 0 || at + rest.length > end) return no(service.transferData, 0x12)
        await unit.program(at, rest)
        transferring.at += rest.length
        return say(0x76)
      }
      const length = Math.min(unit.maxTransferBytes - 1, end - at)
      transferring.at += length
      await say(0x76, unit.readBack(at, length))
    },
    async [service.transferExit]() {
      if (!transferring || transferring.at !== transferring.end) return no(service.transferExit, 0x22)
      transferring = null
      await say(0x77)
    },
    async [service.testerPresent]() {
      await say(0x7e)
    },
  }
  for (;;) {
    let request: Uint8Array | null
    try {
      request = await transport.receive(inSession === 0x81 ? Infinity : 5000)
    } catch (error) {
      if (!isProblem(error)) throw error
      continue
    }
    if (!request) {
      shut()
      continue
    }
    const act = acts[request[0]!]
    await (act ? act(request.subarray(1)) : no(request[0]!, 0x11))
  }
}
