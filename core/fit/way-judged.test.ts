import { demoFamily, placed } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { componentOf } from '../family'
import { contentDigest, identifyImage, rangesOf } from '../image'
import type { UnitFacts } from '../unit'
import { judgeWay, type PathQuestion, type ShelfEntry } from '.'
import { judgeSteps } from './judge-fit'

/* The whole answer about an image and a unit: each step of the way judged from what is on the unit by then (PRACTICE B1, B5). */

function entry(familyId: string, component: string, fields: Record<string, string | number>): ShelfEntry {
  const family = demoFamily(familyId)
  const memory = placed(family, {
    component,
    length: 0x4000,
    fields: { release: 'production', buildTime: 1_780_000_000, ...fields },
  })
  return {
    id: `${component}-${fields['version']}`,
    name: `${component} ${fields['version']}`,
    segments: rangesOf(memory),
    identity: identifyImage(memory, [family]),
    contentSha256: contentDigest(memory),
  }
}
const ask = (familyId: string, unit: UnitFacts, shelf: ShelfEntry[], wanted: ShelfEntry) =>
  ({
    family: demoFamily(familyId),
    unit,
    shelf,
    wanted,
    workshopRules: { update: 'current', hops: 'sequential', adapters: 'any' },
    hopMs: () => 1000,
  }) satisfies PathQuestion
const weight = { go: 0, note: 1, hold: 2, stop: 3 }

/** The heaviest of each step rule along a way, worked out hop by hop. */
function alongTheWay(question: PathQuestion, path: ReturnType<typeof judgeWay>['path']) {
  const { family, shelf } = question
  let facts = question.unit
  const heaviest: Record<string, keyof typeof weight> = {}
  for (const { componentId, imageId, to } of path) {
    const image = shelf.find(({ id }) => id === imageId)!
    const component = componentOf(family, componentId)
    for (const { rule, level } of judgeSteps({ family, component, unit: facts, image })) {
      const before = heaviest[rule]
      if (before === undefined || weight[level] > weight[before]) heaviest[rule] = level
    }
    facts = { ...facts, versions: { ...facts.versions, [componentId]: to! } }
  }
  return heaviest
}

describe('the findings of a way', () => {
  const joints = [0, 1, 2, 3, 4, 5]
  const davit = (version: string, joint: number) =>
    entry('boat-davit', `joint-${joint}`, { deviceIdentifier: 'DV-6', hardwareMajor: 3, version })
  const on51: UnitFacts = {
    deviceIdentifier: 'DV-6',
    hardwareMajor: 3,
    versions: Object.fromEntries(joints.map((joint) => [`joint-${joint}`, '5.1'])),
  }
  it('are those of all its steps, each rule by its heaviest', () => {
    const shelf = ['5.2.0', '5.2.1'].flatMap((version) => joints.map((joint) => davit(version, joint)))
    const question = ask(
      'boat-davit',
      on51,
      shelf,
      shelf.find(({ id }) => id === 'joint-0-5.2.1')!,
    )
    const fit = judgeWay(question)
    expect(fit.path).toHaveLength(12)
    expect(fit.totalMs).toBe(12_000)
    const due = alongTheWay(question, fit.path)
    const said = Object.fromEntries(
      fit.findings.filter(({ rule }) => rule in due).map(({ rule, level }) => [rule, level]),
    )
    expect(said).toEqual(due)
    expect(fit.verdict).not.toBe('stop')
  })
  it('of one step are those of that step', () => {
    const fog: UnitFacts = {
      deviceIdentifier: demoFamily('fog-signal').hardware.deviceIdentifier,
      hardware: '3.1',
      hardwareMajor: 3,
      versions: { main: '2.41' },
    }
    const wanted = entry('fog-signal', 'main', {
      deviceIdentifier: fog.deviceIdentifier!,
      hardwareMajor: 3,
      version: '2.48',
    })
    const question = ask('fog-signal', fog, [wanted], wanted)
    const fit = judgeWay(question)
    expect(fit.path.map(({ to }) => to)).toEqual(['2.48'])
    const { family, unit } = question
    const steps = judgeSteps({ family, component: componentOf(family, 'main'), unit, image: wanted })
    for (const finding of steps) expect(fit.findings).toContainEqual(finding)
  })
  it('of an image that is for something else are a stop without a way, whatever the job is about', () => {
    const foreign = davit('5.2.0', 0)
    const fog: UnitFacts = { deviceIdentifier: 'FS-20', versions: { main: '2.41' } }
    for (const component of [undefined, 'main']) {
      const fit = judgeWay(ask('fog-signal', fog, [foreign], foreign), component)
      expect(fit).toMatchObject({ verdict: 'stop', path: [], totalMs: 0, rollback: null })
      expect(fit.findings.some(({ level }) => level === 'stop')).toBe(true)
    }
    // One that is for another joint, asked about this one.
    const other = judgeWay(ask('boat-davit', on51, [davit('5.2.0', 3)], davit('5.2.0', 3)), 'joint-0')
    expect(other.verdict).toBe('stop')
    expect(other.path).toEqual([])
  })
  it('of a step that is stopped leave no way and no time', () => {
    const older = entry('fog-signal', 'main', {
      deviceIdentifier: demoFamily('fog-signal').hardware.deviceIdentifier,
      hardwareMajor: 3,
      version: '2.30',
    })
    const fit = judgeWay(
      ask(
        'fog-signal',
        {
          deviceIdentifier: demoFamily('fog-signal').hardware.deviceIdentifier,
          hardware: '3.1',
          hardwareMajor: 3,
          versions: { main: '2.48' },
        },
        [older],
        older,
      ),
    )
    expect([fit.verdict, fit.path, fit.totalMs]).toEqual(['stop', [], 0])
  })
})
