import { demoFamilies, demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import {
  beginDrill,
  drillOver,
  exercisesOf,
  faultDrillsOf,
  faultKinds,
  judgeMove,
  passMark,
  scoreOf,
  standingsOf,
  type Practice,
} from '.'

const day = 86_400_000
const families = demoFamilies.map(({ id }) => demoFamily(id))

const drillsOf = (id: string) => faultDrillsOf(demoFamily(id)).map(({ kind }) => kind)
const allDrills = families.flatMap(faultDrillsOf)
const cut = faultDrillsOf(demoFamily('fog-signal')).find(({ kind }) => kind === 'cut-at-60')!

// PRACTICE H7, F1, D1, F4, B7, E7, G5, common practice.
describe('the fault drills', () => {
  it('are the seven that the trade fears, each played by some of the equipment', () => {
    expect(faultKinds).toEqual([
      'cut-at-60',
      'swapped-pair',
      'sag',
      'second-unit',
      'wrong-variant',
      'missed-window',
      'bad-backup',
    ])
    expect(new Set(allDrills.map(({ kind }) => kind))).toEqual(new Set(faultKinds))
  })
  it('come from the profile: what it has no part for cannot go wrong on it', () => {
    // Two addresses on one bus, no signal pair to swap, a battery with loads.
    expect(drillsOf('buoy-battery')).toEqual([
      'cut-at-60',
      'sag',
      'second-unit',
      'missed-window',
      'bad-backup',
    ])
    // Fed from the bench, one device on USB: nothing sags, nobody else listens, no cable carries transmit and receive.
    expect(drillsOf('tide-logger')).toEqual(['missed-window', 'bad-backup'])
    // A chip on a clip can be read badly; nothing of its desk runs, so there is no window to miss.
    expect(drillsOf('signal-desk')).toEqual(['bad-backup'])
  })
  it('speak of the unit in its own words', () => {
    const { floorVolts, supply } = demoFamily('launch-motor').power
    const drill = faultDrillsOf(demoFamily('launch-motor')).find(({ kind }) => kind === 'sag')!
    expect(drill.situation).toContain(`${floorVolts}`)
    const biggest = Math.max(...supply!.loads.map(({ amps }) => amps))
    const load = supply!.loads.find(({ amps }) => amps === biggest)!
    expect(drill.situation.toLowerCase()).toContain(load.name.toLowerCase())
    expect(drill.moves.find(({ id }) => id === 'shed')!.says).toContain(load.shed)
  })
  it('have none for a profile that only names its hardware', () => {
    const { loads: _loads, ...supply } = demoFamily('launch-motor').power.supply!
    const bare = {
      ...demoFamily('launch-motor'),
      links: [],
      entry: [],
      power: { ...demoFamily('launch-motor').power },
    }
    expect(faultDrillsOf(bare)).toEqual([])
    const quiet = {
      ...demoFamily('launch-motor'),
      power: { ...bare.power, supply: { ...supply, loads: [] } },
    }
    expect(faultDrillsOf(quiet).map(({ kind }) => kind)).not.toContain('sag')
  })
  it.each(allDrills.map((drill) => [drill.id, drill] as const))(
    '%s can be worked to its end, and every wrong move says what comes of it',
    (_, drill) => {
      let state = beginDrill(drill)
      for (const wrong of drill.moves.filter(({ harm }) => harm)) {
        state = judgeMove(state, wrong.id)
        expect(state.done).toEqual([])
        expect(wrong.then.length).toBeGreaterThan(10)
      }
      for (const id of drill.order) state = judgeMove(state, id)
      expect(drillOver(state)).toBe(true)
      expect(
        drill.moves
          .filter(({ harm }) => !harm)
          .map(({ id }) => id)
          .sort(),
      ).toEqual([...drill.order].sort())
      expect(judgeMove(state, drill.order[0]!)).toBe(state)
    },
  )
  it('tell a right move that comes too soon from a wrong one', () => {
    const state = judgeMove(judgeMove(beginDrill(cut), 'write-again'), 'power-off')
    expect(state.chosen.map(({ judged }) => judged)).toEqual(['too-soon', 'unsafe'])
    expect(state.done).toEqual([])
  })
  it('never let a cut unit be powered down', () => {
    expect(cut.moves.find(({ id }) => id === 'power-off')!.harm).toBe('unsafe')
  })
})

describe('the score', () => {
  it('is safety first, then correctness, then time', () => {
    const usualMs = 60_000
    const perfect = scoreOf({ unsafe: 0, wrong: 0, tookMs: 60_000, usualMs })
    expect(perfect).toBe(100)
    const slow = scoreOf({ unsafe: 0, wrong: 0, tookMs: 600_000, usualMs })
    const detour = scoreOf({ unsafe: 0, wrong: 2, tookMs: 1000, usualMs })
    const unsafe = scoreOf({ unsafe: 1, wrong: 0, tookMs: 1000, usualMs })
    expect(slow).toBe(90)
    expect(slow).toBeGreaterThan(detour)
    expect(detour).toBeGreaterThan(unsafe)
    expect(unsafe).toBeLessThan(passMark)
  })
})

describe('practice', () => {
  const exercises = exercisesOf(families)
  const practised = (exerciseId: string, at: number, score: number): Practice => ({
    exerciseId,
    by: 'A. Lund',
    at,
    help: 'full',
    unsafe: 0,
    wrong: 0,
    tookMs: 1,
    score,
  })
  it('has an exercise for every family and every fault', () => {
    for (const { id } of families) expect(exercises.some(({ familyId }) => familyId === id)).toBe(true)
    expect(exercises.filter(({ kind }) => kind === 'fault').map(({ id }) => id)).toEqual(
      allDrills.map(({ id }) => `fault-${id}`),
    )
  })
  it('is spaced over days: 1, 3, 7 after each pass in a row, and at once after a miss; help goes away', () => {
    const id = exercises[0]!.id
    const at = (practices: Practice[]) =>
      standingsOf(exercises, practices, 0).find(({ exercise }) => exercise.id === id)!
    expect(at([])).toMatchObject({ streak: 0, dueAt: 0, help: 'full', best: null })
    expect(at([practised(id, 0, 100)])).toMatchObject({ streak: 1, dueAt: day, help: 'window' })
    expect(at([practised(id, 0, 100), practised(id, day, 90)])).toMatchObject({
      streak: 2,
      dueAt: 4 * day,
      help: 'none',
    })
    expect(at([practised(id, 0, 100), practised(id, day, 90), practised(id, 4 * day, 85)]).dueAt).toBe(
      11 * day,
    )
    expect(at([practised(id, 0, 100), practised(id, day, 40)])).toMatchObject({
      streak: 0,
      dueAt: day,
      help: 'full',
      best: 100,
    })
  })
  it('puts what is due first on top', () => {
    const [first, second] = exercises
    const list = standingsOf(exercises, [practised(first!.id, 0, 100)], day / 2)
    expect(list[0]!.exercise.id).not.toBe(first!.id)
    expect(list.at(-1)!.exercise.id).toBe(first!.id)
    expect(list.some(({ exercise }) => exercise.id === second!.id)).toBe(true)
  })
})
