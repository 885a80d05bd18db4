import type { KeyStep } from '@bench-wake/core/family'
import { concatBytes, crc32, isProblem, type Clock } from '@bench-wake/core/kernel'
import { type Transport, keyOfSeed, pending, service, session } from '@bench-wake/core/link'

/** What a controller does for the services: its memory, its identity, its fault codes. */
export interface UdsUnit {
  /** Data by identifier; null where it has none. Whether the program is intact decides what it can say. */
  read(identifier: number): Uint8Array | null
  /** False where it may not be written. */
  write(identifier: number, value: Uint8Array): boolean
  /** How it wants its seed answered. */
  readonly key: readonly KeyStep[]
  /** Level that a seed is asked for at, its key one above; 1 where nothing is said. */
  readonly level?: number
  /** Routines of this controller. */
  readonly routines: { erase: number; check: number; well?: readonly number[] }
  /** Session that is written in, and those that lead to it; 3 and 2 where nothing is said. */
  readonly sessions?: readonly number[]
  /** Bytes of an address and of a length; four where nothing is said. */
  readonly widths?: { address?: number; length?: number }
  readonly dataFormat?: number
  /** True where nothing is asked for before it may be written. */
  readonly isOpen?: boolean
  /** Data that has to be written before anything is erased. */
  readonly fingerprint?: number
  /** Time between two messages of what it sends by itself, ms, by rate. */
  readonly periods?: { slow?: number; medium?: number; fast?: number }
  /** Sends such data as bare frames of its own; as messages where it is absent. */
  sendFrame?(data: Uint8Array): Promise<void>
  /** The memory that may be written, or null where the range lies outside. */
  memory: { covers(address: number, length: number): boolean }
  erase(address: number, length: number): Promise<void>
  program(address: number, data: Uint8Array): Promise<void>
  readBack(address: number, length: number): Uint8Array
  faults(): { code: number; status: number }[]
  clearFaults(): void
  /** Starts its program, or stays in the boot where there is none that holds. */
  reset(): void
  /** Most bytes of one transfer message, with its two of head; a message of ISO 14230-2 holds 255. */
  readonly maxTransferBytes: number
  /** The result of a routine is asked for by itself. */
  readonly tellsResults?: boolean
  /** True while conditions allow programming; false is answered with "conditions are not right". */
  ready(): boolean
}

/** Data that is sent by itself has identifiers F200 to F2FF (ISO 14229-1, service 2A). */
const periodicHigh = 0xf200

/**
 * The controller's half of the services, until its transport fails. Access by session and security as the standard
 * has it: download only in the programming session with the level open; a session falls back after 5 s without a word.
 */
export async function serveUds(transport: Transport, clock: Clock, unit: UdsUnit): Promise<void> {
  let inSession: number = session.standard
  let open = false
  let seed: Uint8Array | undefined
  let wrongKeys = 0
  let transferring:
    | { kind: 'down' | 'up'; address: number; end: number; at: number; block: number }
    | undefined
  let lastBlock: Uint8Array | undefined

  /** One message after the other: what it sends by itself waits until an answer is out. */
  let out: Promise<void> = Promise.resolve()
  const say = (...parts: (number | Uint8Array)[]) => {
    const message = concatBytes(parts.map((part) => (typeof part === 'number' ? Uint8Array.of(part) : part)))
    out = out.catch(() => {}).then(() => transport.send(message))
    return out
  }
  const no = (id: number, code: number) => say(0x7f, id, code)
  /** A long act: "needs longer" goes out first and again, and the answer when it is done. */
  const long = async (id: number, act: () => Promise<void>) => {
    let done = false
    const tell = async () => {
      while (!done) {
        await say(0x7f, id, pending)
        await clock.sleep(2000)
      }
    }
    const telling = tell()
    await act()
    done = true
    // What is on its way goes out first; the sleeping teller finds that it is done.
    void telling.catch(() => {})
  }

  const wide = { address: unit.widths?.address ?? 4, length: unit.widths?.length ?? 4 }
  const { sessions = [session.extended, session.programming] } = unit
  const programming = sessions.at(-1)!
  let fingerprint = false
  /** Address and length, as wide as the controller has them; null where the message has another length. */
  const rangeIn = (rest: Uint8Array, at: number): { address: number; length: number } | null => {
    if (rest.length !== at + wide.address + wide.length) return null
    const number = (from: number, width: number) =>
      [...rest.subarray(from, from + width)].reduce((sum, byte) => sum * 256 + byte, 0)
    return { address: number(at, wide.address), length: number(at + wide.address, wide.length) }
  }
  /** Sends a datum at its rate until it is told to stop, or its session ends. */
  const sending = new Map<number, () => void>()
  const stopSending = (lows: Iterable<number>) => {
    for (const low of [...lows]) {
      sending.get(low)?.()
      sending.delete(low)
    }
  }
  const sendAt = (low: number, periodMs: number) => {
    stopSending([low])
    const next = () => {
      sending.set(low, clock.after(periodMs, next))
      const value = unit.read(periodicHigh | low)
      if (!value) return
      const sent = unit.sendFrame
        ? unit.sendFrame(concatBytes([Uint8Array.of(low), value]))
        : say(service.periodicData + 0x40, low, value)
      void sent.catch(() => {})
    }
    sending.set(low, clock.after(periodMs, next))
  }
  const answers: Record<number, (rest: Uint8Array) => Promise<void>> = {
    async [service.session](rest) {
      const id = rest[0]!
      if (id !== session.standard && !sessions.includes(id)) return no(service.session, 0x12)
      if (id === programming && sessions.length > 1 && inSession === session.standard)
        return no(service.session, 0x7e)
      if (id === programming && !unit.ready()) return no(service.session, 0x22)
      inSession = id
      if (id === session.standard) stopSending(sending.keys())
      open = unit.isOpen === true
      transferring = undefined
      // P2 50 ms and P2* 5 000 ms, the latter in tens.
      await say(service.session + 0x40, id, 0x00, 0x32, 0x01, 0xf4)
    },
    async [service.reset](rest) {
      await say(service.reset + 0x40, rest[0]!)
      inSession = session.standard
      stopSending(sending.keys())
      open = false
      transferring = undefined
      unit.reset()
    },
    async [service.readData](rest) {
      const identifier = (rest[0]! << 8) | rest[1]!
      const value = rest.length === 2 ? unit.read(identifier) : null
      if (!value) return no(service.readData, rest.length === 2 ? 0x31 : 0x13)
      await say(service.readData + 0x40, rest.subarray(0, 2), value)
    },
    async [service.periodicData](rest) {
      const [mode = 0, ...lows] = rest
      if (inSession === session.standard) return no(service.periodicData, 0x7f)
      if (mode === 4) stopSending(lows.length > 0 ? lows : sending.keys())
      else {
        const periodMs = [unit.periods?.slow, unit.periods?.medium, unit.periods?.fast][mode - 1]
        if (periodMs === undefined || lows.length === 0) return no(service.periodicData, 0x31)
        if (lows.some((low) => !unit.read(periodicHigh | low))) return no(service.periodicData, 0x31)
        for (const low of lows) sendAt(low, periodMs)
      }
      await say(service.periodicData + 0x40)
    },
    async [service.writeData](rest) {
      if (!open) return no(service.writeData, 0x33)
      const identifier = (rest[0]! << 8) | rest[1]!
      if (identifier === unit.fingerprint) fingerprint = true
      else if (!unit.write(identifier, rest.slice(2))) return no(service.writeData, 0x31)
      await say(service.writeData + 0x40, rest.subarray(0, 2))
    },
    async [service.security](rest) {
      const level = rest[0]!
      const asked = unit.level ?? 1
      if (inSession === session.standard) return no(service.security, 0x7f)
      if (level === asked) {
        if (wrongKeys >= 3) return no(service.security, 0x37)
        const now = Math.floor(clock.now())
        seed = open ? new Uint8Array(4) : Uint8Array.of(0x5a, (now >> 8) & 255, now & 255, 0x11 + wrongKeys)
        return say(service.security + 0x40, level, seed)
      }
      if (level !== asked + 1) return no(service.security, 0x12)
      if (!seed) return no(service.security, 0x24)
      const due = keyOfSeed(seed, unit.key)
      seed = undefined
      if (!due.every((byte, at) => rest[1 + at] === byte)) {
        if (++wrongKeys < 3) return no(service.security, 0x35)
        // Locked for ten seconds (annex I: the delay timer).
        clock.after(10_000, () => (wrongKeys = 0))
        return no(service.security, 0x36)
      }
      wrongKeys = 0
      open = true
      await say(service.security + 0x40, level)
    },
    async [service.readFaults](rest) {
      if (rest[0] !== 0x02) return no(service.readFaults, 0x12)
      const mask = rest[1] ?? 0xff
      const list = unit.faults().filter(({ status }) => status & mask)
      await say(
        service.readFaults + 0x40,
        0x02,
        0xff,
        ...list.flatMap(({ code, status }) => [code >> 16, (code >> 8) & 255, code & 255, status]),
      )
    },
    async [service.clearFaults]() {
      unit.clearFaults()
      await say(service.clearFaults + 0x40)
    },
    async [service.communication](rest) {
      if (inSession === session.standard) return no(service.communication, 0x7f)
      if (!(rest[0]! & 0x80)) await say(service.communication + 0x40, rest[0]!)
    },
    async [service.faultSetting](rest) {
      if (inSession === session.standard) return no(service.faultSetting, 0x7f)
      if (!(rest[0]! & 0x80)) await say(service.faultSetting + 0x40, rest[0]!)
    },
    async [service.testerPresent](rest) {
      // The high bit asks for no answer.
      if (!(rest[0]! & 0x80)) await say(service.testerPresent + 0x40, 0x00)
    },
    async [service.routine](rest) {
      const identifier = (rest[1]! << 8) | rest[2]!
      if (rest[0] !== 0x01) return no(service.routine, 0x12)
      // What is only asked whether all is well is answered in any session but the first.
      if (unit.routines.well?.includes(identifier))
        return inSession === session.standard
          ? no(service.routine, 0x7f)
          : say(service.routine + 0x40, 0x01, rest.subarray(1, 3), 0x00)
      if (inSession !== programming) return no(service.routine, 0x7f)
      if (!open) return no(service.routine, 0x33)
      if (identifier !== unit.routines.erase && identifier !== unit.routines.check) {
        return no(service.routine, 0x31)
      }
      const asked = rangeIn(rest, 3)
      if (!asked) return no(service.routine, 0x13)
      const { address, length } = asked
      if (unit.fingerprint !== undefined && !fingerprint && identifier === unit.routines.erase)
        return no(service.routine, 0x24)
      if (!unit.memory.covers(address, length)) return no(service.routine, 0x31)
      if (identifier === unit.routines.erase) {
        await long(service.routine, () => unit.erase(address, length))
        return say(service.routine + 0x40, 0x01, rest.subarray(1, 3), 0x00)
      }
      const sum = crc32(unit.readBack(address, length))
      await say(service.routine + 0x40, 0x01, rest.subarray(1, 3), word32(sum))
    },
    [service.requestDownload]: (rest) => begin('down', service.requestDownload, rest),
    [service.requestUpload]: (rest) => begin('up', service.requestUpload, rest),
    async [service.transferData](rest) {
      const block = rest[0]!
      if (!transferring) return no(service.transferData, 0x24)
      // The last block again: its answer got lost, so it is given again and nothing is done (clause 14.5.5).
      if (block === (transferring.block & 255) && lastBlock) return say(lastBlock)
      if (block !== ((transferring.block + 1) & 255)) return no(service.transferData, 0x73)
      const data = rest.subarray(1)
      let answer: Uint8Array
      if (transferring.kind === 'down') {
        if (transferring.at + data.length > transferring.end || data.length === 0) {
          return no(service.transferData, 0x31)
        }
        const { at } = transferring
        await unit.program(at, data)
        transferring.at += data.length
        answer = Uint8Array.of(service.transferData + 0x40, block)
      } else {
        const length = Math.min(unit.maxTransferBytes - 2, transferring.end - transferring.at)
        if (length === 0) return no(service.transferData, 0x24)
        answer = concatBytes([
          Uint8Array.of(service.transferData + 0x40, block),
          unit.readBack(transferring.at, length),
        ])
        transferring.at += length
      }
      transferring.block++
      lastBlock = answer
      await say(answer)
    },
    async [service.transferExit]() {
      if (!transferring || transferring.at !== transferring.end) return no(service.transferExit, 0x24)
      transferring = undefined
      lastBlock = undefined
      await say(service.transferExit + 0x40)
    },
  }

  async function begin(kind: 'down' | 'up', id: number, rest: Uint8Array): Promise<void> {
    if (inSession !== programming) return no(id, 0x7f)
    if (!open) return no(id, 0x33)
    const asked = rangeIn(rest, 2)
    const format = kind === 'down' ? (unit.dataFormat ?? 0) : rest[0]
    if (!asked || rest[0] !== format || rest[1] !== ((wide.length << 4) | wide.address)) return no(id, 0x31)
    const { address, length } = asked
    if (!unit.memory.covers(address, length)) return no(id, 0x31)
    transferring = { kind, address, end: address + length, at: address, block: 0 }
    lastBlock = undefined
    await say(id + 0x40, 0x20, unit.maxTransferBytes >> 8, unit.maxTransferBytes & 255)
  }

  for (;;) {
    let request: Uint8Array | null
    try {
      request = await transport.receive(inSession === session.standard ? Infinity : 5000)
    } catch (error) {
      // A message that broke off on the bus is let go, and the next one is listened for.
      if (!isProblem(error) || !error.facts.kind.startsWith('isotp-')) {
        stopSending(sending.keys())
        throw error
      }
      continue
    }
    if (!request) {
      // S3: five seconds without a word end the session (ISO 14229-2).
      inSession = session.standard
      stopSending(sending.keys())
      open = false
      transferring = undefined
      continue
    }
    const [id] = request
    const rest = request.subarray(1)
    const act = id === undefined ? undefined : answers[id]
    if (!act) {
      if (id !== undefined) await no(id, 0x11)
      continue
    }
    try {
      if (rest.length === 0 && id !== service.transferExit) await no(id!, 0x13)
      else await act(rest)
    } catch (error) {
      // An answer that nobody gave leave for is lost; the next request is listened for.
      if (!isProblem(error) || !error.facts.kind.startsWith('isotp-')) throw error
    }
  }
}

const word32 = (value: number) =>
  Uint8Array.of(value >>> 24, (value >> 16) & 255, (value >> 8) & 255, value & 255)
