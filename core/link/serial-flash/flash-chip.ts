import {
  concatBytes,
  equalBytes,
  groupedNumber,
  hexNumber,
  hexText,
  Problem,
  sizeText,
  type Clock,
} from '../../kernel'
import type { SpiExchange, SpiPort } from '../spi'
import { addressBytes, flashCommand, statusBit, type EraseType } from './commands'
import { usualEraseMs, type EraseBlock } from './erase-plan'
import { readFlashTable, type FlashTable } from './parameter-table'

/** What a manual or a sheet says of the chip, where its own table says nothing. */
export interface FlashSheet {
  bytes: number
  pageBytes: number
  eraseTypes: readonly EraseType[]
  /** Usual time of a page, ms. */
  programMs: number
  /** False where the chip's table is known to be wrong. */
  believeTable: boolean
}

/** A chip that answered the same each time it was asked, and what it is. */
export interface FlashChip {
  /** Maker's and device's bytes (JEDEC, command 9F), as digits. */
  identity: string
  /** Null where the chip has no table of its own. */
  table: FlashTable | null
  bytes: number
  pageBytes: number
  eraseTypes: readonly EraseType[]
  read(address: number, length: number): Promise<Uint8Array>
  erase(block: EraseBlock): Promise<void>
  /** Programs within one page. */
  program(address: number, bytes: Uint8Array): Promise<void>
  /** Bytes that one `program` at this address may take. */
  room(address: number): number
  status(): Promise<number>
  writeStatus(status: number): Promise<void>
  leave(): Promise<void>
}

/** How often the identity is asked before anything is believed, and how often a longer piece is read. */
const asks = 8
const reads = 3
/** Below this three address bytes reach everything. */
const threeByteReach = 2 ** 24
/** Longest times where nobody says any (from memory, many sheets), as a multiple of the usual one. */
const patience = 20
/** Bytes of status that are read in one turn while the chip works. */
const looks = 4

const bare = (...send: number[]): SpiExchange => ({ send: Uint8Array.from(send), read: 0 })
const asking = (read: number, ...send: number[]): SpiExchange => ({ send: Uint8Array.from(send), read })

/**
 * Joins a chip, and believes nothing that it does not say the same way every time: identity, table, first and last bytes.
 * @throws Problem `flash-silent` where no chip answers, `flash-contact` where it answers differently each time,
 * `flash-table` where its table is damaged.
 */
export async function joinFlash(port: SpiPort, clock: Clock, sheet: FlashSheet): Promise<FlashChip> {
  await port.exchange([bare(flashCommand.wake)])
  await clock.sleep(1)
  const identity = await askChip(port)
  // A read may be as long as the port lets one be; the address goes before it.
  const max = Math.min(port.maxBytes - 6, 0x4000)
  const readBy = async (command: (at: number) => number[], address: number, length: number) => {
    const parts: Uint8Array[] = []
    for (let done = 0; done < length;) {
      const piece = Math.min(max, length - done)
      parts.push((await port.exchange([asking(piece, ...command(address + done))]))[0]!)
      done += piece
    }
    return concatBytes(parts)
  }
  const steady = async (what: string, once: () => Promise<Uint8Array>) => {
    const first = await once()
    for (let more = 1; more < reads; more++) {
      if (!equalBytes(first, await once())) throw noContact(port.name, `${what} reads differently each time`)
    }
    return first
  }
  const table = sheet.believeTable
    ? await readFlashTable(
        (address, length) =>
          steady('its table of parameters', () =>
            readBy((at) => [flashCommand.readTable, ...addressBytes(at, 3), 0], address, length),
          ),
        port.name,
      )
    : null
  const form = {
    bytes: table?.bytes ?? sheet.bytes,
    pageBytes: table?.pageBytes ?? sheet.pageBytes,
    eraseTypes: table?.eraseTypes ?? sheet.eraseTypes,
    programMs: table?.program.usualMs ?? sheet.programMs,
  }
  const way = await addressing(port, form.bytes, table)
  const read = (address: number, length: number) =>
    readBy((at) => [way.read, ...addressBytes(at, way.count)], address, length)
  const look = Math.min(64, form.bytes)
  await steady('its beginning', () => read(0, look))
  await steady('its end', () => read(form.bytes - look, look))

  const status = async () => (await port.exchange([asking(1, flashCommand.readStatus)]))[0]![0]!
  const settle = async (what: string, at: number | null, usualMs: number, maxMs: number | null) => {
    const longest = Math.max(maxMs ?? usualMs * patience, usualMs) + 10
    const since = clock.now()
    await clock.sleep(usualMs)
    for (;;) {
      // A computer that stood still learns late what was asked in time: only a look after the time says that it is over.
      const asked = clock.now()
      const [seen] = await port.exchange([asking(looks, flashCommand.readStatus)])
      if (!(seen!.at(-1)! & statusBit.busy)) return
      if (asked - since > longest) {
        // All ones may be a chip that is gone: that is told as what it is.
        if (seen!.every((byte) => byte === 0xff)) await askChip(port)
        throw new Problem({
          kind: 'flash-busy',
          thing: port.name,
          ...(at === null ? {} : { place: { at: hexText(at, 8) } }),
          says: `the chip stays busy when it should ${what}`,
          expected: `done within ${groupedNumber(Math.ceil(longest))} ms`,
          remedy:
            'Take its supply away for five seconds, seat the clip anew, and write again from the beginning.',
        })
      }
      await clock.sleep(Math.max(0.05, usualMs / 16))
    }
  }
  /** Allows one change, looks whether that was taken, and gives the command in the same go. */
  const change = async (act: SpiExchange) => {
    const [, seen] = await port.exchange([bare(flashCommand.writeEnable), asking(1, flashCommand.readStatus)])
    const latch = seen![0]!
    if (latch === 0xff || latch & statusBit.busy)
      throw noContact(port.name, `status ${hexText(latch)} after it was allowed to change`)
    if (!(latch & statusBit.enabled))
      throw noContact(port.name, `it does not take that it is allowed to change: status ${hexText(latch)}`)
    await port.exchange([act])
  }

  return {
    identity,
    table,
    bytes: form.bytes,
    pageBytes: form.pageBytes,
    eraseTypes: form.eraseTypes,
    read,
    status,
    async erase(block) {
      await change(bare(way.erase(block.command), ...addressBytes(block.address, way.count)))
      await settle('erase', block.address, usualEraseMs(block), block.maxMs)
    },
    room: (address) => {
      const page = form.pageBytes - (address % form.pageBytes)
      return Math.min(page, port.maxBytes - 1 - way.count)
    },
    async program(address, bytes) {
      const send = concatBytes([Uint8Array.of(way.program, ...addressBytes(address, way.count)), bytes])
      await change({ send, read: 0 })
      await settle('program', address, form.programMs, table?.program.maxMs ?? null)
    },
    async writeStatus(value) {
      const second =
        table?.statusBytes === 2 ? [...(await port.exchange([asking(1, flashCommand.readStatus2)]))[0]!] : []
      await change(bare(flashCommand.writeStatus, value, ...second))
      await settle('keep its status', null, 15, 500)
    },
    async leave() {
      if (way.leave) await port.exchange([bare(way.leave)])
    },
  }
}

/**
 * The identity, asked several times.
 * @throws Problem `flash-silent`, `flash-contact`.
 */
export async function askChip(port: SpiPort): Promise<string> {
  const said = await port.exchange(Array.from({ length: asks }, () => asking(3, flashCommand.readIdentity)))
  const all = concatBytes(said)
  for (const [level, where] of [
    [0xff, 'data out lies open, the chip has no supply, or the clip sits beside its legs'],
    [0x00, 'data out is held low: the clip is turned round, or the board pulls it down'],
  ] as const) {
    if (!all.every((byte) => byte === level)) continue
    throw new Problem({
      kind: 'flash-silent',
      thing: port.name,
      says: 'no chip answers',
      found: `every bit reads ${level & 1}: ${where}`,
      remedy: 'Nothing was written. Pin 1 at the dot, all legs held, one supply on; then try again.',
    })
  }
  const [first] = said
  if (!said.every((each) => equalBytes(each, first!))) {
    const forms = new Set(said.map((each) => digits(each)))
    throw noContact(port.name, `its identity reads ${[...forms].slice(0, 3).join(', then ')}`)
  }
  // JEP106: the maker's byte carries an odd parity.
  if (ones(first![0]!) % 2 === 0)
    throw noContact(port.name, `its identity ${digits(first!)} fails the parity that every maker's byte has`)
  return digits(first!)
}

const digits = (bytes: Uint8Array) => [...bytes].map((byte) => hexNumber(byte, 2)).join('')
const ones = (byte: number) => byte.toString(2).replaceAll('0', '').length

const noContact = (thing: string, found: string) =>
  new Problem({
    kind: 'flash-contact',
    thing,
    says: 'the clip has no good contact',
    found,
    remedy:
      'Seat it anew: clean the legs, press it straight, keep the leads short, or lower the clock. Then try again.',
  })

interface Addressing {
  count: 3 | 4
  read: number
  program: number
  erase(command: number): number
  /** Command that leaves four address bytes again. */
  leave?: number
}

/** How the chip's addresses go, by its table. @throws Problem `flash-reach` where the end cannot be reached. */
async function addressing(port: SpiPort, bytes: number, table: FlashTable | null): Promise<Addressing> {
  const { read, program, readFourByte, programFourByte, writeEnable, enterFourByte, leaveFourByte } =
    flashCommand
  const same = (command: number) => command
  if (table?.fourByte === 'always') return { count: 4, read, program, erase: same }
  if (bytes <= threeByteReach) return { count: 3, read, program, erase: same }
  const four = table?.fourByte
  if (table && four === 'commands') {
    return {
      count: 4,
      read: readFourByte,
      program: programFourByte,
      erase(command) {
        const own = table.fourByteErase.get(command)
        if (own !== undefined) return own
        const says = `no command erases with four address bytes as ${hexText(command)} does`
        throw unreached(port.name, bytes, says)
      },
    }
  }
  if (four === 'enter' || four === 'enable-and-enter') {
    await port.exchange([...(four === 'enter' ? [] : [bare(writeEnable)]), bare(enterFourByte)])
    return { count: 4, read, program, erase: same, leave: leaveFourByte }
  }
  throw unreached(port.name, bytes, 'its table does not say how four address bytes are sent')
}

const unreached = (thing: string, bytes: number, found: string) =>
  new Problem({
    kind: 'flash-reach',
    thing,
    says: `three address bytes do not reach the end of ${sizeText(bytes)}`,
    found,
    remedy:
      'Nothing was written. Write it with the tool that its maker names, then read the unit and keep the page here.',
  })
