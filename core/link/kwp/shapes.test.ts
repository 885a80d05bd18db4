/* eslint-disable @typescript-eslint/no-explicit-any -- profiles are changed by member */
import { demoFamilies } from '@bench-wake/demo'
import { controllerUnit, memoryBytes, type KwpUnitForm } from '@bench-wake/standins'
import { execFileSync } from 'node:child_process'
import { describe, expect, it } from 'vitest'
import {
  applicationRegions,
  checkFamily,
  componentOf,
  drivenLink,
  readFamily,
  type DriveOf,
  type FamilyLink,
} from '../../family'
import { bytesOfHex, hexOf, isProblem, virtualClock } from '../../kernel'
import { isEqual } from '../check'
import { linkWriteMs, openLink } from '../drive'
import type { Transport } from '../isotp'
import {
  decodeKwp,
  encodeKwp,
  firstKeyByte,
  kwpLength,
  longestKwp,
  olderClient,
  readKeyBytes,
  type KwpForm,
  type KwpShape,
} from '.'
import { wireBench } from './wire-bench.test-support'

/* Controllers on the single wire as they really differ: heads, lengths, times, speeds, and the older services. */
const turn = () => new Promise<void>((done) => setImmediate(done))
const bytes = (text: string) => bytesOfHex(text.replace(/ /g, ''))
const bare: KwpShape = { addresses: false, length: 'either' }

describe('a head', () => {
  // ISO 14230-2, clause 4: worked by hand, sums modulo 256.
  it.each<[string, KwpShape]>([
    ['02 3E 01 41', bare],
    ['00 02 3E 01 41', { addresses: false, length: 'byte' }],
    ['82 11 F1 3E 01 C3', { addresses: true, length: 'format' }],
    ['80 11 F1 02 3E 01 C3', { addresses: true, length: 'byte' }],
  ])('%s', (text, shape) => {
    const frame = bytes(text)
    expect(hexOf(encodeKwp({ target: 0x11, source: 0xf1, data: bytes('3E 01') }, shape))).toBe(hexOf(frame))
    expect(kwpLength(frame)).toBe(frame.length)
    expect(decodeKwp(frame)).toEqual({
      ...(shape.addresses ? { target: 0x11, source: 0xf1 } : {}),
      data: bytes('3E 01'),
    })
    // One byte short, or one too many, is none.
    for (const other of [frame.subarray(0, -1), bytes(`${text} 00`)])
      expect(() => decodeKwp(other)).toThrow(/no whole message|sum/)
  })
  it('says how much it carries at the most', () => {
    for (const length of ['either', 'byte', 'format'] as const) {
      const shape = { addresses: false, length }
      const most = longestKwp(shape)
      expect(most).toBe(length === 'format' ? 63 : 255)
      expect(decodeKwp(encodeKwp({ data: new Uint8Array(most) }, shape)).data.length).toBe(most)
      expect(() => encodeKwp({ data: new Uint8Array(most + 1) }, shape)).toThrow(RangeError)
    }
  })
  it('is not told before its length byte is there', () => {
    expect([bytes('80'), bytes('80 11 F1'), bytes('00')].map(kwpLength)).toEqual([null, null, null])
    expect([bytes('80 11 F1 02'), bytes('00 02')].map(kwpLength)).toEqual([7, 5])
  })
})

describe('key bytes', () => {
  // Key words of ISO 14230-2, clause 5.2.4.1: the low seven bits of both bytes are a number; 2025 has addresses and the length
  // in the format byte at usual times, 2000 says nothing (from memory). EF 8F is what most controllers say.
  it.each([
    ['E9 8F', 2025, { shape: { addresses: true, length: 'format' }, isSlow: false }],
    ['EF 8F', 2031, { shape: { addresses: true, length: 'either' }, isSlow: false }],
    ['8F EF', 2031, { shape: { addresses: true, length: 'either' }, isSlow: false }],
    ['D9 8F', 2009, { shape: { addresses: true, length: 'format' }, isSlow: true }],
    ['E5 8F', 2021, { shape: { addresses: false, length: 'format' }, isSlow: false }],
    ['E6 8F', 2022, { shape: { addresses: false, length: 'byte' }, isSlow: false }],
    ['D0 8F', 2000, null],
    ['E9 0F', 0, null],
  ])('%s', (text, word, told) => {
    const [one = 0, other = 0] = bytes(text)
    const [low, high] = other === 0x8f ? [one, other] : [other, one]
    if (word > 0) expect((high & 127) * 128 + (low & 127)).toBe(word)
    expect(readKeyBytes(one, other)).toEqual(told)
  })
  it('that a controller makes are read again, and have odd parity', () => {
    for (const addresses of [true, false])
      for (const length of ['either', 'format', 'byte'] as const)
        for (const isSlow of [true, false]) {
          const key = firstKeyByte({ addresses, length }, isSlow)
          expect(readKeyBytes(key, 0x8f)).toEqual({ shape: { addresses, length }, isSlow })
          expect([...key.toString(2)].filter((bit) => bit === '1').length % 2).toBe(1)
        }
  })
})

const bench = (unit: Partial<KwpUnitForm> = {}, tester: Partial<KwpForm> = {}, baudRate = 10_400) =>
  wireBench({ unit, tester, baudRate })
const version = async ({ tester, client }: Awaited<ReturnType<typeof bench>>) => {
  await tester.wake()
  return Buffer.from(await client.readData(0xf190)).toString()
}

describe('a controller', () => {
  const shapes: KwpShape[] = [true, false].flatMap((addresses) =>
    (['either', 'format', 'byte'] as const).map((length) => ({ addresses, length })),
  )
  it.each(shapes)('of another shape is spoken to as its key bytes say: %o', async (shape) => {
    for (const wake of ['fast', 'five-baud'] as const)
      expect(await version(await bench({ shape }, { wake }))).toBe('LM-7')
  })
  it.each(shapes)('is not heard in a shape that it has not: %o', async (shape) => {
    const other = { addresses: !shape.addresses, length: shape.length }
    await expect(version(await bench({ shape }, { shape: other }))).rejects.toMatchObject({
      facts: { kind: 'kwp-no-wake' },
    })
  })
  it('says how much a message to it carries, once it is awake', async () => {
    const { tester } = await bench({ shape: { addresses: true, length: 'format' } })
    expect(tester.longest!()).toBe(255)
    await tester.wake()
    expect(tester.longest!()).toBe(63)
  })
  it('that keeps the standard’s times is spoken to by them, asked for others or not', async () => {
    const quick = await bench()
    const asked = await bench({ keepsTimes: true })
    const never = await bench({ keepsTimes: true }, { timing: 'standard' })
    const took = async (on: Awaited<ReturnType<typeof bench>>) => {
      await on.tester.wake()
      const from = on.clock.now()
      await on.client.readData(0xf190)
      return on.clock.now() - from
    }
    // ISO 14230-2: 55 ms of rest (P3), then 5 ms between the seven bytes of the request (P4).
    expect(await took(quick)).toBeLessThan(25)
    for (const each of [asked, never]) {
      const ms = await took(each)
      expect(ms).toBeGreaterThan(55 + 6 * 5)
      expect(ms).toBeLessThan(55 + 7 * 5 + 40)
    }
  })
  it('that is slow, as its key bytes say, is waited for', async () => {
    const slow = await bench({ isSlow: true })
    await slow.tester.wake()
    expect(Buffer.from(await slow.client.readData(0xf190)).toString()).toBe('LM-7')
  })
  it.each([9600, 4800, 1200])('at %i baud wakes both ways and answers', async (baud) => {
    for (const wake of ['fast', 'five-baud'] as const)
      expect(await version(await bench({}, { wake }, baud))).toBe('LM-7')
  })
})

describe('the older services (ISO 14230-3)', () => {
  type Document = Record<string, any>
  const document = (change: (drive: Document) => void = () => {}): Document => {
    const copy = structuredClone(demoFamilies.find(({ id }) => id === 'launch-motor')) as unknown as Document
    for (const { drive } of copy['links']) {
      if (drive?.speaks !== 'kwp') continue
      Object.assign(drive, {
        services: '14230',
        sessions: [0x85],
        eraseRoutine: '0x02',
        checkRoutine: '0x03',
        routineResults: true,
      })
      drive.page = [
        { field: 'deviceIdentifier', identification: '0x9A', as: 'ascii' },
        { field: 'serial', local: '0x81', as: 'ascii' },
        { field: 'hours', identifier: '0xF1A1', as: 'number' },
        { field: 'faults', faults: true, as: 'ascii' },
      ]
      change(drive)
    }
    return copy
  }
  const image = Uint8Array.from({ length: 3000 }, (_, at) => (at * 31 + (at >> 7)) & 0xff)
  const never = { raised: false }
  const silent = () => {}
  function controller(profile: Document, unit = profile, disturb?: (byte: number) => number | null) {
    const [family, own] = [readFamily(profile), readFamily(unit)]
    const linkOf = (of: typeof family) =>
      drivenLink({ ...of, links: of.links.filter(({ drive }) => drive?.speaks === 'kwp') })! as FamilyLink & {
        drive: DriveOf<'kwp'>
      }
    const component = componentOf(family)
    const clock = virtualClock(turn)
    const flash = new Uint8Array(memoryBytes(own)).fill(0xff)
    const lines = { deviceIdentifier: 'LM-80', serial: 'X-1', hours: '412', faults: '00C123' }
    const state = { flash, usedAh: 0, inBootloader: false, lines }
    const standIn = controllerUnit({
      id: 'x',
      name: 'controller',
      family: own,
      hardware: '1',
      serial: 'X-1',
      state,
      link: linkOf(own),
      ...(disturb ? { faults: { disturb } as never } : {}),
    })
    const link = linkOf(family)
    const driver = openLink(standIn.connect(clock).channel, clock, family, link, component)
    return { driver, clock, flash, link, at: applicationRegions(component)[0]!.address }
  }
  it.each<[string, (drive: Document) => void]>([
    ['results asked for', () => {}],
    ['results in the answer', (drive) => delete drive['routineResults']],
    ['a length in the format byte alone', (drive) => (drive['lengthIn'] = 'format')],
    ['heads without addresses', (drive) => (drive['addressed'] = false)],
    ['blocks of sixty bytes', (drive) => (drive['transferBytes'] = 60)],
    ['four bytes of address', (drive) => (drive['widths'] = { address: 4 })],
    ['the times of the standard', (drive) => (drive['timing'] = 'standard')],
  ])('write, compare and start a controller with %s', async (_, change) => {
    const profile = document(change)
    expect(checkFamily(profile).faults).toEqual([])
    const { driver, flash, at, clock, link } = controller(profile)
    await driver.open()
    const { lines } = await driver.page()
    // By services 1A, 21, 22 and 18.
    for (const value of ['LM-80', 'X-1', '412', 'C123']) expect(lines.join('\n')).toContain(value)
    expect(await driver.faults!.read()).toBe('C123')
    await driver.loader.attach()
    await driver.loader.erase({ address: at, length: 4096 }, silent)
    const from = clock.now()
    await driver.loader.write(at, image, silent, never)
    const { pageBytes = 256, programMsPerPage = 0 } = applicationRegions(componentOf(readFamily(profile)))[0]!
    const programMs = Math.ceil(image.length / pageBytes) * programMsPerPage
    const ratio = (clock.now() - from) / linkWriteMs(link as never, image.length, programMs)
    expect(ratio).toBeGreaterThan(0.8)
    expect(ratio).toBeLessThan(1.25)
    expect(isEqual(await driver.loader.verify(at, image))).toBe(true)
    expect(flash.subarray(0, image.length)).toEqual(image)
    const other = image.slice()
    other[17]! ^= 1
    expect((await driver.loader.verify(at, other)).outcome).toBe('different')
    expect(await driver.loader.read!({ address: at, length: 700 }, silent)).toEqual(image.subarray(0, 700))
    await driver.loader.startApplication()
    await driver.faults!.clear()
    expect(await driver.faults!.read()).toBe('none')
    await driver.close()
  })
  it.each<[string, (drive: Document) => void]>([
    ['another format of its image', (drive) => (drive['dataFormat'] = 0x10)],
    ['another width of its address', (drive) => (drive['widths'] = { address: 4 })],
  ])('refuse %s', async (_, change) => {
    const { driver, at } = controller(document(), document(change))
    await driver.open()
    await driver.loader.attach()
    const act = driver.loader
      .erase({ address: at, length: 4096 }, silent)
      .then(() => driver.loader.write(at, image, silent, never))
    await expect(act).rejects.toMatchObject({ facts: { kind: 'uds-refused' } })
  })
  it('a block whose answer is lost is not sent twice: it has no number', async () => {
    const sent: string[] = []
    let answers: Uint8Array[] = []
    const transport: Transport = {
      name: 'line',
      send: async (message) => {
        sent.push(hexOf(message))
        const [id = 0] = message
        if (id === 0x36) return
        answers = [Uint8Array.of(id + 0x40, message[1] ?? 0)]
      },
      receive: async () => answers.shift() ?? null,
      clear: async () => {},
    }
    const clock = virtualClock(turn)
    const unit = olderClient(transport, clock)
    expect(unit.repeats).toBe(false)
    await expect(unit.transfer(1, bytes('01 02'))).rejects.toMatchObject({ facts: { kind: 'uds-silent' } })
    expect(sent).toEqual(['360102'])
  })
  it.each<[string, string, (drive: Document) => void]>([
    ['a routine of two bytes', 'eraseRoutine', (drive) => (drive['eraseRoutine'] = '0x0102')],
    ['results by the newer services', 'routineResults', (drive) => delete drive['services']],
    ['a session of the older services by the newer', 'sessions.0', (drive) => delete drive['services']],
    [
      'local data by the newer services',
      'page.1',
      (drive) => {
        Object.assign(drive, { sessions: [3, 2] })
        delete drive['services']
        delete drive['routineResults']
      },
    ],
  ])('%s is a fault of the profile', (_, at, change) => {
    const { faults } = checkFamily(document(change))
    expect(faults.map((each) => each.at).join(' ')).toContain(at)
  })

  // scapy's layer of ISO 14230-3 reads what we send: names and fields are its own, none of ours.
  it('are what another library reads in them', async () => {
    const sent: string[] = []
    const transport: Transport = {
      name: 'line',
      send: async (message) => void sent.push(hexOf(message)),
      receive: async () => null,
      clear: async () => {},
    }
    const unit = olderClient(transport, virtualClock(turn))
    const acts = [
      () => unit.session(0x85),
      () => unit.identification!(0x9a),
      () => unit.readLocal!(0x81),
      () => unit.readData(0xf18c),
      () => unit.readFaults(0xff),
      () => unit.clearFaults(),
      () => unit.startRoutine(0x02, bytes('010000 001000')),
      () => unit.requestDownload(0x010000, 0x1000),
      () => unit.transfer(1, bytes('AABB')),
      () => unit.transferExit(),
      () => unit.testerPresent(),
      () => unit.reset(1),
    ]
    for (const act of acts) {
      const error = await act().catch((reason: unknown) => reason)
      expect(isProblem(error, 'uds-silent')).toBe(true)
    }
    const script = [
      'import sys, json',
      'from scapy.contrib.automotive.kwp import KWP',
      'for text in sys.argv[1:]:',
      '    packet = KWP(bytes.fromhex(text))',
      '    inner = packet.payload',
      '    print(packet.sprintf("%KWP.service%"), type(inner).__name__, {f.name: getattr(inner, f.name) for f in getattr(inner, "fields_desc", [])})',
    ].join('\n')
    const read = execFileSync('/usr/bin/python3', ['-c', script, ...sent], { encoding: 'utf8' })
      .trim()
      .split('\n')
    expect(read.map((line) => line.split(' ')[0])).toEqual([
      'StartDiagnosticSession',
      'ReadECUIdentification',
      'ReadDataByLocalIdentifier',
      'ReadDataByIdentifier',
      'ReadDiagnosticTroubleCodesByStatus',
      'ClearDiagnosticInformation',
      'StartRoutineByLocalIdentifier',
      'RequestDownload',
      'TransferData',
      'RequestTransferExit',
      'TesterPresent',
      'ECUReset',
    ])
    expect(read[7]).toMatch(
      /'memoryAddress': 65536, 'compression': 0, 'encryption': 0, 'uncompressedMemorySize': 4096/,
    )
  })
})
