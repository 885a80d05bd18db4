import { applicationRegions, componentOf, drivenLink, readFamily, type Family } from '@bench-wake/core/family'
import { identifyImage } from '@bench-wake/core/image'
import { demoFamilies, demoFamily, demoFieldsOf, demoUnits, placed } from '@bench-wake/demo'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { judgeNeed, judgeWay, type ShelfEntry } from '../fit'
import { rangesOf } from '../image'
import { verdictOf, type Finding } from '../kernel'
import { benchGates, judgeDriven, judgeOriginal, type BenchInputs, type Gate } from '../ready'
import { factsOf } from '../unit'
import { hopMs, loadsOf, planElsewhere, planRun, planSwap, stretchesOf } from '.'
import { scenarios } from './scenarios.test-support'

/*
 * Profiles with every optional part left out, one at a time, all together, and by chance, for every protocol the demo has:
 * each job reaches a plan, or a hold or a stop that names its way out; what nobody knows is never Go.
 */

type Document = Record<string, unknown>
type Path = readonly (string | number)[]

/** Every member below a document, deepest last; of lists only the members of their entries. */
function pathsOf(value: unknown, at: Path = []): Path[] {
  if (Array.isArray(value)) return value.flatMap((each, index) => pathsOf(each, [...at, index]))
  if (value === null || typeof value !== 'object') return []
  return Object.entries(value).flatMap(([key, member]) => [[...at, key], ...pathsOf(member, [...at, key])])
}

function without(document: unknown, path: Path): Document {
  const copy = structuredClone(document) as Document
  let holder = copy as Record<string | number, unknown>
  for (const key of path.slice(0, -1)) holder = holder[key] as Record<string | number, unknown>
  delete holder[path.at(-1)!]
  return copy
}

const reads = (document: unknown): Family | null => {
  try {
    return readFamily(document)
  } catch {
    return null
  }
}

/** Parts of a profile down to its third level that it still reads without. */
const optionalOf = new Map(
  demoFamilies.map((document) => [
    (document as { id: string }).id,
    pathsOf(document).filter((path) => path.length <= 4 && reads(without(document, path)) !== null),
  ]),
)

/** A profile without all of the parts that it still reads without when they go one after the other. */
function stripped(familyId: string, parts: readonly Path[]): Family {
  let document: unknown = demoFamilies.find((each) => (each as { id: string }).id === familyId)!
  for (const path of parts) {
    const parent = path
      .slice(0, -1)
      .reduce<unknown>((value, key) => (value as Document | undefined)?.[key], document)
    if (parent === undefined || parent === null) continue
    const less = without(document, path)
    if (reads(less)) document = less
  }
  return readFamily(document)
}

const today = '2026-11-26'

/** Everything between a job and its run, as the server puts it together, with what was said of the bench. */
function gatesOf(family: Family, unitId: string, said: BenchInputs): { gates: Gate[]; planned: boolean } {
  const demo = demoUnits.find(({ id }) => id === unitId)!
  const scenario = scenarios.find((each) => each.unitId === unitId)
  const link = drivenLink(family) ?? null
  const component = componentOf(family, scenario?.component)
  const memory = placed(
    demoFamily(demo.familyId),
    demoFieldsOf(demo.familyId, component.id, { ...scenario?.fields, serial: demo.serial }),
  )
  const identity = identifyImage(memory, [family])
  const image: ShelfEntry = {
    id: 'image',
    name: 'image',
    contentSha256: '0'.repeat(64),
    segments: rangesOf(memory),
    identity,
  }
  const unit = factsOf(
    {
      at: 0,
      source: 'menu',
      lines: Object.entries(
        Object.assign({}, ...demo.pages.map(({ lines }) => lines)) as Record<string, string>,
      ).map(([field, value]) => ({ field, label: field, value })),
    },
    family,
  )
  const workshopRules = { update: 'current', hops: 'direct', adapters: 'any' } as const
  const way = judgeWay(
    {
      family,
      unit,
      shelf: [image],
      wanted: image,
      workshopRules,
      hopMs: (part, { segments }) => hopMs(family, part, segments),
    },
    component.id,
  )
  const need = judgeNeed({ family, unit, workshopRules, reason: 'feature', symptoms: [], newest: {} })
  const loads = way.path.length > 0 ? loadsOf(component, memory) : []
  const steps =
    loads.length === 0
      ? []
      : link
        ? planRun(family, component, link, loads)
        : family.chipReplacement
          ? planSwap(family, component)
          : planElsewhere(family, component, image.segments)
  const bench = benchGates({
    family,
    said,
    stretches: stretchesOf(family.power, steps),
    metered: null,
    adapters: [],
    workshopRules,
    kit: [],
    day: today,
    today,
    now: Date.parse(today),
    standIn: false,
  })
  const gate = (id: string, findings: Finding[]): Gate => ({
    id,
    name: id,
    verdict: verdictOf(findings),
    findings,
    numbers: {},
  })
  return {
    gates: [
      gate('need', [need.finding]),
      gate('fit', way.findings),
      judgeDriven(family),
      ...(link ? [judgeOriginal(family, link, {})] : []),
      ...bench,
    ],
    planned: steps.length > 0,
  }
}

/** What must hold for any profile, however little it says. */
function check(family: Family, unitId: string, said: BenchInputs): void {
  const { gates, planned } = gatesOf(family, unitId, said)
  const where = (gate: Gate) => `${family.id}, ${gate.id}`
  for (const gate of gates) {
    // A gate with nothing to say says so.
    expect(gate.findings.length > 0 || gate.unjudged !== undefined, `${where(gate)} is silent`).toBe(true)
    expect(gate.verdict, where(gate)).not.toBe('unknown')
    for (const finding of gate.findings) {
      expect(finding.says.trim().length, `${where(gate)}: ${finding.rule} says nothing`).toBeGreaterThan(3)
      expect(finding.because.trim().length, `${where(gate)}: ${finding.rule} has no reason`).toBeGreaterThan(
        3,
      )
      // A hold or a stop names its way out.
      if (finding.level === 'hold' || finding.level === 'stop')
        expect(finding.remedy?.trim().length ?? 0, `${where(gate)}: ${finding.says}`).toBeGreaterThan(3)
    }
  }
  // A job reaches a plan, or something says why not.
  const shut = gates.some(({ verdict }) => verdict === 'stop' || verdict === 'hold')
  expect(planned || shut, `${family.id} is neither planned nor refused`).toBe(true)
  const verdict = (id: string) => gates.find((gate) => gate.id === id)!.verdict
  // Nothing unknown is ever Go.
  if (!said.measured) expect(verdict('power'), `${family.id}: nobody measured`).not.toBe('go')
  if (!said.laptop) expect(verdict('laptop'), `${family.id}: nobody said a word of the laptop`).not.toBe('go')
  const [link] = family.links
  const isKnownAlone = family.isolation || ['usb', 'debug', 'chip', 'media'].includes(link!.kind)
  if (!isKnownAlone) expect(verdict('isolation'), `${family.id}: isolation not described`).not.toBe('go')
  if (!link!.wiring && link!.kind !== 'media')
    expect(verdict('wiring'), `${family.id}: wiring not described`).not.toBe('go')
  if (!family.backup && gates.some(({ id }) => id === 'original'))
    expect(gates.find(({ id }) => id === 'original')!.findings[0]!.because).toMatch(
      /profile does not say|Workshop rule/,
    )
}

const nothing: BenchInputs = {}
const usual: BenchInputs = {
  measured: { volts: 12.6, shed: [], charger: null },
  laptop: { onMains: true, minutesLeft: null },
  isolation: { alone: true },
}
const unitOf = (familyId: string) =>
  scenarios.find(({ unitId }) => demoUnits.find(({ id }) => id === unitId)!.familyId === familyId)?.unitId ??
  demoUnits.find((each) => each.familyId === familyId)!.id

describe.each([...optionalOf.keys()])('a minimal profile of a %s', (familyId) => {
  const parts = optionalOf.get(familyId)!
  const unitId = unitOf(familyId)
  it('is judged with each optional part left out by itself', () => {
    expect(parts.length).toBeGreaterThan(10)
    for (const part of parts) {
      const family = stripped(familyId, [part])
      check(family, unitId, nothing)
      check(family, unitId, usual)
    }
  })
  it('and with all of them left out together', () => {
    const family = stripped(familyId, parts)
    expect(family.backup).toBeUndefined()
    expect(family.isolation).toBeUndefined()
    expect(family.power.supply).toBeUndefined()
    expect(applicationRegions(family.components[0]!).length).toBeGreaterThan(0)
    check(family, unitId, nothing)
    check(family, unitId, usual)
  })
  it('and with any of them', () => {
    fc.assert(
      fc.property(fc.subarray(parts as Path[]), fc.boolean(), (some, said) => {
        check(stripped(familyId, some), unitId, said ? usual : nothing)
      }),
      { numRuns: 6 },
    )
  })
})
