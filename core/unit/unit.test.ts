import { demoFamily, fogSignalFamily } from '@bench-wake/demo'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import semver from 'semver'
import {
  clockJumps,
  compareVersions,
  explainOrder,
  factsOf,
  knownPage,
  lineOf,
  newestSnapshot,
  readPage,
  readSnapshot,
  versionLine,
} from '.'

const page = [
  'device   FS-20',
  'main 2.41',
  'hardware 3.1',
  'serial FS3-00417',
  'lamp hours 210',
  'built 2025-03-04T10:12Z',
]

describe('a snapshot', () => {
  const snapshot = readSnapshot(fogSignalFamily, page, 1000, 'link')
  // PRACTICE A1, common practice: all lines of the page are kept, in the order of the page.
  it('keeps every line, also those the family does not know', () => {
    expect(snapshot.lines).toHaveLength(page.length)
    expect(snapshot.lines.map((line) => line.field).slice(0, 3)).toEqual([
      'deviceIdentifier',
      'hardware',
      'serial',
    ])
    expect(
      snapshot.lines.some((line) => line.field.startsWith('other') && line.value === 'lamp hours 210'),
    ).toBe(true)
  })
  it('tells the facts that fit rests on, and leaves unknown what was not said', () => {
    expect(factsOf(snapshot)).toMatchObject({
      deviceIdentifier: 'FS-20',
      hardwareMajor: 3,
      versions: { main: '2.41' },
    })
    const bare = factsOf(readSnapshot(fogSignalFamily, ['lamp on'], 1, 'label'))
    expect(bare.hardwareMajor).toBeUndefined()
    expect(bare.versions).toEqual({})
    expect(factsOf(undefined)).toEqual({ versions: {} })
  })
  it('that was recorded last counts, whatever the clock said', () => {
    const ahead = readSnapshot(fogSignalFamily, ['main 2.30'], 9_000_000, 'link')
    expect(lineOf(newestSnapshot([ahead, snapshot]), 'version.main')).toBe('2.41')
    expect(lineOf(knownPage([ahead, snapshot]), 'version.main')).toBe('2.41')
    expect(lineOf(knownPage([snapshot, ahead]), 'version.main')).toBe('2.30')
    expect(newestSnapshot([])).toBeUndefined()
  })
  it('shows where the clock was set back, and not a second between two programs', () => {
    const at = (...times: number[]) => clockJumps(times.map((time) => ({ at: time })))
    expect(at(1000, 9_000_000, 5000)).toEqual([{ from: 9_000_000, to: 5000 }])
    expect(at(1000, 2000, 1000)).toEqual([])
    expect(at(1000, 2001, 1000)).toEqual([{ from: 2001, to: 1000 }])
    expect(at()).toEqual([])
  })
  it('of the bootloader keeps what the firmware last said: a unit there has no version of its own', () => {
    const waiting = {
      ...readSnapshot(fogSignalFamily, ['hardware 3.1'], 2000, 'link'),
      inBootloader: true as const,
    }
    const facts = factsOf(knownPage([snapshot, waiting]), fogSignalFamily)
    expect(facts).toMatchObject({
      inBootloader: true,
      hardwareMajor: 3,
      versions: { main: '2.41' },
      readAt: 2000,
    })
    // What the firmware said after it counts alone again.
    const after = readSnapshot(fogSignalFamily, ['main 2.48'], 3000, 'link')
    expect(factsOf(knownPage([snapshot, waiting, after]), fogSignalFamily)).toEqual({
      readAt: 3000,
      source: 'link',
      versions: { main: '2.48' },
    })
    expect(factsOf(knownPage([waiting]), fogSignalFamily).versions).toEqual({})
  })
})

describe('versions of dotted integers', () => {
  // PRACTICE A1 and the trade's own trap: 1.9 is older than 1.10 (common practice).
  it.each([
    ['1.9', '1.10', 'older'],
    ['2.48', '2.41', 'newer'],
    ['2.0', '2', 'same'],
    ['5.2.1', '5.2.0', 'newer'],
    ['2.48', '2.48', 'same'],
    ['2.48b', '2.48', 'not-comparable'],
    ['', '2.48', 'not-comparable'],
  ] as const)('%s against %s is %s', (first, second, order) => {
    expect(compareVersions('dotted', first, second)).toBe(order)
  })
  it('are ordered the same way round from both sides', () => {
    const version = fc.array(fc.nat(99), { minLength: 1, maxLength: 4 }).map((parts) => parts.join('.'))
    const mirror = { older: 'newer', newer: 'older', same: 'same', 'not-comparable': 'not-comparable' }
    fc.assert(
      fc.property(version, version, (a, b) => {
        expect(compareVersions('dotted', a, b)).toBe(mirror[compareVersions('dotted', b, a)])
      }),
    )
  })
  it('are not guessed under a scheme without order', () => {
    expect(compareVersions('opaque', 'amber', 'birch')).toBe('not-comparable')
    expect(compareVersions('opaque', 'amber', 'amber')).toBe('same')
  })
})

describe('every scheme of versions', () => {
  // Common practice (PRACTICE A1, A4, B5); decimals turn the order of 1.9 and 1.10 round.
  it.each([
    ['decimal', '1.9', '1.10', 'newer'],
    ['decimal', '1.1', '1.10', 'same'],
    ['decimal', '2', '1.99', 'newer'],
    ['lettered', '4.07', '4.07b', 'older'],
    ['lettered', '4.07b', '4.08', 'older'],
    ['lettered', '4.07z', '4.07aa', 'older'],
    ['line', '31.07', '31.10', 'older'],
    ['line', '31.07', '58.04', 'not-comparable'],
    ['date', '2025-11-03', '20260316', 'older'],
    ['date', '2 Sep 2026', '2026-09-02', 'same'],
    ['date', '30/10/2026', '2026-10-30', 'same'],
    ['date', '03/04/2026', '2026-10-30', 'not-comparable'],
    ['date', '2026-02-30', '2026-10-30', 'not-comparable'],
    ['opaque', 'AMBER', 'BIRCH', 'not-comparable'],
    ['dotted', 'v2', '2.1', 'not-comparable'],
  ] as const)('%s: %s against %s is %s', (scheme, first, second, order) => {
    expect(compareVersions(scheme, first, second)).toBe(order)
  })
  it('says why where nobody can say', () => {
    expect(explainOrder('date', '03/04/2026', '2026-10-30').because).toMatch(/could be two days/)
    expect(explainOrder('line', '31.07', '58.04').because).toMatch(/two lines, not two ages/)
    expect(explainOrder('dotted', '1.9', '1.10').because).toMatch(/1\.9 is older than 1\.10/)
    expect(versionLine('31.07')).toBe('31')
  })
  // Source: Semantic Versioning 2.0.0, clause 11, its own chain of examples.
  it('semver: the standard’s own chain', () => {
    const chain =
      '1.0.0-alpha 1.0.0-alpha.1 1.0.0-alpha.beta 1.0.0-beta 1.0.0-beta.2 1.0.0-beta.11 1.0.0-rc.1 1.0.0 2.0.0 2.1.0 2.1.1'.split(
        ' ',
      )
    for (let at = 1; at < chain.length; at++) {
      expect(compareVersions('semver', chain[at - 1]!, chain[at]!), `${chain[at - 1]} < ${chain[at]}`).toBe(
        'older',
      )
    }
    expect(compareVersions('semver', '1.0.0+a', '1.0.0+b')).toBe('same')
  })
  // Reference: the npm package semver.
  it('semver: as the reference library orders any two', () => {
    const number = fc.nat(12)
    const part = fc.oneof(fc.nat(20).map(String), fc.constantFrom('alpha', 'beta', 'rc', 'x-1'))
    const version = fc
      .tuple(number, number, number, fc.array(part, { maxLength: 3 }))
      .map(([a, b, c, pre]) => `${a}.${b}.${c}${pre.length ? `-${pre.join('.')}` : ''}`)
    const order = { '-1': 'older', 0: 'same', 1: 'newer' } as const
    fc.assert(
      fc.property(version, version, (a, b) => {
        expect(compareVersions('semver', a, b)).toBe(order[semver.compare(a, b)])
      }),
      { numRuns: 500 },
    )
    fc.assert(
      fc.property(fc.string({ maxLength: 14 }), (text) => {
        if (semver.parse(text.trim()) || /^v/.test(text.trim())) return
        expect(text.trim() !== '' && compareVersions('semver', text, '1.0.0')).not.toBe('newer')
      }),
    )
  })
})

describe('a page of text', () => {
  const inverter = demoFamily('station-inverter')
  // PRACTICE A1: model, hardware, serial and the version of every component, as the menu writes them.
  it('is read by the labels of the family, however the menu lays them out', () => {
    const page = readPage(
      inverter,
      'SERVICE\r\nModel: LI-50\r\nHardware .... 5.2\r\nSerial = LI-20044\r\nProcessor A\t3.4\r\nProcessor B   3.3\r\nFan hours: 12\r\n',
      5,
      'menu',
    )
    expect(Object.fromEntries(page.lines.map(({ field, value }) => [field, value]))).toMatchObject({
      model: 'LI-50',
      hardware: '5.2',
      serial: 'LI-20044',
      'version.power': '3.4',
      'version.panel': '3.3',
    })
    // What the family does not know is kept too.
    expect(page.lines.map(({ value }) => value)).toEqual(expect.arrayContaining(['SERVICE', 'Fan hours: 12']))
    expect(factsOf(page, inverter)).toMatchObject({
      model: 'LI-50',
      hardwareMajor: 5,
      versions: { power: '3.4', panel: '3.3' },
    })
  })
  it('never takes a line for another whose name begins alike', () => {
    const page = readPage(fogSignalFamily, 'Main firmware date: 2025-03-04', 1, 'menu')
    expect(lineOf(page, 'version.main')).toBeUndefined()
  })
})

describe('what is known of a unit', () => {
  const line = (field: string, value: string) => ({ field, label: field, value })
  it('joins the newest page with what label and chip show for good', () => {
    const known = knownPage([
      { at: 1, source: 'label', lines: [line('serial', 'BP-1'), line('batch', 'K3')] },
      { at: 2, source: 'app', lines: [line('version.bms', '31.05'), line('faults', 'none')] },
      { at: 3, source: 'app', lines: [line('version.bms', '31.07')] },
    ])!
    expect(Object.fromEntries(known.lines.map(({ field, value }) => [field, value]))).toEqual({
      serial: 'BP-1',
      batch: 'K3',
      'version.bms': '31.07',
    })
    expect(known.source).toBe('app')
  })
  // PRACTICE A3: sometimes only the processor's marking settles it; two signs that disagree settle nothing.
  it('is no revision at all where two signs disagree', () => {
    const beacon = demoFamily('beacon-receiver')
    const sign = beacon.hardware.revisions.map(({ markings }) => markings![0]!)
    const both = {
      at: 1,
      source: 'chip-marking' as const,
      lines: [line(sign[0]!.field, sign[0]!.startsWith)],
    }
    expect(factsOf(both, beacon).hardwareMajor).toBe(beacon.hardware.revisions[0]!.major)
    const battery = demoFamily('buoy-battery')
    expect(factsOf({ at: 1, source: 'app', lines: [line('version.bms', '44.10')] }, battery)).toMatchObject({
      unknownSign: expect.stringMatching(/44\.10/),
    })
  })
})
