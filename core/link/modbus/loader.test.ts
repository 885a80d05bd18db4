import { describe, expect, it } from 'vitest'
import type { DriveOf } from '../../family'
import { crc32, hexNumber, virtualClock } from '../../kernel'
import type { Progress } from '../loader'
import type { SerialSettings } from '../port'
import { unitOnBus } from './bus.test-support'
import { modbusLoader } from '.'
import { factsOf } from '../refusal.test-support'

/*
 * A loader behind registers, by a unit written here from the clauses of Modbus Application Protocol V1.1b3 alone: 6.3 read
 * holding registers, 6.5 write a coil, 6.6 write a register, 6.12 write registers, 7 exceptions (5: begun and needs long, 6: busy).
 */

const settings: SerialSettings = { baudRate: 19_200, dataBits: 8, parity: 'even', stopBits: 1 }
const turn = () => new Promise<void>((done) => setImmediate(done))
const at = { command: 0x10, state: 0x11, address: 0x20, length: 0x22, checksum: 0x30, progress: 0x32 }
const codes = { enter: 0xb0, erase: 0xe0, start: 0x50, check: 0xc0, read: 0x60, write: 0x70 }
const block = { register: 0x100, words: 130 }
type Drive = DriveOf<'modbus'>

interface Form extends Partial<Drive> {
  /** What its state register says, question by question; the last stays. Without it each act is done at once. */
  says?: number[]
  /** Exceptions it gives to the first commands. */
  refuses?: number[]
  /** Called at each reading of the state, before it is answered. */
  onLook?: (look: number) => Promise<void> | void
  /** Called at each command, before it is answered. */
  onCommand?: () => Promise<void> | void
  firmware?: boolean
}

/** The unit, its loader, and what was asked of it. */
function bench({ says, refuses = [], onLook, onCommand, firmware = false, ...form }: Form = {}) {
  const clock = virtualClock(turn)
  const memory = new Uint8Array(0x400).fill(0xff)
  const words = new Map<number, number>()
  const given: number[] = []
  let state = firmware ? 0 : 1
  let looks = 0
  const wide = (register: number) => (words.get(register) ?? 0) * 0x10000 + (words.get(register + 1) ?? 0)
  const obey = (code: number) => {
    given.push(code)
    const [address, length] = [wide(at.address), wide(at.length)]
    if (code === codes.enter) state = 1
    if (code === codes.erase) memory.fill(0xff, address, address + length)
    if (code === codes.write)
      for (let i = 0; i < length; i++)
        memory[address + i] = ((words.get(block.register + (i >> 1)) ?? 0) >> (i % 2 ? 0 : 8)) & 255
    if (code === codes.read)
      for (let i = 0; i < length; i += 2)
        words.set(block.register + (i >> 1), (memory[address + i]! << 8) | (memory[address + i + 1] ?? 0xee))
    if (code === codes.check) {
      const sum = crc32(memory.subarray(address, address + length))
      words.set(at.checksum, sum >>> 16).set(at.checksum + 1, sum & 0xffff)
    }
  }
  const answer = async (pdu: Uint8Array): Promise<number[]> => {
    const [fn = 0] = pdu
    const first = (pdu[1]! << 8) | pdu[2]!
    const second = (pdu[3]! << 8) | pdu[4]!
    const isCommand = fn === 5 || (first === at.command && fn !== 3)
    if (isCommand) await onCommand?.()
    if (isCommand && refuses.length > 0) {
      const exception = refuses.shift()!
      // Begun all the same: it only needs long.
      if (exception === 5) obey(fn === 5 ? first : fn === 6 ? second : (pdu[6]! << 8) | pdu[7]!)
      return [fn | 0x80, exception]
    }
    if (fn === 3) {
      if (first === at.state) {
        await onLook?.(++looks)
        words.set(at.state, says ? (says.length > 1 ? says.shift()! : says[0]!) : state)
      }
      const all = Array.from({ length: second }, (_, i) => words.get(first + i) ?? 0)
      return [3, second * 2, ...all.flatMap((word) => [word >> 8, word & 255])]
    }
    if (fn === 0x10) {
      for (let i = 0; i < second; i++) words.set(first + i, (pdu[6 + i * 2]! << 8) | pdu[7 + i * 2]!)
      if (first === at.command) obey(words.get(first)!)
      return [...pdu.subarray(0, 5)]
    }
    if (fn === 6) obey(second)
    if (fn === 5) obey(first)
    return [...pdu]
  }
  const { port, asked } = unitOnBus(9, settings, answer)
  const { enter, erase, start, check, read, write } = codes
  const drive: Drive = {
    speaks: 'modbus',
    address: 9,
    page: [],
    registers: at,
    commands: { enter, erase, start, check, read, write },
    block,
    ...form,
  } as Drive
  const loader = modbusLoader(port, clock, drive, { id: 'main' }, 0, async () => [])
  return { loader, clock, memory, asked, given, words }
}
const quiet = () => {}
const going = { raised: false }

describe('into the loader', () => {
  it('a unit in its firmware is told to enter, one that is there is left alone', async () => {
    const out = bench({ firmware: true })
    await out.loader.attach()
    expect(out.given).toEqual([codes.enter])
    const there = bench()
    await there.loader.attach()
    expect(there.given).toEqual([])
  })
  it('waits for a firmware that takes its time, two seconds at most', async () => {
    const slow = bench({ says: [0, 0, 0, 1] })
    const began = slow.clock.now()
    await slow.loader.attach()
    expect(slow.clock.now() - began).toBe(200)
    const stays = bench({ says: [0] })
    expect(await factsOf(stays.loader.attach())).toMatchObject({ kind: 'modbus-loader', found: 'state 0' })
    expect(stays.clock.now()).toBe(2000)
  })
})

describe('an act of the loader', () => {
  const range = { address: 0x40, length: 0x80 }
  it('is told its place, high word first, and is over when the state says so', async () => {
    const { loader, asked, memory } = bench()
    memory.fill(7)
    await loader.erase(range, quiet)
    expect(asked.slice(0, 3)).toEqual([
      [0x10, 0, 0x20, 0, 2, 4, 0, 0, 0, 0x40],
      [0x10, 0, 0x22, 0, 2, 4, 0, 0, 0, 0x80],
      [6, 0, 0x10, 0, 0xe0],
    ])
    expect([...memory.subarray(0x3f, 0x42), ...memory.subarray(0xbf, 0xc1)]).toEqual([7, 0xff, 0xff, 0xff, 7])
  })
  it.each([
    ['coils', [5, 0, 0xe0, 0xff, 0]],
    ['values', [6, 0, 0x10, 0, 0xe0]],
    ['registers', [0x10, 0, 0x10, 0, 1, 2, 0, 0xe0]],
  ] as const)('is begun as the profile says: %s', async (commandsAre, pdu) => {
    const { loader, asked } = bench({ commandsAre } as Form)
    await loader.erase(range, quiet)
    expect(asked[2]).toEqual(pdu)
  })
  it('low word first where the profile says so', async () => {
    const { loader, asked } = bench({ wordOrder: 'low-first' })
    await loader.erase({ address: 0x12345678, length: 1 }, quiet)
    expect(asked[0]).toEqual([0x10, 0, 0x20, 0, 2, 4, 0x56, 0x78, 0x12, 0x34])
  })
  it('that needs long is waited for, and tells how far it is', async () => {
    const told: Progress[] = []
    const { loader, words, clock } = bench({
      says: [2, 2, 1],
      onLook: (look) => void words.set(at.progress, look),
    })
    words.set(at.progress + 1, 8)
    await loader.erase(range, (progress) => void told.push(progress))
    expect(told).toEqual([1, 2, 3].map((done) => ({ done, total: 8, unit: 'sectors', retries: 0 })))
    expect(clock.now()).toBe(200)
  })
  it('says no progress where the unit counts none', async () => {
    const told: Progress[] = []
    await bench({ says: [2, 1] }).loader.erase(range, (progress) => void told.push(progress))
    const { progress: _, ...registers } = at
    await bench({ says: [2, 1], registers } as Form).loader.erase(
      range,
      (progress) => void told.push(progress),
    )
    expect(told).toEqual([])
  })
  it('that the loader reports as a fault ends at once, and names the act', async () => {
    expect(await factsOf(bench({ says: [2, 3] }).loader.erase(range, quiet))).toMatchObject({
      kind: 'modbus-loader',
      place: { at: 'erase' },
      says: 'the loader reports a fault',
      found: 'state 3',
      remedy: expect.stringContaining('Leave it powered'),
    })
    const odd = await factsOf(bench({ says: [9] }).loader.erase(range, quiet))
    expect(odd).toMatchObject({ says: 'the loader does not come to an end', found: 'state 9' })
  })
  it('goes by the profile’s own numbers of its states', async () => {
    const states = { firmware: 10, loader: 20, atWork: 30, fault: 40 }
    await bench({ states, says: [30, 30, 20] }).loader.erase(range, quiet)
    expect(await factsOf(bench({ states, says: [30, 40] }).loader.erase(range, quiet))).toMatchObject({
      says: 'the loader reports a fault',
    })
  })
  it('that never comes to its end is given up after two minutes, or as the profile says', async () => {
    const usual = bench({ says: [2] })
    expect(await factsOf(usual.loader.erase(range, quiet))).toMatchObject({
      says: 'the loader does not come to an end',
    })
    expect(usual.clock.now()).toBe(120_100)
    const own = bench({ says: [2], timing: { answerMs: 50, busyMs: 500 } } as Form)
    await factsOf(own.loader.erase(range, quiet))
    expect(own.clock.now()).toBe(600)
  })
  // A laptop that stands still between a question and its answer says nothing of the unit.
  it('is not called endless because the computer stood still; one that is still at work afterwards is', async () => {
    const stands = (says: number[]) => {
      const made: ReturnType<typeof bench> = bench({
        says,
        onLook: async (look) => (look === 1 ? made.clock.sleep(600_000) : undefined),
      })
      return made
    }
    await expect(stands([2, 1]).loader.erase(range, quiet)).resolves.toBeUndefined()
    expect(await factsOf(stands([2, 2]).loader.erase(range, quiet))).toMatchObject({ kind: 'modbus-loader' })
  })
})

describe('a command that is refused', () => {
  const range = { address: 0, length: 0x10 }
  it('as busy (6) is given again, every fifth of a second', async () => {
    const { loader, given, clock } = bench({ refuses: [6, 6] })
    await loader.erase(range, quiet)
    expect(given).toEqual([codes.erase])
    expect(clock.now()).toBe(400)
  })
  it('as begun (5) is not given a second time: the state tells how it goes', async () => {
    const { loader, given } = bench({ refuses: [5], says: [2, 1] })
    await loader.erase(range, quiet)
    expect(given).toEqual([codes.erase])
  })
  it('for another reason is the unit’s last word', async () => {
    for (const exception of [1, 2, 3, 4])
      expect(
        await factsOf(bench({ refuses: [exception, exception] }).loader.erase(range, quiet)),
      ).toMatchObject({
        kind: 'modbus-exception',
        found: `exception ${exception}`,
      })
  })
  it('as busy for longer than it may be is given up', async () => {
    const { loader, given, clock } = bench({
      refuses: Array.from({ length: 99 }, () => 6),
      timing: { answerMs: 50, busyMs: 1000 },
    } as Form)
    expect(await factsOf(loader.erase(range, quiet))).toMatchObject({ found: 'exception 6' })
    expect(given).toEqual([])
    expect(clock.now()).toBe(1200)
  })
  it('is not given up because the computer stood still meanwhile', async () => {
    const stands = (...refuses: number[]) => {
      let commands = 0
      // The lid is shut between a command and its answer.
      const made: ReturnType<typeof bench> = bench({
        refuses,
        onCommand: async () => (++commands === 1 ? made.clock.sleep(600_000) : undefined),
      })
      return made
    }
    const { loader, given } = stands(6)
    await loader.erase(range, quiet)
    expect(given).toEqual([codes.erase])
    expect(await factsOf(stands(6, 6).loader.erase(range, quiet))).toMatchObject({ found: 'exception 6' })
  })
})

describe('blocks of registers', () => {
  const image = Uint8Array.from({ length: 601 }, (_, i) => (i * 7 + (i >> 8)) & 255)
  it('carry the image in order, 123 registers a request at most, an odd last byte filled up', async () => {
    const { loader, memory, asked, given } = bench()
    const told: number[] = []
    await loader.write(0x10, image, ({ done }) => void told.push(done), going)
    expect([...memory.subarray(0x10, 0x10 + 601)]).toEqual([...image])
    expect(memory[0x10 + 601]).toBe(0xff)
    expect(told).toEqual([260, 520, 601])
    expect(given).toEqual([codes.write, codes.write, codes.write])
    const counts = asked
      .filter(([fn, high]) => fn === 0x10 && high === 1)
      .map((pdu) => (pdu[3]! << 8) | pdu[4]!)
    // 130 words are 123 and 7; the last block has 81 bytes, 41 words.
    expect(counts).toEqual([123, 7, 123, 7, 41])
  })
  it('go on at the block in which a byte lies', async () => {
    const { loader, memory } = bench()
    const told: number[] = []
    await loader.write(0, image, ({ done }) => void told.push(done), going, 300)
    expect(told).toEqual([520, 601])
    expect([...memory.subarray(0, 260)]).toEqual(Array.from({ length: 260 }, () => 0xff))
    expect([...memory.subarray(260, 601)]).toEqual([...image.subarray(260)])
    const whole = bench()
    await whole.loader.write(0, image, quiet, going, 260)
    expect(whole.given).toHaveLength(2)
  })
  it('stop where the person abandons, and not behind the last', async () => {
    const abandon = { raised: false }
    const { loader, given } = bench()
    const stopped = loader.write(0, image, ({ done }) => void (abandon.raised = done === 260), abandon)
    expect(await factsOf(stopped)).toMatchObject({ kind: 'write-abandoned', place: { offset: 260 } })
    expect(given).toHaveLength(1)
    const late = { raised: false }
    await bench().loader.write(0, image, ({ done }) => void (late.raised = done === 601), late)
    expect(late.raised).toBe(true)
  })
  it('are read back in order, 125 registers a request at most', async () => {
    const { loader, memory, asked } = bench()
    memory.set(image, 0x20)
    const told: number[] = []
    const back = await loader.read!({ address: 0x20, length: 601 }, ({ done }) => void told.push(done))
    expect([...back]).toEqual([...image])
    expect(told).toEqual([260, 520, 601])
    const counts = asked.filter(([fn, high]) => fn === 3 && high === 1).map((pdu) => pdu[4])
    expect(counts).toEqual([125, 5, 125, 5, 41])
  })
})

describe('the check', () => {
  const image = Uint8Array.from({ length: 64 }, (_, i) => i)
  it('is the unit’s checksum where it has one: CRC-32 over each half', async () => {
    const { loader, memory } = bench()
    memory.set(image)
    expect(await loader.verify(0, image)).toMatchObject({ outcome: 'equal-checksum' })
    memory[63]! ^= 1
    const told = await loader.verify(0, image)
    expect(told.outcome).toBe('different')
    expect(told.expected).toContain(hexNumber(crc32(image.subarray(32)), 8))
  })
  it('is every byte read back where it has none, and names the first that differs', async () => {
    const commands = { enter: 0xb0, erase: 0xe0, start: 0x50, read: 0x60, write: 0x70 }
    const { loader, memory } = bench({ commands } as Form)
    expect(loader.can.verify).toBe('read-back')
    memory.set(image, 0x40)
    expect(await loader.verify(0x40, image)).toMatchObject({ outcome: 'equal-read-back' })
    memory[0x40 + 17] = 0
    expect(await loader.verify(0x40, image)).toMatchObject({ outcome: 'different' })
  })
  it('proves nothing where the unit can neither', async () => {
    const commands = { enter: 0xb0, erase: 0xe0, start: 0x50, write: 0x70 }
    const { loader } = bench({ commands } as Form)
    expect(loader.can).toMatchObject({ verify: 'version-only', read: false, resume: true, erase: true })
    expect(loader.read).toBeUndefined()
    expect(await loader.verify(0, image)).toMatchObject({ outcome: 'version-only' })
  })
})
