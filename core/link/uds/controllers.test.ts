/* eslint-disable @typescript-eslint/no-explicit-any -- profiles are changed by member */
import { checkFamily, componentOf, drivenLink, readFamily, type Family } from '@bench-wake/core/family'
import { practiceForm, standInOf, unitMemoryOf } from '@bench-wake/standins'
import { twoControllers, twoControllersDocument } from '@bench-wake/testing/two-controllers'
import { describe, expect, it } from 'vitest'
import { hexOf, virtualClock } from '../../kernel'
import {
  isEqual,
  linkPageMs,
  openLink,
  speechOf,
  tapChannel,
  traceRows,
  type LinkDriver,
  type TraceRow,
} from '..'
import type { Person } from '../person'
import { controllersOf, severalControllers } from './controllers'

const turn = () => new Promise<void>((done) => setImmediate(done))
const never = { raised: false }
const facts = { versions: { drive: '3.6', charger: '1.0' }, hardwareMajor: 2 }

/** A unit whose controllers both run, and its link as it is opened for one of its components. */
function bench(component: string, family: Family = twoControllers(), played: Family = family) {
  const clock = virtualClock(turn, Date.UTC(2026, 10, 24, 8))
  const { hardware, flash, lines } = practiceForm(played, 'LM-1', facts as never, { layout: 'L-204' })
  const state = { flash, usedAh: 0, inBootloader: false, lines }
  const unit = standInOf({ id: 'x', name: 'Launch', family: played, hardware, serial: 'LM-1', state })
  const link = drivenLink(family)!
  const read = traceRows(speechOf(link))
  const rows: TraceRow[] = []
  const sent: string[] = []
  const channel = tapChannel(unit.connect(clock).channel, clock, (event) => {
    rows.push(...read(event))
    if (event.what === 'data' && event.direction === 'out')
      sent.push(Buffer.from(event.bytes, 'hex').toString('latin1'))
  })
  const driver: LinkDriver = openLink(channel, clock, family, link, componentOf(family, component))
  return { driver, family, flash, rows, sent, clock }
}
const linesOf = ({ lines }: { lines: string[] }) => lines.join('\n')

describe('a unit of several controllers on one bus', () => {
  it('has one page, of what each says', async () => {
    const { driver } = bench('drive')
    await driver.open()
    const page = linesOf(await driver.page())
    expect(page).toContain('Program: 3.6')
    expect(page).toContain('Charger: 1.0')
    await driver.close()
  })
  it.each(['drive', 'charger'])(
    'opened for %s writes into that one, and leaves the other alone',
    async (id) => {
      const { driver, family, flash } = bench(id)
      const other = id === 'drive' ? 'charger' : 'drive'
      const before = hexOf(unitMemoryOf(family, flash, other))
      const image = Uint8Array.from({ length: 3000 }, (_, at) => (at * 31 + 5) & 255)
      await driver.open()
      await driver.loader.attach()
      await driver.loader.erase!({ address: 0x10000, length: 0x4000 }, () => {})
      await driver.loader.write(0x10000, image, () => {}, never)
      expect(isEqual(await driver.loader.verify(0x10000, image))).toBe(true)
      expect(hexOf(unitMemoryOf(family, flash, id).subarray(0, 3000))).toBe(hexOf(image))
      expect(hexOf(unitMemoryOf(family, flash, other))).toBe(before)
      await driver.close()
    },
  )
  it('one after the other over one joined link, each by its own identifiers and services', async () => {
    const { driver, family, flash, sent } = bench('drive')
    await driver.open()
    for (const [index, id] of ['drive', 'charger'].entries()) {
      const loader = driver.loaderOf!(componentOf(family, id))
      const image = Uint8Array.from({ length: 900 }, (_, at) => (at * 7 + index) & 255)
      sent.length = 0
      await loader.attach()
      // Sessions 3, then 2 by 7E0; session 2 alone by 7E2.
      const sessions = sent.join('').match(/t7E[02]80210\d\d/g)
      expect(sessions).toEqual(id === 'drive' ? ['t7E08021003', 't7E08021002'] : ['t7E28021002'])
      await loader.erase!({ address: 0x10000, length: 0x4000 }, () => {})
      await loader.write(0x10000, image, () => {}, never)
      expect(unitMemoryOf(family, flash, id).subarray(0, 900)).toEqual(image)
      // Who it is stands on the whole page, whichever controller is in hand.
      expect((await loader.identify()).join('\n')).toContain(
        id === 'drive' ? 'Charger: 1.0' : 'Controller: LM-80',
      )
    }
    await driver.close()
  })
  it('starts every controller again that was held in its boot, and no other', async () => {
    for (const used of [['drive', 'charger'], ['charger'], ['drive']]) {
      const { driver, family, sent } = bench('drive')
      await driver.open()
      for (const id of used) {
        const loader = driver.loaderOf!(componentOf(family, id))
        await loader.erase!({ address: 0x10000, length: 0x1000 }, () => {})
      }
      sent.length = 0
      await driver.loaderOf!(componentOf(family, used.at(-1)!)).startApplication()
      expect(sent.join('').match(/t7E[02]8021101/g)).toEqual(
        used.map((id) => (id === 'drive' ? 't7E08021101' : 't7E28021101')),
      )
      await driver.close()
    }
  })
  it('starts the one in hand where a leg before it left them in their boot', async () => {
    const { driver, family, sent } = bench('drive')
    await driver.open()
    await driver.loaderOf!(componentOf(family, 'charger')).startApplication()
    expect(sent.join('').match(/t7E[02]8021101/g)).toEqual(['t7E28021101'])
    await driver.close()
  })
  it('shows the messages of both in words', async () => {
    const { driver, rows } = bench('drive')
    await driver.open()
    await driver.page()
    await driver.close()
    expect(rows.map(({ says }) => says)).toContain('read data by identifier 0xF195, done')
  })
  it('of which a further one is silent has no line of it; silence of the first is the unit’s', async () => {
    const document = twoControllersDocument()
    const away = structuredClone(document)
    away.links[0].drive.controllers[0].requestId = '0x7E4'
    const silent = bench('drive', readFamily(document), readFamily(away))
    await silent.driver.open()
    const page = linesOf(await silent.driver.page())
    expect(page).toContain('Program: 3.6')
    expect(page).not.toContain('Charger')
    await expect(
      silent.driver.loaderOf!(componentOf(silent.family, 'charger')).attach(),
    ).rejects.toMatchObject({
      facts: { kind: 'no-bootloader' },
    })
    await silent.driver.close()
    const gone = structuredClone(document)
    gone.links[0].drive.requestId = '0x7E4'
    const first = bench('drive', readFamily(document), readFamily(gone))
    await first.driver.open()
    await expect(first.driver.page()).rejects.toMatchObject({ facts: { kind: 'uds-silent' } })
    await first.driver.close()
  })
  it('has the fault codes of all, and they are cleared in all', async () => {
    const { driver, family } = bench('drive')
    await driver.open()
    const loader = driver.loaderOf!(componentOf(family, 'charger'))
    await loader.attach()
    await loader.erase!({ address: 0x10000, length: 0x1000 }, () => {})
    expect(await driver.faults!.read()).toBe('C10000')
    await driver.faults!.clear()
    expect(await driver.faults!.read()).toBe('none')
    await driver.close()
  })
})

describe('several drivers as one', () => {
  const fake = (more: Partial<LinkDriver>): LinkDriver => ({
    ...bench('drive').driver,
    page: async () => ({ lines: ['A: 1'], inBootloader: false }),
    ...more,
  })
  const kept = (codes: string) => ({ read: async () => codes, clear: async () => {} })
  const component = componentOf(twoControllers(), 'drive')
  const both = (first: LinkDriver, second: LinkDriver) =>
    severalControllers([{ driver: first }, { component: 'charger', driver: second }], component)

  it('name the codes of both, and "none" only where neither has one', async () => {
    const read = (a: string, b: string) =>
      both(fake({ faults: kept(a) }), fake({ faults: kept(b) })).faults!.read()
    expect(await read('C10000', '0123AB')).toBe('C10000, 0123AB')
    expect(await read('none', '0123AB')).toBe('0123AB')
    expect(await read('none', 'none')).toBe('none')
  })
  it('pass on whatever is no silence', async () => {
    const broken = fake({ page: () => Promise.reject(new Error('broken')) })
    await expect(both(fake({}), broken).page()).rejects.toThrow('broken')
  })
  it('one alone is itself', () => {
    const own = fake({})
    expect(severalControllers([{ driver: own }], component)).toBe(own)
  })
  it('whichever asks for a typed key, the same person is asked', async () => {
    const document = twoControllersDocument()
    const { services } = document.links[0].drive.controllers[0]
    delete services.key
    services.keyTyped = true
    const { driver, family } = bench('charger', readFamily(document))
    const asked: string[] = []
    driver.withPerson!({
      // A practice unit takes the seed itself for the key.
      async type({ says }: { says: string }) {
        asked.push(says)
        return /Its seed is ([0-9A-F ]+)\./.exec(says)![1]!.replaceAll(' ', '')
      },
    } satisfies Pick<Person, 'type'> as unknown as Person)
    await driver.open()
    await driver.loaderOf!(componentOf(family, 'charger')).attach()
    expect(asked).toHaveLength(1)
    expect(asked[0]).toContain('level 3')
    await driver.close()
  })
})

describe('a further controller in a profile', () => {
  it('is on the same bus: what that wants of every frame is wanted of its frames', () => {
    const document = twoControllersDocument()
    Object.assign(document.links[0].drive, { extended: true, padding: 0, functionalId: '0x7DF' })
    const of = (each: any) => {
      const { drive } = drivenLink(readFamily(each))!
      return drive.speaks === 'uds' ? controllersOf(drive)[1]!.drive : null
    }
    expect(of(document)).toMatchObject({
      extended: true,
      padding: 0,
      functionalId: 0x7df,
      bitsPerSecond: 500_000,
    })
    const plain = of(twoControllersDocument())!
    expect(['extended', 'padding', 'functionalId'].filter((name) => name in plain)).toEqual([])
  })
  it('has the services of the first where it says none of its own, and never its page or what that sends', () => {
    const document = twoControllersDocument()
    delete document.links[0].drive.controllers[0].services
    const { drive } = drivenLink(readFamily(document))!
    if (drive.speaks !== 'uds') throw new TypeError()
    const [first, second] = controllersOf(drive)
    expect(second!.drive).toMatchObject({ requestId: 0x7e2, eraseRoutine: 0xff00, checkRoutine: 0x0202 })
    expect(second!.drive.key).toEqual(first!.drive.key)
    expect(second!.drive.page.map(({ field }) => field)).toEqual(['version.charger'])
    expect(second!.drive.periodic).toBeUndefined()
  })
  it('with services of its own takes none of the first’s over', () => {
    const document = twoControllersDocument()
    document.links[0].drive.controllers[0].services = { eraseRoutine: '0xFF00', checkRoutine: '0x0301' }
    const { drive } = drivenLink(readFamily(document))!
    const second = drive.speaks === 'uds' ? controllersOf(drive)[1]!.drive : null
    expect(second).toMatchObject({ checkRoutine: 0x0301 })
    expect([second!.securityLevel, second!.key]).toEqual([undefined, undefined])
  })
  const cases: [string, (controller: any, drive: any) => void, string, RegExp][] = [
    ['of no component', (c) => (c.component = 'engine'), 'controllers.0.component', /no component "engine"/],
    [
      'that all components have',
      (_, d) =>
        d.controllers.push({
          ...d.controllers[0],
          component: 'drive',
          requestId: '0x7E3',
          page: [{ field: 'hours', identifier: '0xF1', as: 'hex' }],
        }),
      'controllers',
      /leave it out here/,
    ],
    [
      'at the first one’s identifier',
      (c) => ((c.requestId = '0x7E0'), (c.answerId = '0x7E8')),
      'controllers.0.requestId',
      /one of its identifiers/,
    ],
    [
      'that answers as the first one does',
      (c) => (c.answerId = '0x7E8'),
      'controllers.0.requestId',
      /one of its/,
    ],
    [
      'that is asked as the first one answers',
      (c) => (c.requestId = '0x7E8'),
      'controllers.0.requestId',
      /one of its/,
    ],
    [
      'that answers as the first one is asked',
      (c) => (c.answerId = '0x7E0'),
      'controllers.0.requestId',
      /one of its/,
    ],
    [
      'with an address beside one without',
      (c) => (c.addresses = { target: '0x11', source: '0xF1' }),
      'controllers.0.addresses',
      /or none has/,
    ],
    [
      'twice for one component',
      (_, d) =>
        d.controllers.push({
          ...d.controllers[0],
          requestId: '0x7E3',
          page: [{ field: 'hours', identifier: '0xF1', as: 'hex' }],
        }),
      'controllers.1.component',
      /holds "charger"/,
    ],
    [
      'that says a line of the first',
      (c) => (c.page[0].field = 'version.drive'),
      'controllers.0.page.0.field',
      /says "version.drive"/,
    ],
    [
      'with a line that no snapshot has',
      (c) => (c.page[0].field = 'colour'),
      'controllers.0.page.0.field',
      /no line "colour"/,
    ],
    [
      'with a line of the older services',
      (c) => (c.page[0] = { field: 'version.charger', local: '0x10', as: 'hex' }),
      'controllers.0.page.0',
      /older services/,
    ],
    [
      'with a key and a typed key',
      (c) => (c.services.keyTyped = true),
      'controllers.0.services.keyTyped',
      /nobody types it/,
    ],
    [
      'with a session that asks for no answer',
      (c) => (c.services.sessions = [128]),
      'controllers.0.services.sessions.0',
      /127/,
    ],
  ]
  it.each(cases)('%s is refused at its place', (_, change, at, says) => {
    const document = twoControllersDocument()
    const { drive } = document.links[0]
    change(drive.controllers[0], drive)
    const { faults } = checkFamily(document)
    expect(faults.map((each) => [each.at, each.says])).toContainEqual([
      `links.0.drive.${at}`,
      expect.stringMatching(says),
    ])
  })
  it('two that share identifiers and differ by their address are told apart', () => {
    const document = twoControllersDocument()
    const { drive } = document.links[0]
    drive.addresses = { target: '0x10', source: '0xF1' }
    Object.assign(drive.controllers[0], {
      requestId: drive.requestId,
      answerId: drive.answerId,
      addresses: { target: '0x11', source: '0xF1' },
    })
    expect(checkFamily(document).faults).toEqual([])
  })
  it('its lines count in the time of the page', () => {
    const alone = twoControllersDocument()
    delete alone.links[0].drive.controllers
    const [both, one] = [twoControllers(), readFamily(alone)].map((family) => linkPageMs(drivenLink(family)!))
    // Eight lines against seven, each as long.
    expect(both! / one!).toBeCloseTo(8 / 7)
  })
})
