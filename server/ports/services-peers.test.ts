import { componentOf, drivenLink, readFamily, type Family, type Region } from '@bench-wake/core/family'
import { crc32, realClock } from '@bench-wake/core/kernel'
import {
  isEqual,
  isoTp,
  openLink,
  periodicData,
  slcanPort,
  udsClient,
  udsLoader,
  udsTimingOf,
  type Loader,
  type Port,
  type SerialSettings,
  type UdsSettings,
} from '@bench-wake/core/link'
import { twoControllersDocument } from '@bench-wake/testing/two-controllers'
import { spawn } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { hostTime } from '../host-time'
import { endChildren, scratchFolder, tended } from '../server.test-support'
import { serialPort } from './serial-port'

/*
 * A controller that shares no code with us (e2e/peers/scapy_controller.md), behind a CAN adapter at a real pseudo-terminal:
 * its messages are segmented and its services read and built by scapy's layers for ISO 15765-2 and ISO 14229-1.
 */
endChildren()
const memory = join(scratchFolder(), 'memory')
const line: SerialSettings = { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 }
const settings: UdsSettings = {
  // A busy machine under both: the peer may be late, and that is no part of what is tested.
  answerMs: 5000,
  securityLevel: 1,
  key: [
    { do: 'xor', by: 0xa5a5a5a5 },
    { do: 'add', by: 1 },
  ],
  eraseRoutine: 0xff00,
  checkRoutine: 0x0202,
  widths: { address: 3, length: 2 },
  fingerprint: { identifier: 0xf15a, bytes: '26 11 27 01' },
  before: [{ routine: 0x0203, answer: '00', says: 'The winch stands still.' }],
  after: [{ routine: 0xff01, answer: '00', says: 'The parts belong together.' }],
}
const start = 0x010000
const imageOf = (version: string) => {
  const image = Uint8Array.from({ length: 1777 }, (_, at) => (at * 29 + 3) & 0xff)
  image.set(Buffer.from(`${version}\0`.padEnd(16, '\0')))
  return image
}
const never = { raised: false }
const silent = () => {}
const clock = realClock(hostTime)
let port: Port
let bus: ReturnType<typeof slcanPort>

/** The controller behind its adapter, joined. */
async function plugged(...words: string[]) {
  writeFileSync(memory, imageOf('1.0'))
  const peer = join(import.meta.dirname, '../../e2e/peers/scapy_controller.py')
  const unit = tended(spawn('/usr/bin/python3', [peer, ...words], { stdio: ['ignore', 'pipe', 'ignore'] }))
  const path = await new Promise<string>((resolve) => createInterface(unit.stdout!).once('line', resolve))
  const own = serialPort(path, clock)
  await own.open(line)
  const adapter = slcanPort(own, clock)
  await adapter.join(500_000)
  return { port: own, bus: adapter }
}

beforeAll(async () => {
  ;({ port, bus } = await plugged(memory))
})
afterAll(() => port.close())

const wide = { extended: true, receiveId: 0x18daf110 }
function loaderWith(more: Partial<UdsSettings> = {}, functional = true): Loader {
  const transport = isoTp(bus, clock, { ...wide, sendId: 0x18da10f1 })
  const all = isoTp(bus, clock, { ...wide, sendId: 0x18db33f1 })
  return udsLoader(
    transport,
    clock,
    { ...settings, ...more },
    async () => [],
    async () => {},
    functional ? (message) => all.send(message) : undefined,
  )
}
const version = async () => {
  const client = udsClient(isoTp(bus, clock, { ...wide, sendId: 0x18da10f1 }), clock, udsTimingOf(settings))
  return Buffer.from(await client.readData(0xf189)).toString()
}

describe('a controller of scapy on the bus', () => {
  it('says its version', async () => {
    expect(await version()).toBe('1.0')
  })
  it('is entered, fingerprinted, erased, written, checked and started; busy once, long at its erase', async () => {
    const loader = loaderWith()
    const image = imageOf('1.1')
    await loader.attach()
    await loader.erase({ address: start, length: 2048 }, silent)
    const told: number[] = []
    await loader.write(start, image, ({ done }) => void told.push(done), never)
    expect(told.at(-1)).toBe(image.length)
    // 130 bytes a message, as the controller said.
    expect(told[0]).toBe(130)
    const verified = await loader.verify(start, image)
    expect(isEqual(verified)).toBe(true)
    await loader.startApplication()
    expect(await version()).toBe('1.1')
    const lies = readFileSync(memory)
    expect(Buffer.compare(lies.subarray(0, image.length), Buffer.from(image))).toBe(0)
    expect(crc32(lies.subarray(0, image.length))).toBe(crc32(image))
  })
  it('sends data by itself at two rates, counted without a gap, until it is told to stop', async () => {
    const transport = isoTp(bus, clock, { ...wide, sendId: 0x18da10f1 })
    const client = udsClient(transport, clock, udsTimingOf(settings))
    const stream = await periodicData(client, transport, clock, [
      { identifier: 0xf201, rate: 'fast' },
      { identifier: 0xf202, rate: 'medium' },
    ])
    const counts: number[] = []
    const seen = new Set<number>()
    while (counts.length < 30) {
      const { identifier, bytes } = await stream.next(5000)
      seen.add(identifier)
      expect(bytes.length).toBe(2)
      counts.push(bytes[0]! * 256 + bytes[1]!)
    }
    await stream.end()
    expect([...seen].sort()).toEqual([0xf201, 0xf202])
    expect(counts).toEqual(counts.map((_, index) => counts[0]! + index))
    await transport.clear()
    expect(await transport.receive(400)).toBeNull()
    await expect(
      periodicData(client, transport, clock, [{ identifier: 0xf209, rate: 'fast' }]),
    ).rejects.toMatchObject({ facts: { kind: 'uds-refused' } })
  })
  it('that holds other bytes is told apart', async () => {
    const other = imageOf('1.1')
    other[1700]! ^= 4
    const loader = loaderWith()
    await loader.attach()
    expect((await loader.verify(start, other)).outcome).toBe('different')
  })
  it.each<[string, Partial<UdsSettings>, string]>([
    ['another width of its lengths', { widths: { address: 3, length: 4 } }, 'uds-refused'],
    ['a key that is wrong', { key: [{ do: 'xor', by: 0x5a5a5a5a }] }, 'uds-refused'],
    [
      'a routine that says otherwise',
      { before: [{ routine: 0x0203, answer: '01', says: 'It stands.' }] },
      'uds-not-ready',
    ],
  ])('is not erased by %s', async (_, more, kind) => {
    const loader = loaderWith(more)
    const erased = loader.attach().then(() => loader.erase({ address: start, length: 2048 }, silent))
    await expect(erased).rejects.toMatchObject({ facts: { kind } })
    expect(await version()).toBe('1.1')
  })
  it('refuses to be silenced alone: it wants that said to all', async () => {
    await expect(loaderWith({}, false).attach()).rejects.toMatchObject({ facts: { kind: 'uds-refused' } })
  })
})

describe('a controller of scapy with a byte of address before each frame', () => {
  it('says its version, and is written through an adapter that stamps its frames', async () => {
    const joined = await plugged(memory, 'addressed')
    const form = { ...wide, padding: 'none', sendId: 0x18da10f1 } as const
    const transport = isoTp(joined.bus, clock, { ...form, addresses: { sent: 0x10, heard: 0xf1 } })
    const all = isoTp(joined.bus, clock, {
      ...form,
      sendId: 0x18db33f1,
      addresses: { sent: 0xfe, heard: 0xf1 },
    })
    try {
      const loader = udsLoader(
        transport,
        clock,
        settings,
        async () => [],
        async () => {},
        (message) => all.send(message),
      )
      const image = imageOf('1.2')
      await loader.attach()
      await loader.erase({ address: start, length: 2048 }, silent)
      await loader.write(start, image, silent, never)
      expect(isEqual(await loader.verify(start, image))).toBe(true)
      await loader.startApplication()
      const client = udsClient(transport, clock, udsTimingOf(settings))
      expect(Buffer.from(await client.readData(0xf189)).toString()).toBe('1.2')
      // Asked as if it were another, it stays silent.
      const other = isoTp(joined.bus, clock, { ...form, addresses: { sent: 0x11, heard: 0xf1 } })
      await other.send(Uint8Array.of(0x22, 0xf1, 0x89))
      expect(await other.receive(500)).toBeNull()
      expect(readFileSync(memory).subarray(0, image.length).equals(Buffer.from(image))).toBe(true)
    } finally {
      await joined.port.close()
    }
  })
})

describe('a pair of scapy’s controllers on one bus, by a profile', () => {
  /** One profile for both: the second is as the first, at identifiers of its own. */
  function pairFamily(): Family {
    const document = twoControllersDocument()
    const [{ drive }] = document.links
    for (const component of document.components) {
      component.memory.regions = component.memory.regions.filter(({ use }: Region) => use === 'application')
      Object.assign(component.memory.regions[0], { address: '0x010000', length: '0x4000', sectorBytes: 2048 })
    }
    const key = [
      { do: 'xor', by: '0xA5A5A5A5' },
      { do: 'add', by: '0x1' },
    ]
    document.links[0].line = line
    document.links[0].drive = {
      ...drive,
      requestId: '0x18DA10F1',
      answerId: '0x18DAF110',
      extended: true,
      functionalId: '0x18DB33F1',
      answerMs: 5000,
      key,
      eraseRoutine: '0xFF00',
      checkRoutine: '0x0202',
      widths: { address: 3, length: 2 },
      fingerprint: { identifier: '0xF15A', bytes: '26 11 27 01' },
      page: [{ field: 'version.drive', identifier: '0xF189', as: 'ascii' }],
      controllers: [
        {
          component: 'charger',
          requestId: '0x18DA11F1',
          answerId: '0x18DAF111',
          page: [{ field: 'version.charger', identifier: '0xF189', as: 'ascii' }],
        },
      ],
    }
    delete document.links[0].drive.periodic
    return readFamily(document)
  }

  it('says one page, and both are written one after the other, each into its own memory', async () => {
    writeFileSync(`${memory}.second`, imageOf('2.0'))
    const joined = await plugged(memory, 'pair')
    await joined.bus.leave()
    await joined.port.close()
    const family = pairFamily()
    const link = drivenLink(family)!
    const channel = { kind: 'serial', port: joined.port } as const
    const driver = openLink(channel, clock, family, link, componentOf(family, 'drive'))
    await driver.open()
    try {
      expect((await driver.page()).lines).toEqual(['Program: 1.0', 'Charger: 2.0'])
      for (const [id, next] of [
        ['drive', '1.3'],
        ['charger', '2.3'],
      ] as const) {
        const loader = driver.loaderOf!(componentOf(family, id))
        const image = imageOf(next)
        await loader.attach()
        await loader.erase!({ address: start, length: 2048 }, silent)
        await loader.write(start, image, silent, never)
        expect(isEqual(await loader.verify(start, image))).toBe(true)
        await loader.startApplication()
      }
      expect((await driver.page()).lines).toEqual(['Program: 1.3', 'Charger: 2.3'])
    } finally {
      await driver.close()
    }
    expect(
      readFileSync(memory)
        .subarray(0, 1777)
        .equals(Buffer.from(imageOf('1.3'))),
    ).toBe(true)
    expect(
      readFileSync(`${memory}.second`)
        .subarray(0, 1777)
        .equals(Buffer.from(imageOf('2.3'))),
    ).toBe(true)
  })
})
