import { demoFamily, placed } from '@bench-wake/demo'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { contentDigest, identifyImage, rangesOf, type ImageIdentity } from '../image'
import { hopMs } from '../run'
import type { UnitFacts } from '../unit'
import { judgeWay, planPath, type PathQuestion, type ShelfEntry } from '.'

/** An image of a demo family, laid on the shelf. */
function entry(
  familyId: string,
  component: string,
  fields: Record<string, string | number>,
  length = 0x4000,
): ShelfEntry {
  const family = demoFamily(familyId)
  const memory = placed(family, {
    component,
    length,
    fields: { release: 'production', buildTime: 1_780_000_000, ...fields },
  })
  return {
    id: `${component}-${fields['version']}${fields['release'] ?? ''}`,
    name: `${component} ${fields['version']}`,
    segments: rangesOf(memory),
    identity: identifyImage(memory, [family]),
    contentSha256: contentDigest(memory),
  }
}

function ask(
  familyId: string,
  unit: UnitFacts,
  shelf: ShelfEntry[],
  wanted: ShelfEntry,
  form: Partial<PathQuestion> = {},
) {
  const family = demoFamily(familyId)
  return {
    family,
    unit,
    shelf,
    wanted,
    workshopRules: { update: 'current', hops: 'direct', adapters: 'any' },
    hopMs: (component, { segments }) => hopMs(family, component, segments),
    ...form,
  } satisfies PathQuestion
}
const steps = (path: { hops: { componentId: string; to?: string }[] }) =>
  path.hops.map(({ componentId, to }) => `${componentId} ${to}`)

describe('the way from what is on the unit to what is wanted', () => {
  const davit = (version: string, joint: number) =>
    entry('boat-davit', `joint-${joint}`, { deviceIdentifier: 'DV-6', hardwareMajor: 3, version }, 0x4000)
  const joints = [0, 1, 2, 3, 4, 5]
  const on51: UnitFacts = {
    deviceIdentifier: 'DV-6',
    hardwareMajor: 3,
    versions: Object.fromEntries(joints.map((joint) => [`joint-${joint}`, '5.1'])),
  }
  const shelf = ['5.2.0', '5.2.1'].flatMap((version) => joints.map((joint) => davit(version, joint)))

  // PRACTICE B5, common practice: a unit on 5.1 with 5.2.0 and 5.2.1 published: two hops, 5.2.0 then 5.2.1.
  // PRACTICE A5: six joints numbered 0 to 5 from base to wrist, all brought up in order.
  it('takes every release in order, and in each release the joints from base to wrist', () => {
    const path = planPath(
      ask(
        'boat-davit',
        on51,
        shelf,
        shelf.find(({ id }) => id === 'joint-0-5.2.1')!,
      ),
    )
    expect(steps(path)).toEqual([
      ...joints.map((joint) => `joint-${joint} 5.2.0`),
      ...joints.map((joint) => `joint-${joint} 5.2.1`),
    ])
    expect(path.findings.find(({ rule }) => rule === 'path')?.says).toBe(
      'Two steps, 12 writes: 5.2.0, then 5.2.1.',
    )
  })
  it('says which joint’s image is missing when one is', () => {
    const short = shelf.filter(({ id }) => id !== 'joint-3-5.2.1')
    const path = planPath(
      ask(
        'boat-davit',
        on51,
        short,
        shelf.find(({ id }) => id === 'joint-0-5.2.1')!,
      ),
    )
    expect(path.hops).toEqual([])
    expect(path.verdict).toBe('stop')
    expect(path.findings[0]!.remedy).toMatch(/5\.2\.1/)
  })
  // The job is about joint 0; after its write the other five are still to be done, and nothing holds them.
  it('goes on with the other joints once the one that is asked about is there', () => {
    for (let done = 1; done < 6; done++) {
      const versions = Object.fromEntries(
        joints.map((joint) => [`joint-${joint}`, joint < done ? '5.2.0' : '5.1']),
      )
      const fit = judgeWay(
        ask(
          'boat-davit',
          { ...on51, versions },
          shelf,
          shelf.find(({ id }) => id === 'joint-0-5.2.0')!,
        ),
        'joint-0',
      )
      expect(fit.path.map(({ componentId }) => componentId)).toEqual(
        joints.slice(done).map((joint) => `joint-${joint}`),
      )
      expect(fit.findings.filter(({ level }) => level === 'hold' || level === 'stop')).toEqual([])
    }
  })
  it('says that there is nothing to do when all of them are there', () => {
    const versions = Object.fromEntries(joints.map((joint) => [`joint-${joint}`, '5.2.0']))
    const fit = judgeWay(
      ask(
        'boat-davit',
        { ...on51, versions },
        shelf,
        shelf.find(({ id }) => id === 'joint-0-5.2.0')!,
      ),
      'joint-0',
    )
    expect(fit.findings.find(({ rule }) => rule === 'version-direction')).toMatchObject({ level: 'hold' })
  })
  it('leaves out the joints that are there already', () => {
    const half = { ...on51, versions: { ...on51.versions, 'joint-0': '5.2.1', 'joint-1': '5.2.0' } }
    const path = planPath(
      ask(
        'boat-davit',
        half,
        shelf,
        shelf.find(({ id }) => id === 'joint-5-5.2.1')!,
      ),
    )
    expect(steps(path).filter((step) => step.startsWith('joint-0'))).toEqual([])
    expect(steps(path).filter((step) => step.startsWith('joint-1'))).toEqual(['joint-1 5.2.1'])
  })

  const drive = (version: string, requiresFrom = '') =>
    entry('launch-motor', 'drive', {
      deviceIdentifier: 'LM-80',
      hardwareMajor: 2,
      layout: 'L-204',
      version,
      ...(requiresFrom ? { requiresFrom } : {}),
    })
  const motor: UnitFacts = {
    deviceIdentifier: 'LM-80',
    hardwareMajor: 2,
    layout: 'L-204',
    versions: { drive: '3.2' },
  }
  it('passes through a stepping stone, warns before the first hop that there is no way back', () => {
    const files = [drive('3.6', '3.0'), drive('4.1', '3.6')]
    const fit = judgeWay(ask('launch-motor', motor, files, files[1]!))
    expect(fit.path.map(({ to }) => to)).toEqual(['3.6', '4.1'])
    expect(fit.path[1]!.noWayBack).toMatch(/nothing older/)
    // PRACTICE B12: said before the update, not after.
    expect(fit.findings.find(({ rule }) => rule === 'way-back')).toMatchObject({ level: 'hold' })
    expect(fit.rollback).toBeNull()
    expect(fit.verdict).toBe('hold')
    expect(fit.totalMs).toBe(fit.path.reduce((sum, { predictedMs }) => sum + predictedMs, 0))
  })
  it('says what would make a way where there is none', () => {
    const wanted = drive('4.1', '3.6')
    const fit = judgeWay(ask('launch-motor', motor, [wanted], wanted))
    expect(fit.verdict).toBe('stop')
    expect(fit.path).toEqual([])
    expect(fit.findings.filter(({ rule }) => rule === 'path')[0]!.remedy).toMatch(/3\.6/)
  })

  const horn = (version: string, release = 'production') =>
    entry('fog-signal', 'main', {
      deviceIdentifier: 'FS-20',
      hardwareMajor: 3,
      hardwareMinor: 0,
      version,
      release,
    })
  const horns = ['2.42', '2.45', '2.48'].map((version) => horn(version))
  const fog: UnitFacts = { deviceIdentifier: 'FS-20', hardwareMajor: 3, versions: { main: '2.41' } }
  // PRACTICE B5: the family's own rule wins; the workshop rule is the default.
  it('is sequential or direct as the workshop says, where the family leaves it open', () => {
    const direct = planPath(ask('fog-signal', fog, horns, horns[2]!))
    expect(steps(direct)).toEqual(['main 2.48'])
    const workshopRules = { update: 'current', hops: 'sequential', adapters: 'any' } as const
    const sequential = planPath(ask('fog-signal', fog, horns, horns[2]!, { workshopRules }))
    expect(steps(sequential)).toEqual(['main 2.42', 'main 2.45', 'main 2.48'])
  })
  it('passes over test releases on the way (PRACTICE B4)', () => {
    const workshopRules = { update: 'current', hops: 'sequential', adapters: 'any' } as const
    const shelf = [horn('2.44', 'test'), ...horns]
    expect(steps(planPath(ask('fog-signal', fog, shelf, horns[2]!, { workshopRules })))).not.toContain(
      'main 2.44',
    )
  })
  it('tells whether the way back is open', () => {
    const relay = (version: string) =>
      entry('mains-relay', 'relay', { deviceIdentifier: 'QR-4', hardwareMajor: 2, options: 5, version })
    const unit: UnitFacts = {
      deviceIdentifier: 'QR-4',
      hardwareMajor: 2,
      versions: { relay: '1.9' },
      options: { relay: 'watchdog+hold-last' },
    }
    const [old, fresh] = [relay('1.9'), relay('2.1')]
    const open = planPath(ask('mains-relay', unit, [old, fresh], fresh))
    expect(open.rollback?.map(({ to }) => to)).toEqual(['1.9'])
    const alone = planPath(ask('mains-relay', unit, [fresh], fresh))
    expect(alone.rollback).toBeNull()
    expect(alone.findings.find(({ rule }) => rule === 'way-back')?.remedy).toMatch(/Read it out/)
    const refused = planPath(ask('fog-signal', fog, horns, horns[2]!))
    expect(refused.findings.find(({ rule }) => rule === 'way-back')?.says).toMatch(/cannot be put back/)
  })
  it('goes by time where two ways lead there', () => {
    // Straight costs 10; by way of 2.45 costs 2 and 2.
    const cost = ({ name }: { name: string }, from: number) => (name.endsWith('2.45') ? 2 : from)
    const path = planPath({
      ...ask('fog-signal', fog, horns.slice(1), horns[2]!),
      hopMs: (_, image) => cost(image, 10),
    })
    // A hop's cost hangs on its image alone, so a further stop can never be cheaper than going straight.
    expect(steps(path)).toEqual(['main 2.48'])
    expect(path.totalMs).toBe(10)
  })

  it('never steps over a release of a sequential workshop, whatever lies on the shelf', () => {
    const versions = fc.uniqueArray(fc.integer({ min: 42, max: 60 }), { minLength: 1, maxLength: 6 })
    const made = new Map(Array.from({ length: 19 }, (_, at) => [at + 42, horn(`2.${at + 42}`)]))
    fc.assert(
      fc.property(versions, (numbers) => {
        const shelf = numbers.map((number) => made.get(number)!)
        const top = made.get(Math.max(...numbers))!
        const workshopRules = { update: 'current', hops: 'sequential', adapters: 'any' } as const
        const sorted = [...numbers].sort((a, b) => a - b).map((number) => `main 2.${number}`)
        expect(steps(planPath(ask('fog-signal', fog, shelf, top, { workshopRules })))).toEqual(sorted)
        expect(steps(planPath(ask('fog-signal', fog, shelf, top)))).toEqual([sorted.at(-1)])
      }),
      { numRuns: 60 },
    )
  })
  it('is one straight write for an image that says no version, held until a person answers for it', () => {
    const nameless = { ...horns[2]!, identity: { ...horns[2]!.identity } as ImageIdentity }
    delete nameless.identity.version
    const fit = judgeWay(ask('fog-signal', fog, [], nameless))
    expect(fit.path.map(({ imageId, from, to }) => ({ imageId, from, to }))).toEqual([
      { imageId: nameless.id, from: '2.41', to: undefined },
    ])
    expect(fit.verdict).toBe('hold')
    expect(fit.findings.filter(({ level }) => level === 'hold').map(({ rule }) => rule)).toEqual([
      'version-direction',
    ])
  })
})
