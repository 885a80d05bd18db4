import type { Component, DriveOf } from '../../family'
import { hexNumber, isProblem, Problem, type Clock } from '../../kernel'
import { insist } from '../insist'
import { checksumVerification } from '../check'
import { writeAbandoned, type Loader } from '../loader'
import type { Port } from '../port'
import { askModbus, type ModbusTiming } from './client'
import { readRecords, writeRecords } from './file-records'

/** States of a unit's update register, by the family's papers. */
export const updateState = { firmware: 0, loader: 1, atWork: 2, fault: 3 } as const

const timing: ModbusTiming = { answerMs: 1000 }
/** Longest that the loader may be at work on one command, ms. */
const mostWorkMs = 120_000

/** Holding registers as words (V1.1b3, clause 6.3). */
export async function readRegisters(
  port: Port,
  address: number,
  first: number,
  count: number,
): Promise<number[]> {
  const answer = await askModbus(
    port,
    address,
    Uint8Array.of(3, first >> 8, first & 255, count >> 8, count & 255),
    timing,
  )
  return Array.from(
    { length: count },
    (_, at) => ((answer[2 + at * 2] ?? 0) << 8) | (answer[3 + at * 2] ?? 0),
  )
}

/** Writes several holding registers at once (clause 6.12). */
export async function writeRegisters(
  port: Port,
  address: number,
  first: number,
  words: readonly number[],
): Promise<void> {
  await askModbus(
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

/** What noise does to one question and its answer is mended by asking again: registers may be read and set twice. */
const steady = <T>(act: () => Promise<T>) =>
  insist(act, { tries: 3, passing: ['modbus-frame', 'modbus-other', 'modbus-silent'] })

const high = (value: number) => [value >>> 16, value & 0xffff]

/**
 * A loader behind registers and file records: a command register starts its acts, a state register tells when it is done,
 * the image goes as records.
 * @param start address of the region that the component's first file begins with.
 */
export function modbusLoader(
  port: Port,
  clock: Clock,
  papers: DriveOf<'modbus'>,
  component: Pick<Component, 'id'>,
  start: number,
  page: () => Promise<string[]>,
): Loader {
  const { address: unit, registers, commands } = papers
  const firstFile = papers.files.find((each) => each.component === component.id)?.first ?? 1
  const place = (address: number) => ({ firstFile, offset: address - start })
  const read = (register: number, count: number) => steady(() => readRegisters(port, unit, register, count))
  const write = (register: number, words: number[]) =>
    steady(() => writeRegisters(port, unit, register, words))
  const state = async () => (await read(registers.state, 1))[0]!
  const command = async (code: number, range?: { address: number; length: number }) => {
    if (range) {
      await write(registers.address, high(range.address))
      await write(registers.length, high(range.length))
    }
    let tries = 0
    await steady(async () => {
      try {
        await askModbus(
          port,
          unit,
          Uint8Array.of(6, registers.command >> 8, registers.command & 255, code >> 8, code & 255),
          timing,
        )
      } catch (error) {
        // It was begun the first time and only its answer was lost: the state register tells how it goes.
        if (++tries === 1 || !isProblem(error, 'modbus-exception')) throw error
      }
    })
  }
  /** Polls until the loader is done. */
  const settle = async (what: string, onPoll: () => Promise<void> | void = () => {}) => {
    const until = clock.now() + mostWorkMs
    for (;;) {
      const now = await state()
      if (now === updateState.loader) return
      if (now !== updateState.atWork || clock.now() > until) {
        throw new Problem({
          kind: 'modbus-loader',
          thing: port.name,
          place: { at: what },
          says:
            now === updateState.fault ? 'the loader reports a fault' : 'the loader does not come to an end',
          found: `state ${now}`,
          remedy: 'Leave it powered; erase again, then write from the beginning.',
        })
      }
      await onPoll()
      await clock.sleep(100)
    }
  }

  return {
    can: { read: true, erase: true, verify: 'checksum', resume: true },
    async attach() {
      try {
        // Asked once: whether anybody is there has to be told at once.
        const [first] = await readRegisters(port, unit, registers.state, 1)
        if (first === updateState.firmware) await command(commands.enter)
        for (let tries = 0; (await state()) === updateState.firmware && tries < 20; tries++)
          await clock.sleep(100)
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
    async read({ address, length }, report) {
      return readRecords(
        port,
        unit,
        length,
        timing,
        (done, retries) => report({ done, total: length, unit: 'bytes', retries }),
        place(address),
      )
    },
    async erase(range, report) {
      await command(commands.erase, range)
      const tell = async () => {
        const [done = 0, total = 0] = await readRegisters(port, unit, registers.progress, 2)
        if (total > 0) await report({ done, total, unit: 'sectors', retries: 0 })
      }
      await settle('erase', tell)
      await tell()
    },
    async write(address, bytes, report, abandon, from = 0) {
      await writeRecords(
        port,
        unit,
        bytes,
        timing,
        async (done, retries) => {
          await report({ done, total: bytes.length, unit: 'bytes', retries })
          if (abandon.raised && done < bytes.length) {
            throw writeAbandoned(
              port.name,
              done,
              'the unit holds a part of the image and stays in its loader',
            )
          }
        },
        from,
        place(address),
      )
      await settle('write')
    },
    verify: (address, bytes) =>
      checksumVerification(bytes, async (offset, length) => {
        await command(commands.check, { address: address + offset, length })
        await settle('check')
        const [above = 0, below = 0] = await read(registers.checksum, 2)
        return hexNumber(above * 0x10000 + below, 8)
      }),
    async leave() {
      await command(commands.start)
    },
  }
}
