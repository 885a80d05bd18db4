import {
  demoFamily,
  demoFamilyList,
  demoFirmware,
  demoImages,
  demoUnits,
  firstUnitOf,
  fogSignalFamily as family,
  handfulFamilies,
  handfulOf,
  inverterBundle,
  type DemoImage,
  type Kind,
} from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { componentOf } from '../family'
import { identifyImage, rangesOf, readFile, readImageFile, type MemoryMap } from '../image'
import type { Level } from '../kernel'
import { factsOf, knownPage, type UnitFacts } from '../unit'
import { judgeFit, judgeImage, standingRules, stepRules, type FitImage } from '.'

const component = componentOf(family)
const unit: UnitFacts = {
  deviceIdentifier: 'FS-20',
  hardware: '3.1',
  hardwareMajor: 3,
  versions: { main: '2.41' },
}
const image248 = demoImages[0]!.image

const fitImage = (name: string, memory: MemoryMap, known = [family]): FitImage => ({
  name,
  segments: rangesOf(memory),
  identity: identifyImage(memory, known),
})

function fitOf(
  change: Partial<DemoImage> = {},
  facts: UnitFacts = unit,
  at = 0x08008000,
  spoil?: (bytes: Uint8Array) => void,
) {
  const bytes = demoFirmware({ ...image248, length: 0x8000, ...change })
  spoil?.(bytes)
  return judgeFit({ family, component, unit: facts, image: fitImage('x.hex', [{ address: at, bytes }]) })
}
const found = (fit: ReturnType<typeof fitOf>, rule: string) =>
  fit.findings.find((finding) => finding.rule === rule)

/** What is known of a demo unit from its pages. */
function factsOfDemo(unitId: string): UnitFacts {
  const { familyId, pages } = demoUnits.find(({ id }) => id === unitId)!
  const snapshots = pages.map(({ source, at, lines }) => ({
    source,
    at: Date.parse(at),
    lines: Object.entries(lines).map(([field, value]) => ({ field, label: field, value })),
  }))
  return factsOf(knownPage(snapshots), demoFamily(familyId))
}

describe('an image fits', () => {
  it('when no rule says more than go', () => {
    const fit = fitOf()
    expect(fit.verdict).toBe('go')
    const all = [...standingRules, ...stepRules].map(({ id }) => id)
    for (const { rule } of fit.findings) expect(all).toContain(rule)
    // PRACTICE B1: device identifier, hardware major, bounds and direction are always judged.
    for (const rule of ['device-identifier', 'hardware-major', 'memory-bounds', 'version-direction']) {
      expect(found(fit, rule)?.level, rule).toBe('go')
    }
  })
  it('says with each finding what it rests on, and with each refusal the way out', () => {
    for (const fit of [
      fitOf(),
      fitOf({ hardware: [2, 0] }),
      fitOf({ version: '2.40' }),
      fitOf({}, { versions: {} }),
    ]) {
      for (const finding of fit.findings) {
        expect(finding.because).not.toBe('')
        if (finding.level === 'stop' || finding.level === 'hold') expect(finding.remedy).toBeTruthy()
      }
    }
  })
})

describe('an image is refused', () => {
  // PRACTICE B1, common practice: hardware major differs; device identifier differs; older where the family refuses.
  it.each([
    ['another device identifier', { deviceIdentifier: 'FS-40' }, 'device-identifier', 'stop'],
    ['another hardware major', { hardware: [2, 9] as [number, number] }, 'hardware-major', 'stop'],
    ['an older version', { version: '2.9' }, 'version-direction', 'stop'],
    ['the same version', { version: '2.41' }, 'version-direction', 'hold'],
    ['versions nobody can order', { version: '2.48-x' }, 'version-direction', 'hold'],
    // PRACTICE B4.
    ['a test release', { release: 'test' }, 'test-release', 'hold'],
  ] as const)('for %s', (_, change, rule, level) => {
    const fit = fitOf(change)
    expect(found(fit, rule)?.level).toBe(level)
    expect(fit.verdict).toBe(level)
  })
  // PRACTICE A3: hardware that no profile line names must not be flashed with either image.
  it('on hardware that the family does not know', () => {
    const fit = fitOf({}, { ...unit, hardware: '4.0', hardwareMajor: 4 })
    expect(found(fit, 'hardware-major')?.level).toBe('stop')
  })
  it('and never go while the unit is not known', () => {
    const fit = fitOf({}, { versions: {} })
    expect(fit.verdict).toBe('hold')
    expect(found(fit, 'hardware-major')?.remedy).toMatch(/board is blue/)
    expect(found(fit, 'version-direction')?.level).toBe('note')
  })
  it('when a byte of it is damaged', () => {
    const fit = fitOf({}, unit, 0x08008000, (bytes) => (bytes[0x3000]! ^= 1))
    expect(found(fit, 'image-intact')?.level).toBe('stop')
  })
  // RFC 9124, storage location (section from memory): over the settings, or outside the application.
  it('where it would write over the settings', () => {
    const spoiled: MemoryMap = [
      { address: 0x08008000, bytes: demoFirmware({ ...image248, length: 0x8000 }) },
      { address: 0x08048000, bytes: new Uint8Array(16) },
    ]
    const fit = judgeFit({ family, component, unit, image: fitImage('x.hex', spoiled) })
    expect(found(fit, 'protected-ranges')).toMatchObject({
      level: 'stop',
      says: expect.stringMatching(/horn settings/),
    })
    expect(found(fit, 'memory-bounds')?.level).toBe('stop')
  })
  it('when nothing in it says what it is for, whatever its name', () => {
    const memory: MemoryMap = [{ address: 0x08008000, bytes: new Uint8Array(1024).fill(0xff) }]
    const fit = judgeFit({ family, component, unit, image: fitImage('fs20-main-2.48.hex', memory) })
    expect(fit.verdict).toBe('stop')
    expect(fit.findings).toHaveLength(1)
  })
})

describe('a unit that two signs tell differently', () => {
  // PRACTICE A3, A4, common practice: leading digits name the hardware line; digits of neither line get no image.
  it('of line 31 takes the image of line 31 and refuses that of line 58', () => {
    const battery = demoFamily('buoy-battery')
    const facts = factsOfDemo('battery-14')
    expect(facts.hardwareMajor).toBe(31)
    const fit = (kind: Kind) => fitOfHandful('buoy-battery', kind)
    expect(fit('right').verdict).not.toBe('stop')
    expect(fit('other-revision').findings.find(({ rule }) => rule === 'hardware-major')?.level).toBe('stop')
    const stray = factsOfDemo('battery-9')
    expect(stray.hardwareMajor).toBeUndefined()
    const [right] = handfulOf('buoy-battery')
    const { memory } = readImageFile(right!.file, { families: [battery] })
    const judged = judgeFit({
      family: battery,
      component: componentOf(battery),
      unit: stray,
      image: fitImage('bp5', memory, [battery]),
    })
    expect(judged.findings.find(({ rule }) => rule === 'hardware-major')).toMatchObject({
      level: 'stop',
      says: expect.stringMatching(/line that this profile does not know/),
    })
  })
  it('is written with nothing until the marking has settled it', () => {
    const fit = fitOf({}, { ...unit, contradiction: 'label B22 tells Board B; chip Q7 tells Board A' })
    expect(found(fit, 'hardware-major')).toMatchObject({
      level: 'stop',
      remedy: expect.stringMatching(/marking/),
    })
  })
})

function fitOfHandful(familyId: string, kind: Kind) {
  const own = demoFamily(familyId)
  const file = handfulOf(familyId).find((each) => each.kind === kind)!
  const { memory } = readImageFile(file.file, { families: demoFamilyList })
  const image = fitImage(file.name, memory, [...demoFamilyList])
  const recipe = handfulOf(familyId)[0]!
  const target = identifyImage(
    readImageFile(recipe.file, { families: demoFamilyList }).memory,
    demoFamilyList,
  )
  return judgeFit({
    family: own,
    component: componentOf(own, target!.componentId),
    unit: factsOfDemo(firstUnitOf(familyId).id),
    answers: familyId === 'marine-radio' ? { 'signal-output': 'low-channel' } : {},
    image,
  })
}

/** The rule that has to speak for each wrong file of the handful, and how loudly (PRACTICE B1, B2, B4, B6). */
const speaks: [Kind, string[], Level[]][] = [
  ['other-revision', ['hardware-major'], ['stop']],
  ['older', ['version-direction', 'sequence-number'], ['stop', 'hold', 'note']],
  ['test', ['test-release'], ['hold']],
  ['other-component', ['image-known'], ['stop']],
  ['look-alike', ['device-identifier'], ['stop']],
]

describe.each(handfulFamilies)('a handful of files for a %s', (familyId) => {
  it('holds one image that belongs on the unit, under two names with equal bytes', () => {
    const [right] = handfulOf(familyId)
    const renamed = handfulOf(familyId).find(({ kind }) => kind === 'renamed')!
    expect(Buffer.from(renamed.file).equals(Buffer.from(right!.file))).toBe(true)
    const standing = fitOfHandful(familyId, 'right').findings.filter(({ rule }) =>
      standingRules.some(({ id }) => id === rule),
    )
    expect(standing.filter(({ level }) => level === 'stop' || level === 'hold')).toEqual([])
  })
  it.each(speaks)('%s: %s speaks', (kind, rules, levels) => {
    const finding = fitOfHandful(familyId, kind)
      .findings.filter(({ level }) => level !== 'go')
      .find(({ rule }) => rules.includes(rule))
    expect(finding, `${familyId} ${kind}`).toBeDefined()
    expect(levels).toContain(finding!.level)
  })
})

describe('what a manifest says', () => {
  const inverter = demoFamily('station-inverter')
  const bundle = readFile(inverterBundle().file, { families: [inverter] })
  const memory =
    bundle.kind === 'bundle' && bundle.entries[0]!.what.kind === 'image'
      ? bundle.entries[0]!.what.image.memory
      : []
  const ask = (claim: object) =>
    judgeFit({
      family: inverter,
      component: componentOf(inverter, 'power'),
      unit: factsOfDemo('inverter-1'),
      image: {
        ...fitImage('img1.hex', memory, [inverter]),
        claim: { component: 'power', sequence: 36, ...claim },
      },
    })
  it('and the bytes have to agree', () => {
    expect(ask({ version: '3.6' }).findings.find(({ rule }) => rule === 'manifest-agrees')?.level).toBe('go')
    for (const claim of [{ version: '3.5' }, { component: 'panel' }]) {
      expect(ask(claim).findings.find(({ rule }) => rule === 'manifest-agrees')?.level).toBe('stop')
    }
  })
  // RFC 9124, vendor and class identifier, precursor, sequence number (section numbers from memory).
  it('is held against the family and the unit', () => {
    const identity = identifyImage(memory, [inverter])!
    const judged = (change: object, facts: object = {}) => {
      const image = { name: 'x', segments: rangesOf(memory), identity: { ...identity, ...change } }
      const unit = { ...factsOfDemo('inverter-1'), ...facts }
      return judgeFit({ family: inverter, component: componentOf(inverter, 'power'), unit, image })
    }
    const level = (fit: ReturnType<typeof judged>, rule: string) =>
      fit.findings.find((finding) => finding.rule === rule)?.level
    const { vendorId, classId } = inverter.hardware
    const other = '00000000-0000-5000-8000-000000000000'
    expect(level(judged({ vendorId }), 'vendor-identifier')).toBe('go')
    expect(level(judged({ vendorId: other }), 'vendor-identifier')).toBe('stop')
    expect(level(judged({ classId }), 'class-identifier')).toBe('go')
    expect(level(judged({ classId: other }), 'class-identifier')).toBe('stop')
    expect(level(judged({ sequence: 5 }, { sequences: { power: 4 } }), 'sequence-number')).toBe('go')
    expect(level(judged({ sequence: 4 }, { sequences: { power: 4 } }), 'sequence-number')).toBe('hold')
    const digest = 'ab'.repeat(32)
    expect(level(judged({ precursor: digest }), 'precursor-digest')).toBe('hold')
    expect(level(judged({ precursor: digest }, { digests: { power: digest } }), 'precursor-digest')).toBe(
      'go',
    )
    const wrong = { digests: { power: 'cd'.repeat(32) } }
    expect(level(judged({ precursor: digest }, wrong), 'precursor-digest')).toBe('stop')
    expect(level(judged({ requiresFrom: '3.5' }), 'required-range')).toBe('stop')
    expect(level(judged({ requiresFrom: '3.4' }), 'required-range')).toBe('go')
    expect(level(judged({ requiresBelow: '3.4' }), 'required-range')).toBe('stop')
  })
})

describe('what depends on the unit and its use', () => {
  // PRACTICE A5: processor B on the larger model only, and A differs per model.
  it('the panel’s image is refused on the model without a panel', () => {
    const inverter = demoFamily('station-inverter')
    const bundle = readFile(inverterBundle().file, { families: [inverter] })
    if (bundle.kind !== 'bundle') throw new Error('not a bundle')
    const judged = bundle.entries.flatMap(({ path, what }) =>
      what.kind === 'image'
        ? [
            judgeFit({
              family: inverter,
              component: componentOf(inverter, path.includes('img2') ? 'panel' : 'power'),
              unit: factsOfDemo('inverter-2'),
              image: fitImage(path, what.image.memory, [inverter]),
            }),
          ]
        : [],
    )
    expect(judged).toHaveLength(2)
    for (const fit of judged) {
      expect(fit.findings.find(({ rule }) => rule === 'model-size')?.level).toBe('stop')
    }
  })
  // PRACTICE B7: the choice depends on how the unit is used, and is a question to ask.
  it('a variant is a question until it is answered, then right or wrong', () => {
    const radio = demoFamily('marine-radio')
    const [right] = handfulOf('marine-radio')
    const image = fitImage('r', readImageFile(right!.file, { families: [radio] }).memory, [radio])
    const ask = (answers: Record<string, string>) =>
      judgeFit({
        family: radio,
        component: componentOf(radio),
        unit: factsOfDemo('radio-3'),
        answers,
        image,
      }).findings.find(({ rule }) => rule === 'chosen-variant')!
    expect(ask({})).toMatchObject({ level: 'hold', says: expect.stringMatching(/Which channel/) })
    expect(ask({ 'signal-output': 'low-channel' }).level).toBe('go')
    expect(ask({ 'signal-output': 'high-channel' }).level).toBe('stop')
  })
  // PRACTICE B8: an image for one serial.
  it('an image issued for one serial is refused on its sister', () => {
    const beacon = demoFamily('beacon-receiver')
    const [right] = handfulOf('beacon-receiver')
    const image = fitImage('b', readImageFile(right!.file, { families: [beacon] }).memory, [beacon])
    const level = (unitId: string) =>
      judgeFit({
        family: beacon,
        component: componentOf(beacon),
        unit: factsOfDemo(unitId),
        image,
      }).findings.find(({ rule }) => rule === 'issued-serial')?.level
    expect(level('beacon-7')).toBe('go')
    expect(level('beacon-8')).toBe('stop')
  })
  // PRACTICE B9: option values are part of the image's identity.
  it('options are compared with what the unit was built with', () => {
    const relay = demoFamily('mains-relay')
    const [right] = handfulOf('mains-relay')
    const image = fitImage('q', readImageFile(right!.file, { families: [relay] }).memory, [relay])
    expect(image.identity?.options).toBe('watchdog+hold-last')
    const judged = (options: string) =>
      judgeFit({
        family: relay,
        component: componentOf(relay),
        unit: { ...factsOfDemo('relay-2'), options: { relay: options } },
        image,
      }).findings.find(({ rule }) => rule === 'built-options')?.level
    expect(judged('hold-last+watchdog')).toBe('go')
    expect(judged('none')).toBe('hold')
  })
  // PRACTICE B10: image and layout have to agree with the unit.
  it('a drive image of another layout is refused', () => {
    const motor = demoFamily('launch-motor')
    const [right] = handfulOf('launch-motor')
    const image = fitImage('d', readImageFile(right!.file).memory, [motor])
    const level = (layout: string) =>
      judgeFit({
        family: motor,
        component: componentOf(motor),
        unit: { ...factsOfDemo('launch-2'), layout },
        image,
      }).findings.find(({ rule }) => rule === 'memory-layout')?.level
    expect(level('L-204')).toBe('go')
    expect(level('L-203')).toBe('stop')
  })
})

describe('an image on the shelf', () => {
  const judged = (change: Partial<DemoImage>, around = {}) =>
    judgeImage(
      identifyImage([{ address: 0x08008000, bytes: demoFirmware({ ...image248, ...change }) }], [family]),
      [family],
      around,
    )
  const rules = (findings: ReturnType<typeof judged>) => findings.map(({ rule }) => rule)
  // PRACTICE B2, B4, B6, common practice.
  it('is flagged as a test release, as a look-alike, as one image with two names', () => {
    expect(judged({}).every(({ level }) => level === 'go')).toBe(true)
    expect(rules(judged({ release: 'test' }))).toContain('test-release')
    expect(rules(judged({ deviceIdentifier: 'FS-40' }))).toContain('look-alike')
    expect(rules(judged({}, { otherNames: ['update (1).hex'] }))).toContain('same-bytes')
    expect(rules(judged({}, { twins: ['update.hex'] }))).toContain('twin-name')
    expect(
      judged({}, { sameVersion: ['other.hex'] }).find(({ rule }) => rule === 'same-version')?.level,
    ).toBe('hold')
    expect(judgeImage(null, [family]).map(({ level }) => level)).toEqual(['hold'])
    expect(rules(judgeImage(null, [family], { placed: 'not-known' }))).toContain('address')
  })
})
