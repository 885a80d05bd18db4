/* eslint-disable @typescript-eslint/no-explicit-any -- profiles are changed by member */
import { demoFamilies } from '@bench-wake/demo'
import { rs485Unit, memoryBytes, serialLine, serveModbus, type ModbusUnit } from '@bench-wake/standins'
import { describe, expect, it } from 'vitest'
import {
  applicationRegions,
  checkFamily,
  componentOf,
  drivenLink,
  readFamily,
  type DriveOf,
  type DrivenLink,
} from '../../family'
import { isProblem, virtualClock } from '../../kernel'
import { isEqual } from '../check'
import { linkReads, linkVerifies, linkWireMs, openLink, speechText } from '../drive'
import { modbusUnit } from '.'

/* Modbus units of other shapes than the demo's battery: each in a profile, and its stand-in as the unit. */
const turn = () => new Promise<void>((done) => setImmediate(done))
type Document = Record<string, any>
const battery = () =>
  structuredClone(demoFamilies.find(({ id }) => id === 'buoy-battery')) as unknown as Document
const shaped = (change: (drive: Document) => void): Document => {
  const document = battery()
  for (const { drive } of document['links']) if (drive?.speaks === 'modbus') change(drive)
  return document
}
const withBlock = (words: number) => (drive: Document) => {
  delete drive['files']
  drive['block'] = { register: 4000, words }
  drive['commands'] = { ...drive['commands'], write: 81, read: 82 }
}
const never = { raised: false }
const silent = () => {}

function unitOf(document: Document) {
  const family = readFamily(document)
  const link = drivenLink(family)! as DrivenLink & { drive: DriveOf<'modbus'> }
  const component = componentOf(family)
  const clock = virtualClock(turn)
  const flash = new Uint8Array(memoryBytes(family)).fill(0xff)
  const state = { flash, usedAh: 0, inBootloader: true, lines: {} }
  const unit = rs485Unit({
    id: 'x',
    name: 'unit',
    family,
    hardware: '2',
    serial: 'X-1',
    state,
    link,
    neighbours: [],
  })
  const driver = openLink(unit.connect(clock).channel, clock, family, link, component)
  const at = applicationRegions(component)[0]!.address
  return { family, link, clock, driver, flash, at }
}
const image = Uint8Array.from({ length: 5001 }, (_, at) => (at * 53 + (at >> 8)) & 0xff)

const shapes: [string, (drive: Document) => void][] = [
  ['low word first', (drive) => (drive['wordOrder'] = 'low-first')],
  ['commands in a block of one', (drive) => (drive['commandsAre'] = 'values-in-block')],
  ['commands as coils', (drive) => (drive['commandsAre'] = 'coils')],
  ['states of its own', (drive) => (drive['states'] = { firmware: 7, loader: 1, atWork: 0, fault: 9 })],
  ['a rest between two questions', (drive) => (drive['timing'] = { pauseMs: 40 })],
  ['blocks of 100 registers', withBlock(100)],
  ['blocks of 300 registers, more than one question carries', withBlock(300)],
  [
    'all of it',
    (drive) => {
      withBlock(64)(drive)
      drive['wordOrder'] = 'low-first'
      drive['commandsAre'] = 'coils'
      drive['states'] = { firmware: 10, loader: 20, atWork: 30, fault: 40 }
    },
  ],
]

describe('a Modbus unit', () => {
  it.each(shapes)('with %s is entered, written, compared, read back and started', async (_, change) => {
    const { driver, flash, at, link } = unitOf(shaped(change))
    await driver.open()
    await driver.loader.attach()
    await driver.loader.erase({ address: at, length: 8192 }, silent)
    await driver.loader.write(at, image, silent, never)
    expect(isEqual(await driver.loader.verify(at, image))).toBe(true)
    expect(flash.subarray(0, image.length)).toEqual(image)
    expect(await driver.loader.read!({ address: at, length: image.length }, silent)).toEqual(image)
    const other = image.slice()
    other[4999]! ^= 0x10
    expect((await driver.loader.verify(at, other)).outcome).toBe('different')
    expect(driver.loader.can.read).toBe(linkReads(link))
    expect(driver.loader.can.verify).toBe(linkVerifies(link))
    await driver.close()
  })
  it.each([
    ['nothing that checks', 'read-back', (drive: Document) => delete drive['commands'].check],
    [
      'nothing that checks and nothing that reads',
      'version-only',
      (drive: Document) => {
        delete drive['commands'].check
        delete drive['commands'].read
      },
    ],
  ] as const)('with %s is proved by its %s', async (_, by, change) => {
    const document = shaped((drive) => {
      withBlock(100)(drive)
      change(drive)
      delete drive['registers'].checksum
    })
    const { driver, at, link } = unitOf(document)
    await driver.open()
    await driver.loader.attach()
    await driver.loader.erase({ address: at, length: 8192 }, silent)
    await driver.loader.write(at, image, silent, never)
    expect(linkVerifies(link)).toBe(by)
    expect(driver.loader.can.verify).toBe(by)
    const { outcome } = await driver.loader.verify(at, image)
    expect(outcome).toBe(by === 'read-back' ? 'equal-read-back' : 'version-only')
    if (by === 'version-only') expect(driver.loader.read).toBeUndefined()
    await driver.close()
  })
  it('needs for its blocks what their own arithmetic says, within a tenth', async () => {
    const { driver, at, clock, link } = unitOf(shaped(withBlock(123)))
    expect(speechText(link)).toMatch(/^Modbus register blocks at /)
    await driver.open()
    await driver.loader.attach()
    await driver.loader.erase({ address: at, length: 8192 }, silent)
    const before = clock.now()
    await driver.loader.write(at, image, silent, never)
    const took = clock.now() - before
    // The memory of the stand-in takes its own time for each page; the wire's share is what is said.
    const { programMsPerPage = 0, pageBytes = 256 } = applicationRegions(
      componentOf(unitOf(battery()).family),
    )[0]!
    const programMs = Math.ceil(image.length / pageBytes) * programMsPerPage
    expect((linkWireMs(link, image.length) + programMs) / took).toBeGreaterThan(0.85)
    expect((linkWireMs(link, image.length) + programMs) / took).toBeLessThan(1.1)
    await driver.close()
  })
})

describe('a profile of a Modbus unit', () => {
  const faults = (change: (drive: Document) => void) =>
    checkFamily(shaped(change)).faults.map(({ at }) => at.replace(/^links\.\d+\.drive\./, ''))
  it.each<[string, string[], (drive: Document) => void]>([
    ['neither files nor a block', ['files'], (drive) => delete drive['files']],
    ['both', ['block', 'commands.write'], (drive) => (drive['block'] = { register: 1, words: 8 })],
    [
      'a block that no command programs',
      ['commands.write'],
      (drive) => {
        withBlock(8)(drive)
        delete drive['commands'].write
      },
    ],
    ['a check without its register', ['registers.checksum'], (drive) => delete drive['registers'].checksum],
    ['a register without its check', ['registers.checksum'], (drive) => delete drive['commands'].check],
    ['a piece that is too large', ['block.words'], withBlock(513)],
    ['nothing wrong', [], withBlock(512)],
  ])('with %s', (_, at, change) => {
    expect(faults(change)).toEqual(at)
  })
})

/** A unit that answers each request by the next of a list: an exception by its number, or a register's value. */
async function answering(list: (number | { value: number })[], timing = {}) {
  const clock = virtualClock(turn)
  const settings = { baudRate: 19_200, dataBits: 8, parity: 'even', stopBits: 1 } as const
  const line = serialLine({ name: 'bus', clock, unit: settings })
  let asked = 0
  const unit: ModbusUnit = {
    address: 3,
    answer: (pdu) => {
      const next = list[Math.min(asked++, list.length - 1)]!
      if (typeof next === 'number') return Uint8Array.of(pdu[0]! | 0x80, next)
      return pdu[0] === 3 ? Uint8Array.of(3, 2, next.value >> 8, next.value & 255) : pdu.slice(0, 5)
    },
  }
  await line.host.open(settings)
  void serveModbus(
    line.unit,
    () => [unit],
    (ms) => clock.sleep(ms),
  ).catch(() => {})
  const drive = { address: 3, timing } as DriveOf<'modbus'>
  return { unit: modbusUnit(line.host, clock, drive), clock, asked: () => asked, end: () => line.pull() }
}

// Source: Modbus Application Protocol V1.1b3, clause 7: 05 acknowledge, 06 server device busy.
describe('a unit that says it is busy', () => {
  it('is asked again until it is not', async () => {
    const { unit, asked } = await answering([6, 6, 6, { value: 42 }])
    expect(await unit.read(1, 1)).toEqual([42])
    expect(asked()).toBe(4)
  })
  it('for longer than its profile allows is a refusal', async () => {
    const { unit, clock } = await answering([6], { busyMs: 3000 })
    const before = clock.now()
    const error = await unit.read(1, 1).catch((caught: unknown) => caught)
    expect(isProblem(error, 'modbus-exception')).toBe(true)
    expect(clock.now() - before).toBeGreaterThan(3000)
    expect(clock.now() - before).toBeLessThan(4000)
  })
  it('that has begun is not given its command again', async () => {
    const { unit, asked } = await answering([5, { value: 0 }])
    await unit.once(Uint8Array.of(6, 0, 1, 0, 2))
    expect(asked()).toBe(1)
  })
  it.each([1, 2, 3, 4, 8, 11])('exception %s is final', async (exception) => {
    const { unit, asked } = await answering([exception, { value: 1 }])
    await expect(unit.read(1, 1)).rejects.toMatchObject({ facts: { found: `exception ${exception}` } })
    expect(asked()).toBe(1)
  })
})
