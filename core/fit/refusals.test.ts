import { demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import type { Family } from '../family'
import type { UnitFacts } from '../unit'
import {
  judgeFit,
  judgeNeed,
  judgeRequest,
  judgeWay,
  newestFor,
  planPath,
  serialWithin,
  usualWorkshopRules,
  versionsOf,
  type WorkshopRules,
  type PathQuestion,
  type ShelfEntry,
} from '.'
import { advisory, fog, need, unit } from './fog-need.test-support'
import { fitMatrix, revisionColumns } from './matrix'

const davit = demoFamily('boat-davit')
const { main } = Object.fromEntries(fog.components.map((each) => [each.id, each])) as Record<
  string,
  Family['components'][number]
>

/** An image of a family that every standing rule lets pass, but for what is changed in its identity. */
const image = (version: string | undefined, change: object = {}, id = String(version)): ShelfEntry => {
  const identity: Record<string, unknown> = {
    familyId: fog.id,
    componentId: 'main',
    deviceIdentifier: fog.hardware.deviceIdentifier,
    hardwareMajor: 3,
    release: 'production',
    ...(version === undefined ? {} : { version }),
    ...change,
  }
  const region = main!.memory.regions.find(({ use }) => use === 'application')
  return {
    id,
    name: `image ${id}`,
    segments: [{ address: region!.address, length: 0x1000 }],
    identity: identity as unknown as NonNullable<ShelfEntry['identity']>,
    contentSha256: `digest of ${id}`,
  }
}
const withUpdates = (updates: Partial<Family['updates']>, downgrade?: 'refused' | 'allowed'): Family => ({
  ...fog,
  updates: { ...fog.updates, mandatoryVersions: [], noWayBack: [], ...updates },
  components: fog.components.map((component) =>
    downgrade
      ? { ...component, version: { ...component.version, downgrade } as typeof component.version }
      : component,
  ),
})

describe('is anything to be done? (PRACTICE A2, A6, A7)', () => {
  it.each([
    ['a fault whose cure is on the shelf', {}, 'do', 'go'],
    [
      'the shelf holds exactly what is on the unit',
      { newest: { main: '2.41' }, advisories: [] },
      'nothing',
      'hold',
    ],
    ['the shelf holds what is older', { newest: { main: '2.40' }, advisories: [] }, 'nothing', 'hold'],
    ['the cure is newer than all on the shelf', { newest: { main: '2.47' } }, 'do', 'note'],
    ['the shelf holds the cure and more', { newest: { main: '2.49' } }, 'do', 'go'],
    [
      'the unit has the cure already',
      { unit: { ...unit, versions: { main: '2.48' } }, newest: { main: '2.48' } },
      'nothing',
      'hold',
    ],
    [
      'the unit has more than the cure, and something newer lies there',
      { unit: { ...unit, versions: { main: '2.49' } }, newest: { main: '2.50' } },
      'do',
      'note',
    ],
    [
      'a word that is not among what was reported',
      { symptoms: [{ says: 'Door rattles', often: '', since: '' }] },
      'do',
      'note',
    ],
    ['a feature is asked for, and the advisory is of a fault', { reason: 'feature' }, 'do', 'note'],
    [
      'a feature is asked for that a release brings',
      { reason: 'feature', advisories: [advisory({ kind: 'feature' })] },
      'do',
      'go',
    ],
    [
      'a fault is reported, and the release brings a feature',
      { advisories: [advisory({ kind: 'feature' })] },
      'do',
      'note',
    ],
    ['currency alone', { reason: 'currency' }, 'ask', 'hold'],
    [
      'currency alone, in a workshop that keeps everything current',
      { reason: 'currency', workshopRules: { ...usualWorkshopRules, update: 'current' } },
      'do',
      'go',
    ],
    ['nothing of this unit on the shelf, and no advisory', { newest: {}, advisories: [] }, 'ask', 'hold'],
    ['its version was not read', { unit: { ...unit, versions: {} } }, 'unknown', 'hold'],
    [
      'the serial lies outside those affected',
      { advisories: [advisory({ serials: [{ from: 'FS3-00001', to: 'FS3-00416' }] })] },
      'nothing',
      'hold',
    ],
    [
      'the serial is the last of those affected',
      { advisories: [advisory({ serials: [{ from: 'FS3-00001', to: 'FS3-00417' }] })] },
      'do',
      'go',
    ],
    [
      'the serial is the first of those affected',
      { advisories: [advisory({ serials: [{ from: 'FS3-00417', to: 'FS3-00900' }] })] },
      'do',
      'go',
    ],
    [
      'the serial lies outside, in a workshop that keeps everything current',
      {
        advisories: [advisory({ serials: [{ from: 'FS3-00001', to: 'FS3-00002' }] })],
        workshopRules: { ...usualWorkshopRules, update: 'current' },
      },
      'do',
      'go',
    ],
    [
      'another batch',
      { unit: { ...unit, batch: 'K6' }, advisories: [advisory({ batches: ['K7'] })] },
      'nothing',
      'hold',
    ],
    [
      'its batch',
      { unit: { ...unit, batch: 'K7' }, advisories: [advisory({ batches: ['K7'] })] },
      'do',
      'go',
    ],
    [
      'its batch, by a serial that lies outside',
      {
        unit: { ...unit, batch: 'K7' },
        advisories: [advisory({ batches: ['K7'], serials: [{ from: 'FS3-00001', to: 'FS3-00002' }] })],
      },
      'do',
      'go',
    ],
    ['a batch nobody has read', { advisories: [advisory({ batches: ['K7'] })] }, 'do', 'go'],
  ] as [string, Parameters<typeof need>[0], string, string][])('%s: %s', (_what, form, answer, level) => {
    const said = need(form)
    expect([said.answer, said.finding.level, said.finding.rule]).toEqual([answer, level, 'need'])
  })

  it('lists what is known of this unit and still open, and says which of it was reported', () => {
    const all = [
      advisory({ id: 'matched' }),
      advisory({ id: 'other', words: ['smoke'] }),
      advisory({ id: 'no-words', words: undefined as never }),
      advisory({ id: 'cured', fixedIn: '2.41' }),
      advisory({ id: 'not-this-unit', serials: [{ from: 'FS3-00900', to: 'FS3-00999' }] }),
      advisory({ id: 'another-component', component: 'none-such', words: ['smoke'] }),
    ]
    expect(need({ advisories: all }).advisories.map(({ id, matched }) => [id, matched])).toEqual([
      ['matched', true],
      ['other', false],
      ['no-words', false],
      ['another-component', false],
    ])
    expect(need({ advisories: [] }).advisories).toEqual([])
  })

  it('cures are named before the shelf has them, and are no "nothing to do"', () => {
    const said = need({ newest: { main: '2.41' } })
    expect(said).toMatchObject({ answer: 'do', finding: { level: 'go' } })
    expect(said.finding.because).toContain('no image of 2.48')
    expect(said.finding.because).toContain('All units are affected.')
  })

  it('one component behind is enough, and one unread keeps the answer open', () => {
    const joints = davit.components.map(({ id }) => id)
    const versions = Object.fromEntries(joints.map((id) => [id, '5.2.0']))
    const ask = (has: Record<string, string>, newest: Record<string, string>) =>
      judgeNeed({
        family: { ...davit, advisories: [] },
        unit: { versions: has, readAt: 1 },
        workshopRules: { ...usualWorkshopRules, update: 'current' },
        reason: 'currency',
        symptoms: [],
        newest,
      })
    expect(ask(versions, versions).answer).toBe('nothing')
    expect(ask({ ...versions, [joints[3]!]: '5.1' }, versions)).toMatchObject({ answer: 'do' })
    expect(ask({ ...versions, [joints[3]!]: '5.1' }, versions).finding.because).toContain('5.1 to 5.2.0')
    const { [joints[3]!]: _gone, ...unread } = versions
    expect(ask(unread, versions).answer).toBe('unknown')
    const { [joints[2]!]: _missing, ...short } = versions
    expect(ask(versions, short).answer).toBe('ask')
  })

  describe('what a unit was sold with', () => {
    const factory = [
      { serials: [{ from: 'FS3-00400', to: 'FS3-00499' }], component: 'main', version: '2.48' },
    ] as NonNullable<Family['factory']>
    const unread = { ...unit, versions: {} }
    it('spares the work where the shelf has nothing newer, and says by what mark', () => {
      const said = need({ unit: unread, factory, advisories: [] })
      expect(said.answer).toBe('nothing')
      expect(said.finding.says).toContain('serial range')
      expect(said.finding.because).toContain('FS3-00417')
    })
    it.each([
      ['something newer lies there', { newest: { main: '2.49' }, factory }],
      ['the serial is another', { unit: { ...unread, serial: 'FS3-00500' }, factory }],
      ['the serial is not known', { unit: { versions: {} }, factory }],
      ['no mark is given', { factory: [{ component: 'main', version: '2.48' }] as typeof factory }],
      ['it is of a component that the family has not', { factory: [{ ...factory[0]!, component: 'none' }] }],
    ])('says nothing where %s', (_what, form) => {
      expect(need({ unit: unread, advisories: [], ...form }).answer).toBe('unknown')
    })
    it('goes by the batch where that is what tells', () => {
      const byBatch = [{ batches: ['K7'], component: 'main', version: '2.48' }] as NonNullable<
        Family['factory']
      >
      const said = need({ unit: { versions: {}, batch: 'K7' }, factory: byBatch, advisories: [] })
      expect(said.answer).toBe('nothing')
      expect(said.finding.says).toContain('batch')
      expect(said.finding.because).toContain('K7')
    })
  })

  it('waits for what was asked of a supplier, to the day', () => {
    const request = {
      id: 'r',
      unitId: 'u',
      asked: 'An image.',
      of: 'the desk',
      askedAt: 0,
      dueDay: '2026-11-24',
      answer: null,
      imageId: null,
      closedAt: null,
    }
    const on = (today: string) => judgeRequest(request, today)
    expect(on('2026-11-24').says).toContain('due today')
    expect(on('2026-11-24').remedy).not.toContain('again')
    expect(on('2026-11-25').remedy).toContain('again')
    expect(on('2026-11-25').numbers).toEqual({ daysLeft: -1 })
    expect(on('2026-11-23').numbers).toEqual({ daysLeft: 1 })
  })
})

// PRACTICE A2: "a serial prefix or number tells"; both ends of a range belong to it (common practice).
it.each([
  ['BP-02000', true],
  ['BP-02999', true],
  ['BP-01999', false],
  ['BP-03000', false],
  [' BP-02500 ', true],
  ['BP-2500', true],
  ['2500', false],
  ['BP-02500X', null],
])('serial %s lies within BP-02000 to BP-02999: %s', (serial, within) => {
  expect(serialWithin(serial, { from: 'BP-02000', to: 'BP-02999' })).toBe(within)
})

describe('the newest release for a unit (PRACTICE B4)', () => {
  const newest = (...shelf: ShelfEntry[]) => versionsOf(newestFor(fog, unit, shelf))
  it.each([
    ['by version and not by its place on the shelf', [image('2.48'), image('2.45')], { main: '2.48' }],
    ['the other way round', [image('2.45'), image('2.48')], { main: '2.48' }],
    ['never a test release', [image('2.45'), image('2.49', { release: 'test' })], { main: '2.45' }],
    [
      'an image that does not say its release counts as one for production',
      [image('2.45'), image('2.47', { release: undefined })],
      { main: '2.47' },
    ],
    ['never one of another family', [image('2.45'), image('2.48', { familyId: 'other' })], { main: '2.45' }],
    [
      'never one of another component',
      [image('2.45'), image('2.48', { componentId: 'horn' })],
      { main: '2.45' },
    ],
    ['never one for other hardware', [image('2.45'), image('2.48', { hardwareMajor: 2 })], { main: '2.45' }],
    ['never one without a version', [image('2.45'), image(undefined)], { main: '2.45' }],
    ['none', [], {}],
    ['nor where nobody knows the image', [{ ...image('2.48'), identity: null }], {}],
  ])('%s', (_what, shelf, versions) => expect(newest(...shelf)).toEqual(versions))

  it('goes by the time of building where two versions cannot be ordered', () => {
    const odd = (version: string, buildTime?: number) =>
      image(version, buildTime === undefined ? {} : { buildTime }, `${version} ${buildTime}`)
    const id = (...shelf: ShelfEntry[]) => newestFor(fog, unit, shelf)['main']?.id
    expect(id(odd('harbour', 20), odd('quay', 30))).toBe('quay 30')
    expect(id(odd('harbour', 30), odd('quay', 20))).toBe('harbour 30')
    expect(id(odd('harbour', 30), odd('quay', 30))).toBe('harbour 30')
    expect(id(odd('harbour'), odd('quay', 1))).toBe('quay 1')
  })
})

describe('the way (PRACTICE A5, B1, B5, B12)', () => {
  const direct: WorkshopRules = { update: 'current', hops: 'direct', adapters: 'any' }
  const ask = (
    form: Omit<Partial<PathQuestion>, 'shelf'> & { wanted: ShelfEntry; shelf: readonly ShelfEntry[] },
  ) =>
    planPath({
      family: withUpdates({ path: 'workshop' }),
      unit,
      workshopRules: direct,
      hopMs: () => 1000.4,
      ...form,
    })
  const to = (path: { hops: { to?: string }[] }) => path.hops.map((hop) => hop.to)
  const wanted = image('2.48')
  const finding = (path: ReturnType<typeof planPath>, rule: string) =>
    path.findings.find((each) => each.rule === rule)

  it('is one hop, said as one, with from, to, time and name', () => {
    const path = ask({ shelf: [wanted], wanted })
    expect(path.hops).toEqual([
      {
        componentId: 'main',
        imageId: '2.48',
        imageName: 'image 2.48',
        from: '2.41',
        to: '2.48',
        predictedMs: 1000,
      },
    ])
    expect(path.totalMs).toBe(1000)
    expect(finding(path, 'path')).toMatchObject({ level: 'go', numbers: { hops: 1, writes: 1 } })
  })
  it('takes an image that is not on the shelf yet, too', () => {
    expect(to(ask({ shelf: [], wanted }))).toEqual(['2.48'])
  })
  it('is none for an image of another family, or of a component that it has not', () => {
    for (const change of [{ familyId: 'other' }, { componentId: 'none' }]) {
      const other = image('2.48', change)
      expect(ask({ shelf: [other], wanted: other })).toMatchObject({
        hops: [],
        totalMs: 0,
        rollback: null,
        verdict: 'unknown',
        findings: [],
      })
    }
    expect(ask({ shelf: [], wanted: { ...wanted, identity: null } }).hops).toEqual([])
  })
  it('is none for an image that does not belong there', () => {
    const other = image('2.48', { hardwareMajor: 2 })
    expect(ask({ shelf: [other], wanted: other }).hops).toEqual([])
  })
  it('is the same write again for the version that is there, and one step down where that is allowed', () => {
    const same = image('2.41')
    expect(to(ask({ shelf: [same], wanted: same }))).toEqual(['2.41'])
    const older = image('2.40')
    expect(
      to(ask({ shelf: [older], wanted: older, family: withUpdates({ path: 'workshop' }, 'allowed') })),
    ).toEqual(['2.40'])
    expect(
      to(ask({ shelf: [older], wanted: older, family: withUpdates({ path: 'workshop' }, 'refused') })),
    ).toEqual([])
  })
  it('is one write where nobody has read the version; in a family that takes every release it is held', () => {
    const unread = { ...unit, versions: {} }
    const needs = image('2.48', { requiresFrom: '2.45' })
    const open = ask({ shelf: [needs], wanted: needs, unit: unread })
    expect(open.hops).toHaveLength(1)
    expect(open.hops[0]).not.toHaveProperty('from')
    expect(open.findings.filter(({ level }) => level === 'hold')).toEqual([])
    expect(finding(open, 'way-back')).toMatchObject({ level: 'note' })
    expect(open.rollback).toBeNull()
    const every = ask({
      shelf: [needs],
      wanted: needs,
      unit: unread,
      family: withUpdates({ path: 'every-release' }),
    })
    expect(finding(every, 'path')).toMatchObject({ level: 'hold' })
    const free = ask({
      shelf: [wanted],
      wanted,
      unit: unread,
      family: withUpdates({ path: 'every-release' }),
    })
    expect(free.findings.filter(({ rule, level }) => rule === 'path' && level === 'hold')).toEqual([])
  })

  describe('required versions, to the boundary', () => {
    it.each([
      ['2.41', '2.41', ['2.48']],
      ['2.41', '2.42', []],
      ['2.41', '2.40', ['2.48']],
    ])('a unit of %s and an image that goes on %s or newer: %j', (present, requiresFrom, hops) => {
      const needs = image('2.48', { requiresFrom })
      const path = ask({ shelf: [needs], wanted: needs, unit: { ...unit, versions: { main: present } } })
      expect(to(path)).toEqual(hops)
      if (hops.length === 0) {
        expect(finding(path, 'path')).toMatchObject({ level: 'stop' })
        expect(finding(path, 'path')!.because).toContain('2.42 or newer')
      }
    })
    it.each([
      ['2.42', ['2.48']],
      ['2.41', []],
      ['2.40', []],
    ])('a unit of 2.41 and an image that goes on what is below %s: %j', (requiresBelow, hops) => {
      const needs = image('2.48', { requiresBelow })
      expect(to(ask({ shelf: [needs], wanted: needs }))).toEqual(hops)
    })
    it('are met by a hop in between, and the cheaper of two is taken', () => {
      const needs = image('2.48', { requiresFrom: '2.44' })
      const shelf = [image('2.44'), image('2.45'), needs]
      const costs: Record<string, number> = { '2.44': 9, '2.45': 3, '2.48': 5 }
      const path = ask({ shelf, wanted: needs, hopMs: (_, { id }) => costs[id]! })
      expect(to(path)).toEqual(['2.45', '2.48'])
      expect(path.totalMs).toBe(8)
      expect(to(ask({ shelf, wanted: needs, hopMs: (_, { id }) => ({ ...costs, '2.44': 2 })[id]! }))).toEqual(
        ['2.44', '2.48'],
      )
      expect(finding(path, 'path')).toMatchObject({
        level: 'note',
        numbers: { hops: 2, writes: 2 },
        says: 'Two steps: 2.45, then 2.48.',
      })
    })
    it('of two ways that take as long, the one with fewer writes is taken', () => {
      const shelf = [image('2.44'), wanted]
      expect(to(ask({ shelf, wanted, hopMs: () => 0 }))).toEqual(['2.48'])
    })
  })

  describe('mandatory versions', () => {
    const stone = (version: string, component = 'main') => [
      { component, version, says: 'Settings are moved by it.' },
    ]
    const plan = (mandatoryVersions: ReturnType<typeof stone>, shelf: ShelfEntry[], present = '2.41') =>
      ask({
        shelf,
        wanted,
        family: withUpdates({ path: 'workshop', mandatoryVersions }),
        unit: { ...unit, versions: { main: present } },
      })
    it('are never stepped over', () => {
      expect(to(plan(stone('2.45'), [image('2.45'), wanted]))).toEqual(['2.45', '2.48'])
    })
    it('are named where their image is missing', () => {
      const path = plan(stone('2.45'), [wanted])
      expect(path.hops).toEqual([])
      expect(finding(path, 'path')).toMatchObject({
        level: 'stop',
        remedy: 'Put the image of 2.45 on the shelf.',
      })
    })
    it.each([
      ['what is there already', '2.41', '2.41'],
      ['what lies behind', '2.40', '2.41'],
      ['the wanted one itself', '2.48', '2.41'],
      ['what lies beyond', '2.50', '2.41'],
    ])('bind nobody where they are %s', (_what, version, present) => {
      expect(to(plan(stone(version), [wanted], present))).toEqual(['2.48'])
    })
    it('bind only their own component', () => {
      expect(to(plan(stone('2.45', 'another'), [wanted]))).toEqual(['2.48'])
    })
    it('that are there and yet cannot be reached are not asked for once more', () => {
      const path = plan(stone('2.45'), [image('2.45', { requiresFrom: '2.44' }), wanted])
      expect(path.hops).toEqual([])
      expect(finding(path, 'path')!.remedy).not.toContain('2.45 on the shelf')
    })
  })

  it('every release in order, where family or workshop says so; the family’s word goes first', () => {
    const shelf = [image('2.44'), image('2.46'), wanted]
    const all = ['2.44', '2.46', '2.48']
    const sequential: WorkshopRules = { ...direct, hops: 'sequential' }
    const way = (path: Family['updates']['path'], workshopRules: WorkshopRules) =>
      ask({ shelf, wanted, workshopRules, family: withUpdates({ path }) })
    expect(to(way('workshop', direct))).toEqual(['2.48'])
    expect(to(way('workshop', sequential))).toEqual(all)
    expect(to(way('every-release', direct))).toEqual(all)
    expect(to(way('direct', sequential))).toEqual(['2.48'])
    expect(finding(way('workshop', sequential), 'path')).toMatchObject({
      says: 'Three steps: 2.44, then 2.46, then 2.48.',
    })
    const because = (path: Family['updates']['path'], workshopRules: WorkshopRules) =>
      finding(way(path, workshopRules), 'path')!.because
    expect(because('every-release', direct)).toContain('This family')
    expect(because('workshop', sequential)).toContain('Workshop rule')
    expect(because('workshop', direct)).toContain('Straight')
  })
  it('more than one step says why it cannot be one', () => {
    const because = (shelf: ShelfEntry[], more: Partial<PathQuestion> = {}) => {
      const path = ask({ shelf, wanted: shelf.at(-1)!, ...more })
      expect(to(path)).toHaveLength(2)
      return finding(path, 'path')!.because
    }
    expect(because([image('2.45'), image('2.48', { requiresFrom: '2.44' })])).toBe(
      '2.48 goes on 2.44 or newer.',
    )
    // The other way round: the older of the two is the one that the new one does not go on.
    expect(because([image('2.45', { requiresBelow: '2.42' }), image('2.48', { requiresFrom: '2.42' })])).toBe(
      '2.48 goes on 2.42 or newer.',
    )
    const stone = [{ component: 'main', version: '2.45', says: 'Settings are moved by it.' }]
    const family = withUpdates({ path: 'workshop', mandatoryVersions: stone })
    expect(because([image('2.45'), image('2.48')], { family })).toBe('Settings are moved by it.')
    const chain = [
      image('2.44', { precursor: 'original bytes' }),
      image('2.48', { precursor: 'digest of 2.44' }),
    ]
    expect(because(chain, { unit: { ...unit, digests: { main: 'original bytes' } } })).toBe(
      '2.48 is made for the very bytes of 2.44.',
    )
  })
  it('an image of the original’s bytes is asked for by its digest, and a chain of them is followed', () => {
    const patch = (version: string, precursor: string) => image(version, { precursor })
    const first = patch('2.44', 'original bytes')
    const second = patch('2.48', 'digest of 2.44')
    const on = (digest?: string) =>
      ask({
        shelf: [first, second],
        wanted: second,
        unit: { ...unit, ...(digest ? { digests: { main: digest } } : {}) },
      })
    expect(to(on('original bytes'))).toEqual(['2.44', '2.48'])
    expect(to(on('something else'))).toEqual([])
  })

  describe('back again', () => {
    const shelf = [image('2.41'), wanted]
    const on = (family: Family, more: Partial<PathQuestion> = {}) => ask({ shelf, wanted, family, ...more })
    it('is open where the family takes older ones and the image lies there', () => {
      const path = on(withUpdates({ path: 'workshop' }, 'allowed'))
      expect(path.rollback).toMatchObject([
        { imageId: '2.41', from: '2.48', to: '2.41', componentId: 'main' },
      ])
      expect(finding(path, 'way-back')).toMatchObject({ level: 'go' })
      expect(path.verdict).toBe('go')
    })
    it('is open, but wants the image, where that is missing', () => {
      const path = on(withUpdates({ path: 'workshop' }, 'allowed'), { shelf: [wanted] })
      expect(path.rollback).toBeNull()
      expect(finding(path, 'way-back')).toMatchObject({ level: 'note' })
      expect(finding(path, 'way-back')!.remedy).toContain('2.41')
    })
    it('is closed where the family refuses older ones', () => {
      const path = on(withUpdates({ path: 'workshop' }, 'refused'))
      expect(path.rollback).toBeNull()
      expect(finding(path, 'way-back')).toMatchObject({
        level: 'note',
        says: expect.stringContaining('cannot be put back'),
      })
    })
    it('is open in a family that refuses older ones, when the same version is written again', () => {
      const same = image('2.41')
      const path = ask({ shelf: [same], wanted: same, family: withUpdates({ path: 'workshop' }, 'refused') })
      expect(path.rollback).toMatchObject([{ imageId: '2.41' }])
    })
    it.each([
      ['2.48', '2.41', true],
      ['2.49', '2.41', false],
      ['2.42', '2.41', true],
      ['2.41', '2.41', false],
      ['2.40', '2.41', false],
    ])('a gate at %s for a unit of %s is passed: %s; then the whole is held', (version, present, passed) => {
      const gate = [{ component: 'main', version, says: 'Older ones do not start.' }]
      const path = on(withUpdates({ path: 'workshop', noWayBack: gate }, 'allowed'), {
        unit: { ...unit, versions: { main: present } },
      })
      expect(path.hops[0]!.noWayBack).toBe(passed ? 'Older ones do not start.' : undefined)
      expect(finding(path, 'way-back')!.level).toBe(passed ? 'hold' : 'go')
      expect(path.verdict).toBe(passed ? 'hold' : 'go')
      expect(path.rollback === null).toBe(passed)
    })
    it('a gate of another component closes nothing, and one after an unknown version closes it', () => {
      const gate = (component: string) =>
        withUpdates({ path: 'workshop', noWayBack: [{ component, version: '2.45', says: 'No.' }] }, 'allowed')
      expect(on(gate('another')).hops[0]).not.toHaveProperty('noWayBack')
      expect(on(gate('main'), { unit: { ...unit, versions: {} } }).hops[0]!.noWayBack).toBe('No.')
    })
  })

  it('the whole answer has no way and no time where anything stops it', () => {
    const family = withUpdates({ path: 'workshop' })
    const fit = (form: { wanted: ShelfEntry; shelf: readonly ShelfEntry[] }) =>
      judgeWay({ family, unit, workshopRules: direct, hopMs: () => 1000, ...form })
    const needs = image('2.48', { requiresFrom: '2.45' })
    expect(fit({ wanted: needs, shelf: [needs] })).toMatchObject({ verdict: 'stop', path: [], totalMs: 0 })
    const wrong = image('2.48', { hardwareMajor: 2 })
    expect(fit({ wanted: wrong, shelf: [wrong] })).toMatchObject({
      verdict: 'stop',
      path: [],
      totalMs: 0,
      rollback: null,
    })
    const good = fit({ wanted, shelf: [wanted] })
    expect(good.path).toHaveLength(1)
    expect(good.totalMs).toBe(1000)
  })

  it('what is written on the way counts for the next step', () => {
    const family = withUpdates({ path: 'workshop' })
    const needs = image('2.48', { requiresFrom: '2.45' })
    const fit = judgeWay({
      family,
      unit,
      workshopRules: direct,
      hopMs: () => 1,
      wanted: needs,
      shelf: [image('2.45'), needs],
    })
    expect(fit.findings.filter(({ level }) => level === 'stop')).toEqual([])
    expect(fit.path.map((hop) => hop.to)).toEqual(['2.45', '2.48'])
  })
})

describe('the matrix', () => {
  const other = demoFamily('mains-relay')
  const units: UnitFacts[] = [
    unit,
    { ...unit, serial: 'FS3-00418', versions: { main: '2.48' } },
    { ...unit, hardwareMajor: 2, hardware: '2.0' },
    { ...unit, readAt: 99, serial: 'FS3-00999' },
    { versions: {} },
  ]
  const images = [
    image('2.48'),
    image('2.40'),
    image('2.49', { release: 'test' }),
    image('2.48', { hardwareMajor: 2 }, 'for 2'),
    image('2.48', { serial: 'FS3-00417' }, 'for one'),
    image('2.48', { serial: 'FS3-00417', hardwareMajor: 2 }, 'for one of 2'),
    { ...image('2.48', {}, 'nobody'), identity: null },
    image('1.0', { familyId: other.id, componentId: 'relay' }, 'another'),
    image('1.0', { familyId: 'gone' }, 'no profile'),
    image('1.0', { componentId: 'none' }, 'no component'),
  ]
  const columns = units.map((each) => ({ familyId: fog.id, unit: each }))
  const matrix = fitMatrix(images, columns, [fog, other])
  const cell = (row: number, column: number) => matrix.reasons[matrix.cells[row * matrix.columns + column]!]!
  const weigh = { go: 0, note: 1, hold: 2, stop: 3 }

  it('says in each cell the heaviest of what the rules find for that pair, one by one', () => {
    expect([matrix.rows, matrix.columns]).toEqual([images.length, units.length])
    for (const [row, each] of images.entries()) {
      if (each.identity?.familyId !== fog.id || each.identity.componentId !== 'main') continue
      for (const [column, facts] of units.entries()) {
        const { findings } = judgeFit({ family: fog, component: main!, unit: facts, image: each })
        const max = Math.max(...findings.map(({ level }) => weigh[level]))
        const heaviest = findings.find(({ level }) => weigh[level] === max)!
        expect([row, column, cell(row, column)]).toEqual([
          row,
          column,
          { level: heaviest.level, rule: heaviest.rule, says: heaviest.says },
        ])
      }
    }
  })
  it('refuses what nobody knows, and what is another family’s, by name', () => {
    expect(cell(6, 0)).toMatchObject({
      level: 'stop',
      rule: 'image-known',
      says: 'No profile knows this image.',
    })
    expect(cell(7, 0)).toMatchObject({ level: 'stop', rule: 'image-known' })
    expect(cell(7, 0).says).toContain(other.name)
    expect(cell(8, 0).says).toContain('gone')
    for (const row of [6, 7, 8, 9])
      for (const column of units.keys()) expect(cell(row, column).level).toBe('stop')
  })
  it('has nothing but a stop for a unit whose profile is missing', () => {
    const lost = fitMatrix([image('2.48')], [{ familyId: 'gone', unit }], [fog])
    expect(lost.reasons[lost.cells[0]!]!.level).toBe('stop')
  })
  it('keeps answers of a unit apart from those of its like', () => {
    const question = fog.questions?.[0]
    const two = fitMatrix(
      [image('2.48')],
      [
        { familyId: fog.id, unit },
        {
          familyId: fog.id,
          unit,
          ...(question ? { answers: { [question.id]: question.answers[0]!.id } } : {}),
        },
      ],
      [fog],
    )
    expect(two.cells).toHaveLength(2)
  })
  it('asks no version of a revision that stands for all units of it', () => {
    const revisions = revisionColumns([fog, davit])
    expect(
      revisions
        .filter(({ familyId }) => familyId === fog.id)
        .map(({ unit: { hardware, hardwareMajor } }) => [hardware, hardwareMajor]),
    ).toEqual(fog.hardware.revisions.map(({ name, major }) => [name, major]))
    expect(revisions[0]).toMatchObject({
      familyName: fog.name,
      says: expect.stringContaining(fog.hardware.revisions[0]!.name),
    })
    const of3 = revisions.filter(({ unit: { hardwareMajor } }) => hardwareMajor === 3)
    const standing = fitMatrix(
      [image('2.48'), image('2.48', { hardwareMajor: 2 }, 'for 2')],
      of3.filter(({ familyId }) => familyId === fog.id),
      [fog],
      true,
    )
    expect(standing.reasons[standing.cells[0]!]!.level).not.toBe('stop')
    expect(standing.reasons[standing.cells[standing.columns]!]!.level).toBe('stop')
    const pressed = fitMatrix(
      [image('2.48')],
      of3.filter(({ familyId }) => familyId === fog.id),
      [fog],
    )
    expect(weigh[pressed.reasons[pressed.cells[0]!]!.level]).toBeGreaterThan(
      weigh[standing.reasons[standing.cells[0]!]!.level],
    )
  })
  it('has a column for each model of a family that has models', () => {
    const withModels = {
      ...fog,
      hardware: {
        ...fog.hardware,
        models: [{ id: 'A' }, { id: 'B' }] as NonNullable<Family['hardware']['models']>,
      },
    }
    const named = revisionColumns([withModels])
    expect(named).toHaveLength(fog.hardware.revisions.length * 2)
    expect(named.slice(0, 2).map(({ unit: { model } }) => model)).toEqual(['A', 'B'])
    expect(named[0]!.says).toBe(`${fog.hardware.revisions[0]!.name}, A`)
  })
})
