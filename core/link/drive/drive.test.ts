import { componentOf, drivenLink, type DrivenLink } from '@bench-wake/core/family'
import { demoFamily, demoFamilyList } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { Problem, virtualClock } from '../../kernel'
import type { Loader } from '../loader'
import type { Port } from '../port'
import type { UsbPort } from '../usb'
import { adapterDriver } from './adapter-driver'
import { bytesShown, shownBytes } from './shown'
import {
  channelOf,
  erasesFirst,
  erasesWhole,
  keepsFaults,
  linkEraseMs,
  linkReadWireMs,
  linkReads,
  linkRehearses,
  linkResumes,
  linkTailMs,
  linkVerifies,
  linkWidthBits,
  linkWireMs,
  linkWriteMs,
  openLink,
  readsChip,
  readsWhole,
} from '.'

/* What all links have in common: what goes over what, what each can, and how a value stands in a line. */

const turn = () => new Promise<void>((done) => setImmediate(done))
/** Every link that a demo family is driven over, by what is spoken on it. */
const links = new Map<string, { link: DrivenLink; family: (typeof demoFamilyList)[number] }>()
for (const family of [...demoFamilyList, demoFamily('relay-driver')])
  for (const { id } of family.links) {
    const link = drivenLink(family, id)
    if (link && !links.has(link.drive.speaks)) links.set(link.drive.speaks, { link, family })
  }
const by = (speaks: string) => links.get(speaks)!.link
const problem = (kind: string) => new Problem({ kind, says: 'x', remedy: 'y' })

describe('a link goes over its own kind of port', () => {
  const over: Record<string, 'serial' | 'usb'> = {
    script: 'serial',
    modbus: 'serial',
    kwp: 'serial',
    uds: 'serial',
    dfu: 'usb',
    debug: 'usb',
    'spi-flash': 'usb',
    'in-system': 'usb',
  }
  it('all of them are there', () => {
    expect([...links.keys()].sort()).toEqual(Object.keys(over).sort())
  })
  it.each(Object.entries(over))('%s: %s', (speaks, kind) => {
    const { link, family } = links.get(speaks)!
    expect(channelOf(link)).toBe(kind)
    const port = { name: 'plug', settings: {} } as unknown as Port & UsbPort
    const open = (given: 'serial' | 'usb') =>
      openLink({ kind: given, port } as never, virtualClock(turn), family, link, componentOf(family))
    expect(open(kind).loader).toBeDefined()
    try {
      open(kind === 'usb' ? 'serial' : 'usb')
      expect.fail('it was opened')
    } catch (error) {
      expect((error as Problem).facts).toMatchObject({
        kind: 'wrong-channel',
        thing: 'plug',
        expected: kind === 'usb' ? 'a USB device' : 'a serial port',
        found: kind === 'usb' ? 'a serial port' : 'a USB device',
        remedy: expect.stringMatching(/plugged into/),
      })
    }
  })
})

describe('what a link can is told before it is opened', () => {
  it('by what is spoken on it', () => {
    const can = (ability: (link: DrivenLink) => unknown) =>
      [...links]
        .filter(([, { link }]) => ability(link) === true)
        .map(([speaks]) => speaks)
        .sort()
    // Only diagnostic services keep codes (ISO 14229-1, 19; ISO 14230-3, 18).
    expect(can(keepsFaults)).toEqual(['kwp', 'uds'])
    expect(can(erasesWhole)).toEqual(['in-system'])
    expect(can(readsChip)).toEqual(['in-system', 'spi-flash'])
    expect(can(readsWhole)).toEqual(['spi-flash'])
    // In update mode the unit erases by itself as it takes the blocks (DFU 1.1).
    expect(can(erasesFirst)).not.toContain('dfu')
    expect(can(linkResumes)).toContain('modbus')
    expect(can(linkReads)).not.toContain('script')
    expect(linkVerifies(by('uds'))).toBe('checksum')
    expect(linkVerifies(by('debug'))).toBe('read-back')
    expect(linkWidthBits(by('debug'))).toBe(32)
    expect(linkWidthBits(by('modbus'))).toBe(16)
    expect(linkWidthBits(by('dfu'))).toBe(8)
    expect(linkRehearses(by('dfu'))).toBe(false)
  })
  it('writing takes the wire and the memory, one after the other; over the debug port the longer of both', () => {
    for (const speaks of ['script', 'modbus', 'uds', 'dfu', 'in-system']) {
      const link = by(speaks)
      expect(linkWriteMs(link, 4096, 500), speaks).toBeCloseTo(linkWireMs(link, 4096) + 500, 6)
    }
    const debug = by('debug')
    const wire = linkWireMs(debug, 4096)
    expect(linkWriteMs(debug, 4096, wire / 2)).toBe(wire)
    expect(linkWriteMs(debug, 4096, wire * 2)).toBe(wire * 2)
  })
  it('reading takes its own way where a link has one, else that of a write', () => {
    expect(linkReadWireMs(by('dfu'), 4096)).toBe(linkWireMs(by('dfu'), 4096))
    expect(linkReadWireMs(by('script'), 4096)).not.toBe(linkWireMs(by('script'), 4096))
  })
  it('where the memory’s sectors tell the erase, the link does not', () => {
    const { link, family } = links.get('dfu')!
    const range = { address: 0, length: 1024 }
    expect(linkEraseMs(link, componentOf(family), range)).toBeNull()
    const own = links.get('in-system')!
    expect(linkEraseMs(own.link, componentOf(own.family), range)).toBe(12)
    expect(linkTailMs(by('debug'), 1024, 5)).toBe(0)
  })
})

describe('a unit at an adapter’s far end', () => {
  function bench(attach: (Error | null)[] = [], page: () => Promise<string[]> = async () => ['serial 7']) {
    const calls: string[] = []
    const port = {
      open: async () => void calls.push('open'),
      close: async () => void calls.push('close'),
    } as unknown as UsbPort
    const loader = {
      async attach() {
        calls.push('attach')
        const error = attach.shift()
        if (error) throw error
      },
      release: async () => void calls.push('release'),
    } as unknown as Loader & { release(): Promise<void> }
    return { calls, loader, driver: adapterDriver(port, loader, page) }
  }
  it('is let go after each reading, and at the end before the port is closed', async () => {
    const { calls, driver, loader } = bench()
    await driver.open()
    expect(await driver.page()).toEqual({ lines: ['serial 7'], inBootloader: false })
    await driver.close()
    expect(calls).toEqual(['open', 'attach', 'release', 'release', 'close'])
    expect(driver.loader).toBe(loader)
  })
  it('is let go where the reading fails as well: its board must not stand still for that', async () => {
    const { calls, driver } = bench([], () => Promise.reject(problem('debug-fault')))
    await expect(driver.page()).rejects.toMatchObject({ facts: { kind: 'debug-fault' } })
    expect(calls).toEqual(['attach', 'release'])
  })
  it('the port is closed although it cannot be let go any more', async () => {
    const { calls, driver, loader } = bench()
    loader.release = () => Promise.reject(problem('port-lost'))
    await driver.close()
    expect(calls).toEqual(['close'])
  })
  it('is there or not; what else goes wrong is told', async () => {
    expect(await bench().driver.probeBootloader()).toEqual({ bootloader: true })
    expect(await bench([problem('no-bootloader')]).driver.probeBootloader()).toEqual({ bootloader: false })
    await expect(bench([problem('debug-protected')]).driver.probeBootloader()).rejects.toMatchObject({
      facts: { kind: 'debug-protected' },
    })
  })
})

describe('a value’s bytes as a line shows them', () => {
  const bytes = (...list: number[]) => Uint8Array.from(list)
  it.each<[number[], 'ascii' | 'number' | 'hex', string | null]>([
    [[0x41, 0x42], 'ascii', 'AB'],
    [[0x41, 0, 0x42], 'ascii', 'A'],
    [[0x20, 0x41, 0x20], 'ascii', 'A'],
    [[0x41, 0x07], 'ascii', null],
    [[0x41, 0x7f], 'ascii', null],
    [[0x7e], 'ascii', '~'],
    [[0, 0x41], 'ascii', null],
    [[0x20, 0x20], 'ascii', null],
    [[1, 2], 'number', '258'],
    [[0], 'number', '0'],
    [[0xff, 0xfe], 'number', '65534'],
    [[0x0a, 0xff], 'hex', '0AFF'],
    // Erased memory says nothing.
    [[0xff, 0xff], 'number', null],
    [[0xff], 'ascii', null],
    [[0xff, 0xff, 0xff], 'hex', null],
    [[], 'hex', null],
    [[], 'number', null],
  ])('%j as %s: %j', (list, as, shown) => {
    expect(shownBytes(bytes(...list), as)).toBe(shown)
  })
  it.each<[string, 'ascii' | 'number' | 'hex', number, number[]]>([
    ['AB', 'ascii', 4, [0x41, 0x42, 0, 0]],
    ['ABCD', 'ascii', 2, [0x41, 0x42]],
    ['258', 'number', 2, [1, 2]],
    ['258', 'number', 4, [0, 0, 1, 2]],
    ['0', 'number', 1, [0]],
    ['0AFF', 'hex', 3, [0x0a, 0xff, 0]],
    ['', 'hex', 1, [0]],
  ])('%j as %s in %i bytes: %j', (value, as, length, list) => {
    expect([...bytesShown(value, as, length)]).toEqual(list)
  })
})
