import type { Component, DriveOf } from '../../family'
import { firstDifference, hexNumber, isProblem, Problem, type Clock } from '../../kernel'
import { retryPassing } from '../retry-passing'
import { checksumVerification, readBackVerification } from '../check'
import {
  writeAbandoned,
  type Abandon,
  type Loader,
  type LoaderAbilities,
  type Range,
  type Report,
} from '../loader'
import type { Port } from '../port'
import { answersOther, askModbus, setModbus, type ModbusTiming } from './client'
import { readRecords, writeRecords } from './file-records'

/** States of a unit's update register, by the family's profile. */
export const updateState = { firmware: 0, loader: 1, atWork: 2, fault: 3 } as const

const usualTiming: ModbusTiming = { answerMs: 1000 }
/** Longest that the loader may be at work on one command, ms. */
const usualWorkMs = 120_000
/** A unit that is busy is asked again after this, ms. */
const againMs = 200
/** Between two looks at a loader that programs a block, ms. */
const pollMs = 10
/** Registers that one block carries (V1.1b3, clauses 6.3 and 6.12). */
const maxRegisters = { read: 125, write: 123 }

/** Holding registers as words (V1.1b3, clause 6.3). */
export async function readRegisters(
  port: Port,
  address: number,
  first: number,
  count: number,
  timing = usualTiming,
): Promise<number[]> {
  const answer = await askModbus(
    port,
    address,
    Uint8Array.of(3, first >> 8, first & 255, count >> 8, count & 255),
    timing,
  )
  if (answer[1] !== count * 2 || answer.length !== 2 + count * 2)
    throw answersOther(address, `${count} registers`, `${answer.length - 2} bytes`)
  return Array.from({ length: count }, (_, at) => (answer[2 + at * 2]! << 8) | answer[3 + at * 2]!)
}

/** Writes several holding registers at once (clause 6.12). */
export async function writeRegisters(
  port: Port,
  address: number,
  first: number,
  words: readonly number[],
  timing = usualTiming,
): Promise<void> {
  await setModbus(
    port,
    address,
    Uint8Array.of(
      0x10,
      first >> 8,
      first & 255,
      words.length >> 8,
      words.length & 255,
      words.length * 2,
      ...words.flatMap((word) => [(word >> 8) & 255, word & 255]),
    ),
    timing,
  )
}

/** What noise or silence does to one question and its answer. */
const passing = ['modbus-frame', 'modbus-other', 'modbus-silent']
/** The number of an exception, where the unit gave one. */
const exceptionOf = (error: unknown): number | null =>
  isProblem(error, 'modbus-exception') ? Number(/\d+/.exec(error.facts.found ?? '')?.[0] ?? 0) : null

/** How one unit is asked: its address, its times, and its order of words. */
export interface ModbusUnitAsked {
  /** Registers as words. */
  read(register: number, count: number): Promise<number[]>
  write(register: number, words: readonly number[]): Promise<void>
  /** Asks again where noise spoilt a question or its answer, once a late answer can no longer come. */
  steady<T>(act: () => Promise<T>): Promise<T>
  /** Any request that changes something, sent once. */
  once(pdu: Uint8Array): Promise<void>
  /** Two registers as one value, and back. */
  value(words: readonly number[]): number
  words(value: number): number[]
}

/**
 * Asks one unit as its profile says: with its times and pauses, each reading retried; a unit that has begun and needs long
 * (exception 5) or is busy (exception 6) is waited for.
 */
export function modbusUnit(port: Port, clock: Clock, drive: DriveOf<'modbus'>): ModbusUnitAsked {
  const { address, timing = {}, wordOrder = 'high-first' } = drive
  const { answerMs = usualTiming.answerMs, pauseMs = 0, busyMs = usualWorkMs } = timing
  // Registers may be read and set twice.
  const steady = <T>(act: () => Promise<T>) =>
    retryPassing(act, {
      tries: 3,
      passing,
      // An answer that is only late would be taken for that to the next question: it does not say what it answers.
      onRetry: (error) => (isProblem(error, 'modbus-silent') ? clock.sleep(answerMs) : undefined),
    })
  const waited = async <T>(act: () => Promise<T>, acknowledged?: T): Promise<T> => {
    const until = clock.now() + busyMs
    for (;;) {
      if (pauseMs > 0) await clock.sleep(pauseMs)
      const asked = clock.now()
      try {
        return await act()
      } catch (error) {
        const exception = exceptionOf(error)
        // A command that has begun is not given again; what it came to is asked of the state.
        if (exception === 5 && acknowledged !== undefined) return acknowledged
        // Judged by when it was asked: a computer that stood still before the answer was read makes no unit busy for too long.
        if ((exception !== 5 && exception !== 6) || asked > until) throw error
        await clock.sleep(againMs)
      }
    }
  }
  return {
    steady,
    read: (register, count) =>
      steady(() => waited(() => readRegisters(port, address, register, count, { answerMs }))),
    write: (register, words) =>
      steady(() => waited(() => writeRegisters(port, address, register, words, { answerMs }))),
    once: async (pdu) => {
      await waited<void | true>(() => setModbus(port, address, pdu, { answerMs }), true)
    },
    value: ([first = 0, second = 0]) =>
      wordOrder === 'high-first' ? first * 0x10000 + second : second * 0x10000 + first,
    words: (value) => {
      const both = [value >>> 16, value & 0xffff]
      return wordOrder === 'high-first' ? both : both.reverse()
    },
  }
}

/** Values of a unit's state register. */
export const statesOf = ({ states }: DriveOf<'modbus'>) => states ?? updateState

/** What a unit's loader can, told before the link is opened. */
export const modbusAbilities = ({ files, commands }: DriveOf<'modbus'>): LoaderAbilities => ({
  read: files !== undefined || commands.read !== undefined,
  erase: true,
  verify: commands.check !== undefined ? 'checksum' : files || commands.read ? 'read-back' : 'version-only',
  resume: true,
})

/**
 * A loader behind registers: a command starts its acts, a state register tells when each is done, and the image goes as file
 * records or in blocks of registers.
 * @param start address of the region that the component's first file begins with.
 */
export function modbusLoader(
  port: Port,
  clock: Clock,
  drive: DriveOf<'modbus'>,
  component: Pick<Component, 'id'>,
  start: number,
  page: () => Promise<string[]>,
): Loader {
  const { address: unit, registers, commands, commandsAre = 'values', block, timing = {} } = drive
  const { answerMs = usualTiming.answerMs, busyMs = usualWorkMs } = timing
  const states = statesOf(drive)
  const asked = modbusUnit(port, clock, drive)
  const firstFile = drive.files?.find((each) => each.component === component.id)?.first ?? 1
  const place = (address: number) => ({ firstFile, offset: address - start })
  const state = async () => (await asked.read(registers.state, 1))[0]!
  const requestOf = (code: number): Uint8Array => {
    if (commandsAre === 'coils') return Uint8Array.of(5, code >> 8, code & 255, 0xff, 0)
    const at = [registers.command >> 8, registers.command & 255]
    const value = [code >> 8, code & 255]
    return commandsAre === 'values'
      ? Uint8Array.of(6, ...at, ...value)
      : Uint8Array.of(0x10, ...at, 0, 1, 2, ...value)
  }
  const command = async (code: number, range?: { address: number; length: number }) => {
    if (range) {
      await asked.write(registers.address, asked.words(range.address))
      await asked.write(registers.length, asked.words(range.length))
    }
    let tries = 0
    await asked.steady(async () => {
      try {
        await asked.once(requestOf(code))
      } catch (error) {
        // It was begun the first time and only its answer was lost: the state register tells how it goes.
        if (++tries === 1 || !isProblem(error, 'modbus-exception')) throw error
      }
    })
  }
  /** Polls until the loader is done. */
  const settle = async (what: string, everyMs = 100, onPoll: () => Promise<void> | void = () => {}) => {
    const until = clock.now() + busyMs
    for (;;) {
      const asked = clock.now()
      const now = await state()
      if (now === states.loader) return
      if (now !== states.atWork || asked > until) {
        throw new Problem({
          kind: 'modbus-loader',
          thing: port.name,
          place: { at: what },
          says: now === states.fault ? 'the loader reports a fault' : 'the loader does not come to an end',
          found: `state ${now}`,
          remedy: 'Leave it powered; erase again, then write from the beginning.',
        })
      }
      await onPoll()
      await clock.sleep(everyMs)
    }
  }
  const abandoned = (done: number) =>
    writeAbandoned(port.name, done, 'the unit holds a part of the image and stays in its loader')

  async function readBlocks(range: Range, report: Report): Promise<Uint8Array> {
    const { register, words } = block!
    const whole = new Uint8Array(range.length)
    for (let at = 0; at < range.length; at += words * 2) {
      const length = Math.min(words * 2, range.length - at)
      await command(commands.read!, { address: range.address + at, length })
      await settle('read', pollMs)
      const count = Math.ceil(length / 2)
      for (let word = 0; word < count; word += maxRegisters.read) {
        const got = await asked.read(register + word, Math.min(maxRegisters.read, count - word))
        const bytes = Uint8Array.from(got.flatMap((each) => [each >> 8, each & 255]))
        whole.set(bytes.subarray(0, length - word * 2), at + word * 2)
      }
      await report({ done: at + length, total: range.length, unit: 'bytes', retries: 0 })
    }
    return whole
  }

  async function writeBlocks(
    address: number,
    bytes: Uint8Array,
    report: Report,
    abandon: Abandon,
    from: number,
  ): Promise<void> {
    const { register, words } = block!
    const first = from - (from % (words * 2))
    for (let at = first; at < bytes.length; at += words * 2) {
      const piece = bytes.subarray(at, at + words * 2)
      // A last byte alone is filled up: nothing is programmed there.
      const even = piece.length % 2 === 0 ? piece : Uint8Array.of(...piece, 0xff)
      const all = Array.from({ length: even.length / 2 }, (_, i) => (even[i * 2]! << 8) | even[i * 2 + 1]!)
      for (let word = 0; word < all.length; word += maxRegisters.write)
        await asked.write(register + word, all.slice(word, word + maxRegisters.write))
      await command(commands.write!, { address: address + at, length: even.length })
      await settle('write', pollMs)
      const done = Math.min(bytes.length, at + piece.length)
      await report({ done, total: bytes.length, unit: 'bytes', retries: 0 })
      if (abandon.raised && done < bytes.length) throw abandoned(done)
    }
  }

  const read = (range: Range, report: Report): Promise<Uint8Array> =>
    drive.files
      ? readRecords(
          port,
          unit,
          range.length,
          { answerMs },
          (done, retries) => report({ done, total: range.length, unit: 'bytes', retries }),
          place(range.address),
        )
      : readBlocks(range, report)
  const can = modbusAbilities(drive)

  return {
    can,
    async attach() {
      try {
        // Asked once: whether anybody is there has to be told at once.
        const [first] = await readRegisters(port, unit, registers.state, 1, { answerMs })
        if (first === states.firmware) await command(commands.enter)
        for (let tries = 0; (await state()) === states.firmware && tries < 20; tries++) await clock.sleep(100)
        await settle('enter')
      } catch (error) {
        if (!isProblem(error, 'modbus-silent')) throw error
        throw new Problem({
          kind: 'no-bootloader',
          thing: port.name,
          says: `nobody answers at address ${unit}`,
          remedy:
            'The unit is unchanged. Look at the address switch, the data pair, and whether it has power.',
        })
      }
    },
    identify: page,
    ...(can.read && { read }),
    async erase(range, report) {
      await command(commands.erase, range)
      const { progress } = registers
      const tell = async () => {
        if (progress === undefined) return
        const [done = 0, total = 0] = await asked.read(progress, 2)
        if (total > 0) await report({ done, total, unit: 'sectors', retries: 0 })
      }
      await settle('erase', 100, tell)
      await tell()
    },
    async write(address, bytes, report, abandon, from = 0) {
      if (block) return writeBlocks(address, bytes, report, abandon, from)
      await writeRecords(
        port,
        unit,
        bytes,
        { answerMs },
        async (done, retries) => {
          await report({ done, total: bytes.length, unit: 'bytes', retries })
          if (abandon.raised && done < bytes.length) throw abandoned(done)
        },
        from,
        place(address),
      )
      await settle('write')
    },
    async verify(address, bytes) {
      const { checksum } = registers
      if (commands.check !== undefined && checksum !== undefined)
        return checksumVerification(bytes, async (offset, length) => {
          await command(commands.check!, { address: address + offset, length })
          await settle('check')
          return hexNumber(asked.value(await asked.read(checksum, 2)), 8)
        })
      if (!can.read)
        return {
          outcome: 'version-only',
          expected: 'the version after the restart',
          found: 'this link compares nothing',
        }
      const back = await read({ address, length: bytes.length }, () => {})
      return readBackVerification(
        firstDifference(bytes, back),
        bytes,
        (offset) => `0x${hexNumber(address + offset, 8)}`,
      )
    },
    async startApplication() {
      await command(commands.start)
    },
  }
}
