/* eslint-disable @typescript-eslint/no-explicit-any -- profiles are changed by member */
import { demoFamilies } from '@bench-wake/demo'
import { canBus, controllerUnit, memoryBytes } from '@bench-wake/standins'
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
import { openLink } from '../drive'
import { isoTp } from '../isotp'
import { askUds, keyOfSeed, udsClient, udsRange } from '.'

/* Controllers of other shapes than the demo's: each in a profile, and its stand-in as the controller (ISO 14229-1). */
const turn = () => new Promise<void>((done) => setImmediate(done))
type Document = Record<string, any>
const shaped = (change: (drive: Document) => void, speaks = 'uds'): Document => {
  const document = structuredClone(
    demoFamilies.find(({ id }) => id === 'launch-motor'),
  ) as unknown as Document
  for (const { drive } of document['links']) if (drive?.speaks === speaks) change(drive)
  return document
}
const never = { raised: false }
const silent = () => {}
const image = Uint8Array.from({ length: 3000 }, (_, at) => (at * 31 + (at >> 7)) & 0xff)

/** @param unit the controller's own profile, where it is another than the bench's. */
function controller(document: Document, unit = document) {
  const family = readFamily(document)
  const own = readFamily(unit)
  const linkOf = (of: typeof family) =>
    drivenLink({ ...of, links: of.links.filter(({ drive }) => drive?.speaks === 'uds') })! as FamilyLink & {
      drive: DriveOf<'uds'>
    }
  const component = componentOf(family)
  const clock = virtualClock(turn)
  const flash = new Uint8Array(memoryBytes(own)).fill(0xff)
  const state = { flash, usedAh: 0, inBootloader: true, lines: {} }
  const standIn = controllerUnit({
    id: 'x',
    name: 'controller',
    family: own,
    hardware: '2',
    serial: 'X-1',
    state,
    link: linkOf(own),
  })
  const driver = openLink(standIn.connect(clock).channel, clock, family, linkOf(family), component)
  return { driver, clock, flash, at: applicationRegions(component)[0]!.address }
}
async function written({ driver, at, flash }: ReturnType<typeof controller>) {
  await driver.open()
  await driver.loader.attach()
  await driver.loader.erase({ address: at, length: 4096 }, silent)
  await driver.loader.write(at, image, silent, never)
  const proved = isEqual(await driver.loader.verify(at, image))
  expect(flash.subarray(0, image.length)).toEqual(image)
  await driver.loader.startApplication()
  await driver.close()
  return proved
}

const shapes: [string, (drive: Document) => void][] = [
  [
    'identifiers of 29 bits',
    (drive) => Object.assign(drive, { extended: true, requestId: '0x18DA10F1', answerId: '0x18DAF110' }),
  ],
  ['a request that all hear', (drive) => (drive['functionalId'] = '0x7DF')],
  ['frames that are filled with 55', (drive) => (drive['padding'] = 0x55)],
  ['frames as short as what they carry', (drive) => (drive['padding'] = 'none')],
  [
    'a byte of address before each frame',
    (drive) =>
      Object.assign(drive, {
        functionalId: '0x7DF',
        addresses: { target: '0x10', source: '0xF1', functional: '0xFE' },
      }),
  ],
  ['two bytes of length', (drive) => (drive['widths'] = { address: 4, length: 2 })],
  ['a packed image', (drive) => (drive['dataFormat'] = 0x10)],
  ['sessions of its own', (drive) => (drive['sessions'] = [3, 0x60, 0x42])],
  ['one session alone', (drive) => (drive['sessions'] = [2])],
  ['no access asked for', (drive) => delete drive['securityLevel']],
  [
    'a fingerprint before it is erased',
    (drive) => (drive['fingerprint'] = { identifier: '0xF15A', bytes: '26 11 27 01' }),
  ],
  [
    'preconditions and dependencies',
    (drive) => {
      drive['before'] = [{ routine: '0x0203', answer: '00', says: 'The motor stands, the key is on.' }]
      drive['after'] = [{ routine: '0xFF01', answer: '..', says: 'The parts belong together.' }]
    },
  ],
]

describe('a controller', () => {
  it.each(shapes)('with %s is written and proved', async (_, change) => {
    const document = shaped(change)
    expect(checkFamily(document).faults).toEqual([])
    expect(await written(controller(document))).toBe(true)
  })
  it.each<[string, string, (drive: Document) => void]>([
    ['uds-refused', 'another width of its lengths', (drive) => (drive['widths'] = { length: 3 })],
    ['uds-refused', 'a packed image alone', (drive) => (drive['dataFormat'] = 0x10)],
    [
      'uds-refused',
      'a fingerprint first',
      (drive) => (drive['fingerprint'] = { identifier: '0xF15A', bytes: '00' }),
    ],
    ['no-bootloader', 'other identifiers', (drive) => (drive['requestId'] = '0x611')],
    [
      'no-bootloader',
      'a byte of address before each frame',
      (drive) => (drive['addresses'] = { target: '0x10', source: '0xF1' }),
    ],
    ['no-bootloader', 'identifiers of 29 bits', (drive) => (drive['extended'] = true)],
  ])(
    'is not written, with a Problem %s, where it wants %s and the profile says nothing of it',
    async (kind, _, change) => {
      const bench = controller(
        shaped(() => {}),
        shaped(change),
      )
      const error = await written(bench).catch((caught: unknown) => caught)
      expect(isProblem(error, kind)).toBe(true)
      expect(bench.flash.every((byte) => byte === 0xff)).toBe(true)
    },
  )
  it('that does not say well is not written: the routine’s own words, what was awaited, what came', async () => {
    const wants = (drive: Document) =>
      (drive['before'] = [{ routine: '0x0203', answer: '01 ..', says: 'The motor stands, the key is on.' }])
    const bench = controller(shaped(wants))
    await expect(written(bench)).rejects.toMatchObject({
      facts: {
        kind: 'uds-not-ready',
        says: 'The motor stands, the key is on',
        expected: '01 ..',
        found: '00',
      },
    })
    expect(bench.flash.every((byte) => byte === 0xff)).toBe(true)
  })
  it('is asked for its session once, as long as it stands: a second asking would shut its access', async () => {
    const bench = controller(
      shaped((drive) => (drive['fingerprint'] = { identifier: '0xF15A', bytes: '01' })),
    )
    const { driver, at, clock } = bench
    await driver.open()
    await driver.loader.attach()
    await driver.loader.erase({ address: at, length: 4096 }, silent)
    // Longer than a session stays open: it is opened anew, and the write goes on.
    await clock.sleep(6000)
    await driver.loader.write(at, image, silent, never)
    expect(isEqual(await driver.loader.verify(at, image))).toBe(true)
    await driver.close()
  })
})

describe('a key that a person types', () => {
  const byHand = () =>
    shaped((drive) => {
      delete drive['key']
      drive['keyTyped'] = true
    })
  /** @param keyOf what the person types for a seed, after the time that they take. */
  const typedBy = (keyOf: (seed: string) => string, tookMs = 0) => {
    // The controller itself knows the key of the demo.
    const made = controller(
      byHand(),
      shaped(() => {}),
    )
    const asked: string[] = []
    made.driver.withPerson!({
      ask: async () => {},
      tell: async () => {},
      async type({ says, as }) {
        asked.push(`${as}: ${says}`)
        await made.clock.sleep(tookMs)
        return keyOf(/seed is ([0-9A-F ]+)\./.exec(says)![1]!.replace(/ /g, ''))
      },
    })
    return { ...made, asked }
  }
  const demoKey = (seed: string) =>
    hexOf(
      keyOfSeed(
        bytesOfHex(seed),
        readFamily(shaped(() => {})).links.flatMap(({ drive }) =>
          drive?.speaks === 'uds' ? (drive.key ?? []) : [],
        ),
      ),
    )
  it('opens the controller; ISO 14229-2: S3 is five seconds, and the person may take a minute', async () => {
    const bench = typedBy(demoKey, 60_000)
    expect(checkFamily(byHand()).faults).toEqual([])
    expect(await written(bench)).toBe(true)
    expect(bench.asked[0]).toMatch(
      /^hex: The unit asks for the key of level 1\. Its seed is ([0-9A-F]{2} ?){4}\./,
    )
  })
  it('that is wrong is refused by the controller, and nothing is written', async () => {
    const bench = typedBy(() => '00000000')
    expect(isProblem(await written(bench).catch((error: unknown) => error), 'uds-refused')).toBe(true)
    expect(bench.flash.every((byte) => byte === 0xff)).toBe(true)
    expect(bench.asked).toHaveLength(1)
  })
  it('is no key where nobody is beside the unit, and where the profile does not want it typed', async () => {
    const alone = controller(
      byHand(),
      shaped(() => {}),
    )
    expect(isProblem(await written(alone).catch((error: unknown) => error), 'uds-no-key')).toBe(true)
    const none = shaped((drive) => delete drive['key'])
    const unsaid = controller(
      none,
      shaped(() => {}),
    )
    unsaid.driver.withPerson!({ ask: async () => {}, tell: async () => {}, type: async () => '00' })
    expect(isProblem(await written(unsaid).catch((error: unknown) => error), 'uds-no-key')).toBe(true)
  })
  it('is not both worked out and typed, and not typed where none is asked for', () => {
    const at = (change: (drive: Document) => void) =>
      checkFamily(shaped(change)).faults.map((fault) => fault.at)
    expect(at((drive) => (drive['keyTyped'] = true)).join()).toMatch(/^links\.\d\.drive\.keyTyped$/)
    const unasked = at((drive) => {
      delete drive['key']
      delete drive['securityLevel']
      drive['keyTyped'] = true
    })
    expect(unasked.join()).toMatch(/^links\.\d\.drive\.keyTyped$/)
  })
})

/** A controller on the bus that answers as told, and what it was asked. */
function told(answer: (request: Uint8Array, times: number) => number[] | null) {
  const clock = virtualClock(turn)
  const bus = canBus(clock, () => 500_000)
  const ours = isoTp(bus.join('tester'), clock, { sendId: 0x7e0, receiveId: 0x7e8 })
  const unit = isoTp(bus.join('unit'), clock, { sendId: 0x7e8, receiveId: 0x7e0 })
  const asked: Uint8Array[] = []
  void (async () => {
    for (;;) {
      const request = await unit.receive(Infinity)
      if (!request) continue
      asked.push(request)
      const says = answer(request, asked.length)
      if (says) await unit.send(Uint8Array.from(says))
    }
  })()
  return { clock, ours, asked }
}

describe('what a controller says of its time', () => {
  // Source: ISO 14229-1, annex A.1: 21 busyRepeatRequest, 78 requestCorrectlyReceived-ResponsePending.
  it('busy is asked again with the same request', async () => {
    const { clock, ours, asked } = told((_, times) =>
      times < 4 ? [0x7f, 0x22, 0x21] : [0x62, 0xf1, 0x90, 7],
    )
    expect([...(await udsClient(ours, clock).readData(0xf190))]).toEqual([7])
    expect(asked).toHaveLength(4)
    expect(new Set(asked.map(String)).size).toBe(1)
  })
  it('busy for ever ends', async () => {
    const { clock, ours } = told(() => [0x7f, 0x22, 0x21])
    const before = clock.now()
    const error = await udsClient(ours, clock)
      .readData(0xf190)
      .catch((caught: unknown) => caught)
    expect(isProblem(error, 'uds-refused')).toBe(true)
    expect(clock.now() - before).toBeLessThan(125_000)
  })
  it('a longer P2 in its session answer holds from then on', async () => {
    const slow = told((request) =>
      request[0] === 0x10 ? [0x50, request[1]!, 0x03, 0xe8, 0x07, 0xd0] : [0x62, 0xf1, 0x90, 1],
    )
    const client = udsClient(slow.ours, slow.clock)
    // 1 000 ms for an answer, and 20 s after "needs longer".
    await client.session(3)
    const late = told(() => null)
    const before = late.clock.now()
    await expect(askUds(late.ours, late.clock, Uint8Array.of(0x22, 0xf1, 0x90))).rejects.toMatchObject({
      facts: { kind: 'uds-silent' },
    })
    expect(late.clock.now() - before).toBeLessThan(200)
    const silentAfter = told((request) =>
      request[0] === 0x10 ? [0x50, request[1]!, 0x03, 0xe8, 0x07, 0xd0] : null,
    )
    const patient = udsClient(silentAfter.ours, silentAfter.clock)
    await patient.session(3)
    const begun = silentAfter.clock.now()
    await expect(patient.readData(0xf190)).rejects.toMatchObject({ facts: { kind: 'uds-silent' } })
    expect(silentAfter.clock.now() - begun).toBeGreaterThanOrEqual(1100)
    expect(silentAfter.clock.now() - begun).toBeLessThan(1200)
  })
})

// Source: ISO 14229-1, 34: addressAndLengthFormatIdentifier, the high digit the bytes of the length, the low of the address.
describe('address and length', () => {
  it.each([
    [{}, 0x0800_8000, 0x1234, [8, 0, 0x80, 0, 0, 0, 0x12, 0x34]],
    [{ address: 3, length: 2 }, 0x01_8000, 0x1234, [1, 0x80, 0, 0x12, 0x34]],
    [{ address: 1, length: 1 }, 0xff, 0xff, [0xff, 0xff]],
    [{ address: 2 }, 0xffff, 1, [0xff, 0xff, 0, 0, 0, 1]],
  ] as const)('%j', (widths, address, length, bytes) => {
    expect([...udsRange(address, length, { widths })]).toEqual(bytes)
  })
  it.each([
    [{ address: 3 }, 0x0100_0000, 1, 'address'],
    [{ length: 2 }, 0, 0x1_0000, 'length'],
  ] as const)('that do not fit are refused: %j', (widths, address, length, what) => {
    expect(() => udsRange(address, length, { widths })).toThrow(what)
  })
})
