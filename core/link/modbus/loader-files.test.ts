import { describe, expect, it } from 'vitest'
import type { DriveOf } from '../../family'
import { virtualClock } from '../../kernel'
import type { SerialSettings } from '../port'
import { unitOnBus } from './bus.test-support'
import { modbusLoader } from '.'
import { factsOf } from '../refusal.test-support'

/*
 * An image as file records, by a unit written here from Modbus Application Protocol V1.1b3, clauses 6.14 (read file record) and 6.15
 * (write file record): reference type 6, file, record, length in registers; a file has the records 0 to 9 999.
 */

const settings: SerialSettings = { baudRate: 19_200, dataBits: 8, parity: 'even', stopBits: 1 }
const turn = () => new Promise<void>((done) => setImmediate(done))
type Drive = DriveOf<'modbus'>
const registers = { command: 0x10, state: 0x11, address: 0x20, length: 0x22 }

interface Form {
  drive?: object
  component?: string
  start?: number
  /** It answers nothing at all. */
  dead?: boolean
  /** What its state register says. */
  state?: number
}
function bench({ drive = {}, component = 'main', start = 0, dead = false, state = 1 }: Form = {}) {
  const clock = virtualClock(turn)
  /** Registers by file and record. */
  const files = new Map<string, number>()
  const word = (pdu: Uint8Array, at: number) => (pdu[at]! << 8) | pdu[at + 1]!
  const answer = (pdu: Uint8Array): number[] => {
    const [file, record, count] = [word(pdu, 3), word(pdu, 5), word(pdu, 7)]
    if (pdu[0] === 0x15) {
      for (let i = 0; i < count; i++) files.set(`${file}.${record + i}`, word(pdu, 9 + i * 2))
      return [...pdu]
    }
    if (pdu[0] === 0x14) {
      const data = Array.from({ length: count }, (_, i) => files.get(`${file}.${record + i}`) ?? 0xffff)
      return [0x14, count * 2 + 2, count * 2 + 1, 6, ...data.flatMap((each) => [each >> 8, each & 255])]
    }
    if (pdu[0] === 0x03) return [3, 2, 0, state]
    return [...pdu.subarray(0, 5)]
  }
  const { port, asked, times } = unitOnBus(9, settings, (pdu) => (dead ? null : answer(pdu)), clock)
  const whole = {
    speaks: 'modbus',
    address: 9,
    page: [],
    registers,
    commands: { enter: 1, erase: 2, start: 3 },
    files: [
      { component: 'main', first: 4 },
      { component: 'panel', first: 9 },
    ],
    ...drive,
  } as unknown as Drive
  const loader = modbusLoader(port, clock, whole, { id: component }, start, async () => ['who'])
  return { loader, files, asked, times, names: () => [...files.keys()] }
}
const quiet = () => {}
const going = { raised: false }
const image = Uint8Array.from({ length: 300 }, (_, i) => (i * 3) & 255)

describe('an image as file records', () => {
  it('goes into the files of its component, high byte first, from where its region begins', async () => {
    const { loader, names, files } = bench({ start: 0x8000 })
    await loader.write(0x8010, image.subarray(0, 4), quiet, going)
    // Byte 16 of the region is record 8.
    expect(names()).toEqual(['4.8', '4.9'])
    expect([files.get('4.8'), files.get('4.9')]).toEqual([0x0003, 0x0609])
    const panel = bench({ component: 'panel' })
    await panel.loader.write(0, image.subarray(0, 2), quiet, going)
    expect(panel.names()).toEqual(['9.0'])
    // A component that the profile gives no file begins in the first (the clause counts from 1).
    const other = bench({ component: 'other' })
    await other.loader.write(0, image.subarray(0, 2), quiet, going)
    expect(other.names()).toEqual(['1.0'])
  })
  it('goes over into the next file behind record 9 999', async () => {
    const { loader, names } = bench()
    await loader.write(2 * 9998, image.subarray(0, 8), quiet, going)
    expect(names()).toEqual(['4.9998', '4.9999', '5.0', '5.1'])
  })
  it('is told as it comes, and is read back as it went', async () => {
    const { loader } = bench()
    const told: number[] = []
    await loader.write(
      0,
      image,
      ({ done, total, unit, retries }) => {
        expect([total, unit, retries]).toEqual([300, 'bytes', 0])
        told.push(done)
      },
      going,
    )
    expect(told.at(-1)).toBe(300)
    expect(told.length).toBeGreaterThan(1)
    const read: number[] = []
    const back = await loader.read!({ address: 0, length: 300 }, ({ done, total, unit }) => {
      expect([total, unit]).toEqual([300, 'bytes'])
      read.push(done)
    })
    expect([...back]).toEqual([...image])
    expect(read.at(-1)).toBe(300)
    expect([...(await loader.read!({ address: 4, length: 3 }, quiet))]).toEqual([...image.subarray(4, 7)])
    expect(await loader.verify(0, image)).toMatchObject({ outcome: 'equal-read-back' })
    const other = image.slice()
    other[299]! ^= 1
    expect(await loader.verify(0, other)).toMatchObject({ outcome: 'different' })
  })
  it('goes on from the byte that it had reached', async () => {
    const { loader, names } = bench()
    await loader.write(0, image, quiet, going, 200)
    expect(names()[0]).toBe('4.100')
    expect(names()).toHaveLength(50)
  })
  it('stops where the person abandons, and not behind its last byte', async () => {
    const abandon = { raised: false }
    const { loader } = bench()
    const act = loader.write(0, image, () => void (abandon.raised = true), abandon)
    const facts = await factsOf(act)
    expect(facts).toMatchObject({
      kind: 'write-abandoned',
      thing: 'bus',
      found: 'the unit holds a part of the image and stays in its loader',
    })
    expect(facts!.place!.offset).toBeGreaterThan(0)
    expect(facts!.place!.offset).toBeLessThan(300)
    const late = { raised: false }
    await bench().loader.write(0, image, ({ done }) => void (late.raised = done === 300), late)
    expect(late.raised).toBe(true)
  })
  it('ends with what the loader says of it', async () => {
    expect(await factsOf(bench({ state: 3 }).loader.write(0, image, quiet, going))).toMatchObject({
      kind: 'modbus-loader',
      place: { at: 'write' },
    })
  })
})

describe('a unit on the bus', () => {
  it('that nobody hears is not there, and is unchanged', async () => {
    const made = bench({ dead: true })
    expect(await factsOf(made.loader.attach())).toMatchObject({
      kind: 'no-bootloader',
      thing: 'bus',
      says: 'nobody answers at address 9',
      remedy: expect.stringMatching(/unchanged/),
    })
    // Asked once, for its time alone.
    expect(made.asked).toHaveLength(1)
  })
  it('whose loader reports a fault is told so, and not called absent', async () => {
    expect(await factsOf(bench({ state: 3 }).loader.attach())).toMatchObject({ kind: 'modbus-loader' })
  })
  it('is given the rest that its profile asks for before each question', async () => {
    const at = async (timing?: object) => {
      const made = bench({ drive: timing ? { timing } : {} })
      await made.loader.erase({ address: 0, length: 2 }, quiet)
      return made.times
    }
    const [first = 0, second = 0] = await at({ answerMs: 100, pauseMs: 40 })
    // Beside it the silence of the line before each frame: 3.5 characters of eleven bits (V1.02, 2.5.1.1).
    const silence = (3.5 * 11 * 1000) / 19_200
    expect(first).toBeCloseTo(40 + silence, 3)
    expect(second - first).toBeCloseTo(40 + silence, 3)
    expect((await at())[0]).toBeCloseTo(silence, 3)
  })
  it('says of itself what its page says, and can read where it has files', async () => {
    const { loader } = bench()
    expect(await loader.identify()).toEqual(['who'])
    expect(loader.can).toEqual({ read: true, erase: true, verify: 'read-back', resume: true })
  })
})
