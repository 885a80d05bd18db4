import { demoFamily } from '@bench-wake/demo'
import { dapAdapterDevice, flashChip, flashTable, usbDevice } from '@bench-wake/standins'
import { describe, expect, it } from 'vitest'
import { drivenLink, type Component, type DriveOf } from '../../family'
import { asciiBytes, virtualClock } from '../../kernel'
import { openLink } from '../drive'
import { factsOf } from '../refusal.test-support'
import { eraseTypesOf } from './driver'

/* A chip on a clip as a profile describes it; JESD216 commands of the usual blocks (20, 52, D8) from memory. */

const desk = demoFamily('signal-desk')
const link = drivenLink(desk, 'clip')!
type Drive = DriveOf<'spi-flash'>
const page: Drive['page'] = [
  { field: 'memory', tells: 'identity' },
  { field: 'lines', tells: 'size' },
  { field: 'version.chip', address: 0x100, length: 8, as: 'ascii' },
  { field: 'serial', address: 0x108, length: 8, as: 'ascii' },
]
const turn = () => new Promise<void>((done) => setImmediate(done))

/** A chip of 128 KiB whose own table says so, on a clip; the profile is changed by members. */
async function bench(change: Partial<Drive> = {}, memory: object = {}) {
  const clock = virtualClock(turn)
  const bytes = new Uint8Array(0x20000).fill(0xff)
  bytes.set(asciiBytes('AMBER\0\0\0'), 0x100)
  const erases = [{ bytes: 4096, command: 0x20, ms: 45 }]
  const chip = flashChip({
    clock,
    bytes,
    identity: [0x5d, 0x40, 0x12],
    table: flashTable({ bytes: bytes.length, pageBytes: 256, programMs: 0.7, erases }),
    pageBytes: 256,
    programMs: 0.7,
    erases,
  })
  const device = dapAdapterDevice({ clock, ends: { lines: chip }, version: 2, serial: '1' })
  const usb = usbDevice({ name: 'clip', clock, now: () => device })
  const [component] = desk.components
  const whole = {
    ...component!,
    memory: { ...component!.memory, ...memory },
  } as Component
  const spoken = { ...link, drive: { ...link.drive, identities: undefined, page, ...change } as Drive }
  const driver = openLink({ kind: 'usb', port: usb }, clock, desk, spoken, whole)
  const told: string[] = []
  driver.withPerson?.({
    ask: async () => {},
    type: async () => '',
    tell: async (says) => void told.push(says),
  })
  await driver.open()
  return { driver, bytes, told }
}
const region = desk.components[0]!.memory.regions[0]!

describe('the page of a chip', () => {
  it('is its identity, its size and what stands in it; what stands nowhere has no line', async () => {
    const { driver } = await bench()
    expect(await driver.page()).toEqual({
      lines: ['Chip: 5D4012', 'Lines: 128\u00a0KiB', 'Program: AMBER'],
      inBootloader: false,
    })
  })
  it('is read from where the profile says the image’s addresses begin', async () => {
    const { driver } = await bench(
      { base: 0x1000, page: [{ field: 'version.chip', address: 0x1100, length: 8, as: 'ascii' }] },
      { regions: [{ ...region, address: 0x1000, length: 0x20000 }] },
    )
    expect((await driver.page()).lines).toEqual(['Program: AMBER'])
  })
  it('is none of a chip that the profile does not name', async () => {
    const { driver } = await bench({ identities: ['5D4013'] })
    expect(await factsOf(driver.page())).toMatchObject({ kind: 'flash-other-chip', found: '5D4012' })
    await expect(bench({ identities: ['5D4012'] }).then((each) => each.driver.page())).resolves.toBeDefined()
  })
})

describe('a chip by its profile', () => {
  it('is believed over it, and the person is told; where its table is left out, that is told', async () => {
    const believed = await bench()
    await believed.driver.loader.attach()
    expect(believed.told.at(-1)).toMatch(/profile says 256.KiB of memory; the chip’s own table is believed/)
    const left = await bench({ table: 'left-out' })
    await left.driver.loader.attach()
    expect(left.told).toEqual(['The chip’s own table is left out, as the profile says.'])
  })
  it('ends where the last of its regions does, whatever they are for', async () => {
    const two = [
      { ...region, length: 0x8000 },
      { ...region, name: 'Settings', use: 'settings', address: 0x8000, length: 0x1000 },
    ]
    const { driver } = await bench({ table: 'left-out' }, { regions: two })
    await driver.loader.attach()
    expect(await driver.loader.identify()).toEqual(['Chip 5D4012', '36\u00a0KiB'])
    // Nothing beside the program is erased.
    const quiet = () => {}
    expect(await factsOf(driver.loader.erase({ address: 0x8000, length: 0x1000 }, quiet))).toMatchObject({
      kind: 'flash-edge',
    })
    expect(await factsOf(driver.loader.erase({ address: 0x7000, length: 0x1000 }, quiet))).toBeNull()
  })
  it('is erased by the blocks that the profile says, else by those of its sectors, else by the smallest usual', () => {
    const of = (drive: Partial<Drive>, sectors: (number | undefined)[]) => {
      const regions = sectors.map((sectorBytes) => ({ ...region, sectorBytes }))
      const component = { memory: { regions } } as unknown as Component
      return eraseTypesOf({ ...link.drive, erases: undefined, ...drive } as Drive, component).map(
        ({ bytes, command, usualMs, maxMs }) => [bytes, command, usualMs, maxMs],
      )
    }
    const own = [{ bytes: 8192, command: 0x21, usualMs: 30 }]
    expect(of({ erases: own }, [4096])).toEqual([[8192, 0x21, 30, null]])
    expect(of({}, [4096, 65_536])).toEqual([
      [4096, 0x20, null, null],
      [65_536, 0xd8, null, null],
    ])
    expect(of({}, [32_768])).toEqual([[32_768, 0x52, null, null]])
    expect(of({}, [1024])).toEqual([[4096, 0x20, null, null]])
    expect(of({}, [undefined])).toEqual([[4096, 0x20, null, null]])
  })
})
