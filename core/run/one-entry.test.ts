import { checkFamily, namesComponent } from '@bench-wake/core/family'
import { demoFamilies, demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import type { Hop } from '../fit'
import { groupedNumber } from '../kernel'
import {
  conditionOf,
  goesOnFrom,
  goesOnWith,
  legPlan,
  piecesOf,
  staysOf,
  troubleAt,
  type PieceState,
  type WakeEvent,
} from '.'
import { scenarios } from './scenarios.test-support'
import { simulateRun } from './simulate-run.test-support'

/*
 * PRACTICE A5, common practice: six joints in one stay on the service page, base to wrist, one restart after the last, and
 * each says its version.
 */

const turn = () => new Promise<void>((done) => setImmediate(done))
const davit = demoFamily('boat-davit')
const [panel] = davit.links
const joints = scenarios.find(({ also }) => also)!
const hop = (componentId: string, to: string): Hop => ({
  componentId,
  imageId: `${componentId} ${to}`,
  imageName: '',
  to,
  predictedMs: 1,
})
const bodies = <T extends WakeEvent['body']['type']>(events: readonly WakeEvent[], type: T) =>
  events.flatMap(({ body }) => (body.type === type ? [body as Extract<WakeEvent['body'], { type: T }>] : []))

describe('writes that go in with one entry', () => {
  const way = [hop('joint-0', '5.1'), hop('joint-1', '5.1'), hop('joint-0', '5.2'), hop('joint-1', '5.2')]
  const counts = (...asked: Parameters<typeof staysOf>) => staysOf(...asked).map(({ length }) => length)
  it('are those of one release, each component once', () => {
    expect(counts(davit, panel!, way)).toEqual([2, 2])
    expect(staysOf(davit, panel!, way).flat()).toEqual(way)
    expect(counts(davit, panel!, [hop('joint-0', '5.1'), hop('joint-0', '5.1')])).toEqual([1, 1])
    expect(staysOf(davit, panel!, [])).toEqual([])
  })
  it('are one by one where the family does not say so, the link cannot, or none is driven', () => {
    const { oneEntry: _said, ...updates } = davit.updates
    expect(counts({ updates }, panel!, way)).toEqual([1, 1, 1, 1])
    expect(counts({ updates: { ...updates, oneEntry: false } }, panel!, way)).toEqual([1, 1, 1, 1])
    expect(counts(davit, null, way)).toEqual([1, 1, 1, 1])
    expect(counts(davit, demoFamily('fog-signal').links[0]!, way)).toEqual([1, 1, 1, 1])
    // Nobody knows whether images without a version belong to one release.
    const { to: _to, ...nameless } = hop('joint-0', '')
    expect(counts(davit, panel!, [nameless, { ...nameless, componentId: 'joint-1' }])).toEqual([1, 1])
  })
  it('want a link that names the component in erase and in write', () => {
    expect(namesComponent(panel!)).toBe(true)
    const document = structuredClone(
      demoFamilies.find(({ id }: { id: string }) => id === 'boat-davit'),
    ) as unknown as {
      links: { drive: { operations: Record<string, { steps: { text?: string }[] }> } }[]
    }
    for (const exchange of ['erase', 'write']) {
      const spoiled = structuredClone(document)
      spoiled.links[0]!.drive.operations[exchange]!.steps[0]!.text =
        `${exchange} {address:hex8} {length:hex8}\r\n`
      expect(
        checkFamily(spoiled).faults.map(({ at }) => at),
        exchange,
      ).toContain('updates.oneEntry')
    }
    expect(checkFamily(document).faults).toEqual([])
  })
})

describe('a run of six joints', () => {
  it('enters once, compares all before it erases one, restarts once, and proves each', async () => {
    const { state, events, holds } = await simulateRun(joints, [], 1, turn)
    expect(state.outcome).toBe('proved')
    expect(holds).toBe(true)
    const count = (kind: string) => state.steps.filter((step) => step.kind === kind).length
    for (const kind of ['enter', 'restart', 'prove', 'identify']) expect(count(kind), kind).toBe(1)
    for (const kind of ['compare', 'erase', 'write', 'verify']) expect(count(kind), kind).toBe(6)
    const kinds = state.steps.map(({ kind }) => kind)
    expect(kinds.lastIndexOf('compare')).toBeLessThan(kinds.indexOf('erase'))
    // Base to wrist, one after the other.
    const written = state.steps.filter(({ kind }) => kind === 'write').map(({ piece }) => piece)
    expect(written).toEqual([0, 1, 2, 3, 4, 5])
    expect(bodies(events, 'prompt.asked').filter(({ prompt }) => prompt === 'enter-by-hand')).toHaveLength(1)
    const proofs = state.findings.filter(({ rule }) => rule === 'version-proved')
    expect(proofs.map(({ level }) => level)).toEqual(Array(6).fill('go'))
    expect(new Set(proofs.map(({ says }) => says)).size).toBe(6)
  })
  it('cut in the third joint, goes on with the third, and only checks the first two again', async () => {
    for (let seed = 1; ; seed++) {
      if (seed > 60) throw new Error('no simulated run is cut in the write of a joint in the middle')
      const simulated = await simulateRun(joints, ['program killed'], seed, turn, 5)
      expect(simulated.holds, `seed ${seed}`).toBe(true)
      const [leg] = bodies(simulated.events, 'leg.opened')
      const first = simulated.events.findIndex(({ body }) => body.type === 'leg.opened')
      const plan = bodies(simulated.events, 'run.opened')[0]!.plan
      const done = simulated.events
        .slice(0, first)
        .flatMap(({ body }) => (body.type === 'step.done' ? [plan[body.step]!] : []))
      const checked = done.filter(({ kind }) => kind === 'verify').length
      if (!leg || checked === 0 || checked === 6) continue
      const again = leg.plan.filter(({ kind }) => kind === 'write').map(({ piece }) => piece)
      expect(again).toEqual([0, 1, 2, 3, 4, 5].slice(checked))
      expect(leg.plan.filter(({ kind }) => kind === 'verify')).toHaveLength(6)
      return
    }
  })
})

describe('what a unit is between its joints', () => {
  const at = async (piece: number, kind: string) => {
    const { state } = await simulateRun(joints, [], 1, turn)
    const index = state.steps.findIndex((step) => step.kind === kind && step.piece === piece)
    const steps = state.steps.map((step, i): (typeof state.steps)[number] => {
      const { startedAt, endedAt, ...plain } = step
      if (i < index) return step
      return i === index
        ? { ...plain, startedAt: startedAt!, state: 'broken' }
        : { ...plain, state: 'waiting' }
    })
    return { ...state, steps, outcome: 'cut' as const, acknowledged: 1024 }
  }
  it('is told by each of them, and where the next leg goes on', async () => {
    const writing = {
      ...(await at(2, 'write')),
      pieces: ['checked', 'checked', 'part', 'untouched', 'untouched', 'untouched'] as PieceState[],
    }
    expect(conditionOf(writing)).toBe('half-written')
    expect(goesOnWith(writing)).toBe(2)
    expect(goesOnFrom(writing)).toBe(1024)
    expect(troubleAt(writing)).toBe(
      `Cut in write (joint 2, elbow) at byte ${groupedNumber(1024)} of ${groupedNumber(6144)}.`,
    )
    const between = {
      ...writing,
      pieces: ['checked', 'checked', 'checked', 'untouched', 'untouched', 'untouched'] as PieceState[],
    }
    expect(conditionOf(between)).toBe('between-components')
    expect(goesOnFrom(between)).toBeNull()
    expect(conditionOf({ ...between, pieces: between.pieces.map(() => 'whole') })).toBe(
      'written-not-verified',
    )
    expect(legPlan(writing.steps, writing).filter(({ kind }) => kind === 'erase')).toHaveLength(4)
    expect(piecesOf(writing.facts).map(({ component }) => component.id)).toEqual(
      davit.components.map(({ id }) => id),
    )
  })
})
