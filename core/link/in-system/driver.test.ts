import { demoFamily } from '@bench-wake/demo'
import { dapAdapterDevice, inSystemTarget, usbDevice } from '@bench-wake/standins'
import { describe, expect, it } from 'vitest'
import { componentOf, drivenLink, type Component, type DriveOf } from '../../family'
import { asciiBytes, virtualClock } from '../../kernel'
import { openLink } from '../drive'
import { factsOf } from '../refusal.test-support'

/* A processor on its six-line port as a profile describes it. */

const board = demoFamily('relay-driver')
const link = drivenLink(board)!
type Drive = DriveOf<'in-system'>
const turn = () => new Promise<void>((done) => setImmediate(done))
const quiet = () => {}

async function bench(
  change: Partial<Drive> = {},
  { lock = 0xff, regions }: { lock?: number; regions?: object[] } = {},
) {
  const clock = virtualClock(turn)
  const memory = new Uint8Array(0x2000).fill(0xff)
  memory.set(asciiBytes('1.3\0\0\0\0\0'), 0x94)
  const drive = { ...link.drive, ...change } as Drive
  const fuses = new Map([
    ['clock', 0xe4],
    ['guard', 0xdc],
    ['lock', lock],
  ])
  const unit = inSystemTarget({ clock, drive, signature: '3D9307', memory, pageBytes: 64, fuses })
  const device = dapAdapterDevice({ clock, ends: { lines: unit }, version: 2, serial: '1' })
  const usb = usbDevice({ name: 'six', clock, now: () => device })
  const component = componentOf(board)
  const whole = regions
    ? ({ ...component, memory: { ...component.memory, regions } } as Component)
    : component
  const driver = openLink({ kind: 'usb', port: usb }, clock, board, { ...link, drive }, whole)
  await driver.open()
  return { driver, memory, fuses }
}

describe('the page of a processor on six lines', () => {
  it('is its signature, what stands in its memory, and its fuses', async () => {
    const { driver } = await bench()
    expect((await driver.page()).lines).toEqual([
      'Signature: 3D9307',
      'Driver: 1.3',
      'Clock fuse: 0xE4',
      'Guard fuse: 0xDC',
      'Lock byte: 0xFF',
    ])
  })
  it('has no line of memory that is kept from being read', async () => {
    const locked = board.links.length > 0 && (link.drive as Drive).fuses?.find(({ id }) => id === 'lock')
    expect(locked).toBeTruthy()
    const { driver } = await bench({}, { lock: 0xfc })
    const { lines } = await driver.page()
    expect(lines).toContain('Signature: 3D9307')
    expect(lines).toContain('Lock byte: 0xFC')
    expect(lines.some((line) => line.startsWith('Driver:'))).toBe(false)
  })
  it('leaves out a fuse and a line that are not there', async () => {
    const { driver } = await bench({
      page: [
        { field: 'fuse.clock', tells: 'fuse.other' },
        { field: 'version.driver', address: 0x200, length: 4 },
      ],
    } as Partial<Drive>)
    expect((await driver.page()).lines).toEqual([])
  })
})

describe('a processor on six lines by its profile', () => {
  it('has its fuses read, and one set', async () => {
    const { driver, fuses } = await bench()
    await driver.loader.attach()
    expect((await driver.fuses!.read()).map(({ fuse, value }) => [fuse.id, value])).toEqual([
      ['clock', 0xe4],
      ['guard', 0xdc],
      ['lock', 0xff],
    ])
    await driver.fuses!.set('guard', 0xd4)
    expect(fuses.get('guard')).toBe(0xd4)
  })
  it('is written by pages of its program’s region, of sixty-four bytes where it says nothing', async () => {
    const region = componentOf(board).memory.regions[0]!
    for (const pageBytes of [undefined, 64]) {
      const { driver, memory } = await bench({}, { regions: [{ ...region, pageBytes }] })
      await driver.loader.attach()
      const image = Uint8Array.from({ length: 200 }, (_, at) => at)
      await driver.loader.erase({ address: 0, length: 0x2000 }, quiet)
      await driver.loader.write(0, image, quiet, { raised: false })
      expect([...memory.subarray(0, 200)]).toEqual([...image])
    }
  })
  it('is not erased where the chip holds more than the program, but on a person’s word', async () => {
    const [region] = componentOf(board).memory.regions
    const regions = [
      { ...region!, length: 0x1000 },
      { ...region!, name: 'Calibration', use: 'settings', address: 0x1000, length: 0x1000 },
    ]
    const { driver, memory } = await bench({}, { regions })
    await driver.loader.attach()
    const act = factsOf(driver.loader.erase({ address: 0, length: 0x1000 }, quiet))
    expect(await act).toMatchObject({ found: expect.stringContaining('Calibration') })
    expect(memory[0x94]).toBe(0x31)
  })
})
