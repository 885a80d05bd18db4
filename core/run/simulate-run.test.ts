import { isEqual } from '../link'
import { componentOf } from '@bench-wake/core/family'
import { demoFamily, demoUnits } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import {
  postUpdateTasksLeft,
  postUpdateTasksOf,
  conditionOf,
  goesOnFrom,
  planSwap,
  type RunState,
  type WakeEvent,
} from '.'
import { scenarios } from './scenarios.test-support'
import { faultsOf, simulateRun, type FaultKind } from './simulate-run.test-support'

const turn = () => new Promise<void>((done) => setImmediate(done))
const over = (unitId: string, linkId = '') =>
  scenarios.find((each) => each.unitId === unitId && (linkId === '' || each.linkId === linkId))!
const named = scenarios.map(
  (each) => [`${each.unitId}, ${each.linkId}${each.also ? ', all joints' : ''}`, each] as const,
)

/** The first seed from 1 on whose run with these faults is as asked. */
async function sailUntil(
  unitId: string,
  faults: FaultKind[],
  wanted: (events: readonly WakeEvent[], state: RunState) => boolean,
  first = 1,
) {
  for (let seed = first; seed < first + 80; seed++) {
    const simulated = await simulateRun(over(unitId), faults, seed, turn)
    if (wanted(simulated.events, simulated.state)) return simulated
  }
  throw new Error(`no such simulated run of ${unitId} with ${faults.join(', ')}`)
}
const bodies = <T extends WakeEvent['body']['type']>(events: readonly WakeEvent[], type: T) =>
  events.flatMap(({ body }) => (body.type === type ? [body as Extract<WakeEvent['body'], { type: T }>] : []))

describe('runs with faults', () => {
  // `simulateRun` itself throws when something is proved that is not in the memory, an event is lost or the chain breaks. The truth
  // is the stand-in's memory. Ten thousand of them: npm run bench -- --only simulated-runs.
  it.each(named)('%s: whatever goes wrong in its first legs, it is brought home', async (_, scenario) => {
    for (let seed = 1; seed <= 4; seed++) {
      const simulated = await simulateRun(scenario, faultsOf(seed), seed, turn)
      expect(simulated.proved, `seed ${seed}: ${simulated.faults.join()}`).toBe(true)
    }
  })
})

describe('legs of one run', () => {
  // PRACTICE H7, common practice: the bootloader usually survives; do not power down, re-enter, write again.
  it('keep what the leg before left, until they change it themselves', async () => {
    const { events, state } = await sailUntil('davit-1', ['cable pulled', 'cable pulled'], (all) => {
      const opened = bodies(all, 'leg.opened')
      return opened.length === 2 && bodies(all, 'failed').every(({ problem }) => problem.kind === 'port-lost')
    })
    expect(state.leg).toBe(3)
    expect(state.pastLegs.map(({ outcome }) => outcome)).toEqual(['failed', 'failed'])
    expect(state.outcome).toBe('proved')
    expect(conditionOf(state)).toBe('proved')
    // One chain over all legs: each is opened after the end of the one before.
    expect(events.map(({ seq }) => seq)).toEqual(events.map((_, at) => at + 1))
  })
  it('go on at the byte that was reached, without a new erase, where the bootloader can', async () => {
    const { events, state } = await sailUntil(
      'relay-2',
      ['cable pulled'],
      (all) => bodies(all, 'leg.opened')[0]?.goesOnAt !== undefined,
    )
    const [leg] = bodies(events, 'leg.opened')
    const first = events.findIndex(({ body }) => body.type === 'leg.opened')
    const reached = bodies(events.slice(0, first), 'progress').at(-1)!.done
    expect(leg!.goesOnAt).toBe(reached)
    const later = bodies(events.slice(first), 'progress')
    expect(later.filter(({ unit }) => unit === 'sectors')).toEqual([])
    expect(later.find(({ unit }) => unit === 'bytes')!.done).toBeGreaterThan(reached)
    expect(state.notes.map(({ says }) => says).join()).toMatch(/goes on at byte/)
    expect(isEqual(state.verified!)).toBe(true)
  })
  it('begin at the first byte where the protocol cannot go on', async () => {
    const { events } = await sailUntil('launch-2', ['cable pulled'], (all) => {
      const [failed] = bodies(all, 'failed')
      return failed !== undefined && (bodies(all, 'progress').at(-1)?.done ?? 0) > 0
    })
    expect(bodies(events, 'leg.opened')[0]!.goesOnAt).toBeUndefined()
  })
  it('name a byte to go on from only for a write that broke off', async () => {
    const { state } = await simulateRun(over('relay-2'), [], 1, turn)
    expect(goesOnFrom(state)).toBeNull()
    expect(goesOnFrom({ ...state, outcome: 'failed' })).toBeNull()
  })
})

// PRACTICE H6, common practice: a failed try is repeated once or twice as it is, the second often succeeds.
describe('a try that fails', () => {
  it('is repeated within the same leg, and each try is in the record', async () => {
    const { events, state } = await sailUntil(
      'launch-2',
      ['brown-out'],
      (all) => bodies(all, 'retry').length > 0 && bodies(all, 'leg.opened').length === 0,
    )
    expect(bodies(events, 'retry')[0]!.why).toMatch(/again, (as it is|with a new entry)$/)
    expect(state.leg).toBe(1)
    expect(state.outcome).toBe('proved')
  })
  it('is not repeated by itself when the cable is out: that is the person’s to mend', async () => {
    const { events } = await sailUntil('radio-3', ['cable pulled'], (all) => bodies(all, 'failed').length > 0)
    expect(bodies(events, 'retry').filter(({ why }) => /again, /.test(why))).toEqual([])
  })
})

// PRACTICE G1, G4, G5, common practice.
describe('the original', () => {
  it('is read twice before the first write and kept, where every unit holds its own', async () => {
    const { events, backups } = await simulateRun(over('tide-2'), [], 3, turn)
    const kinds = events.map(({ body }) => body.type)
    const wrote = events.findIndex(
      ({ body }) => body.type === 'verified' || (body.type === 'progress' && body.unit === 'sectors'),
    )
    expect(kinds.indexOf('backup')).toBeGreaterThan(0)
    expect(kinds.indexOf('backup')).toBeLessThan(wrote)
    expect(backups).toHaveLength(1)
    // PRACTICE G1, common practice: unit, version, "original"; the day it was read.
    expect(backups[0]!.name).toBe('Tide logger 2, logger firmware 2025-11-03, original, 2026-11-24')
    const [kept] = bodies(events, 'backup')
    expect(kept).toMatchObject({ reads: 2, imageId: 'backup-1', bytes: backups[0]!.bytes.length })
    expect(kept!.findings.map(({ rule }) => rule)).toEqual(['backup-good'])
  })
  it('is not taken from a unit that an earlier leg has written', async () => {
    // Few cables are pulled between the backup and the first sector: the first such seed is far on.
    const { events, backups } = await sailUntil(
      'tide-2',
      ['cable pulled'],
      (all) => {
        const opened = all.findIndex(({ body }) => body.type === 'leg.opened')
        return opened > 0 && bodies(all.slice(0, opened), 'backup').length === 1
      },
      68,
    )
    const opened = events.findIndex(({ body }) => body.type === 'leg.opened')
    expect(bodies(events.slice(opened), 'backup')).toEqual([])
    expect(backups).toHaveLength(1)
  })
})

// PRACTICE J1, I2: the write leaves a code about the silent bus; it is told before, cleared and gone.
it('reads, clears and reads the fault codes of a controller again', async () => {
  const { state } = await simulateRun(over('launch-2'), [], 5, turn)
  expect(state.faults).toMatchObject({ before: 'C10000', after: 'none' })
})

describe('post-update tasks', () => {
  const family = demoFamily('boat-davit')
  it('is asked by the family, and keeps the job from closing until each has its word', async () => {
    const { state } = await simulateRun(over('davit-1'), [], 2, turn)
    const all = postUpdateTasksOf(family, state)
    expect(postUpdateTasksLeft(all).map(({ id }) => id)).toEqual(family.postUpdateTasks!.map(({ id }) => id))
    const say = (outcome: 'done' | 'failed', note?: string) =>
      postUpdateTasksOf(family, {
        ...state,
        aftercare: family.postUpdateTasks!.map(({ id, does }) => ({
          item: id,
          does,
          outcome,
          by: 'T. Reader',
          at: 1,
          ...(note ? { note } : {}),
        })),
      })
    expect(postUpdateTasksLeft(say('done'))).toEqual([])
    expect(postUpdateTasksLeft(say('failed'))).toHaveLength(family.postUpdateTasks!.length)
    expect(postUpdateTasksLeft(say('failed', 'Joint 3 jerks; taken out of use.'))).toEqual([])
  })
  // PRACTICE I3, common practice: whatever moves or is live carries its caution at the very step.
  it('carries a caution where it can hurt someone', () => {
    for (const id of ['boat-davit', 'mains-relay', 'launch-motor', 'station-inverter', 'fog-signal']) {
      const tests = demoFamily(id).postUpdateTasks!.filter(({ kind }) => kind === 'function-test')
      expect(tests.length, id).toBeGreaterThan(0)
      for (const test of tests) expect(test.caution, `${id}, ${test.id}`).toBeTruthy()
    }
  })
  it('is named by every demo family', () => {
    for (const familyId of new Set(demoUnits.map((unit) => unit.familyId))) {
      expect(demoFamily(familyId).postUpdateTasks?.length, familyId).toBeGreaterThan(1)
    }
  })
})

// Common practice for chips in sockets: strap, old chip kept, blank check, pin 1, mains last.
it('leads through a chip’s change in the order of the trade', () => {
  const family = demoFamily('signal-desk')
  const plan = planSwap(family, componentOf(family))
  expect(plan.map(({ kind }) => kind)).toEqual(['power-up', 'swap', 'look'])
  expect(family.powerOrder!.on.map(({ id }) => id)).toEqual(['desk-dead', 'strap-on'])
  const order = family.chipReplacement!.map(({ id }) => id)
  const inOrder = ['old-out', 'old-kept', 'blank', 'program', 'compare', 'new-in', 'mains']
  expect(inOrder.map((id) => order.indexOf(id))).toEqual(
    inOrder.map((id) => order.indexOf(id)).sort((a, b) => a - b),
  )
  expect(order).toEqual(expect.arrayContaining(inOrder))
})
