import { describe, expect, it } from 'vitest'
import * as v from 'valibot'
import type { Log } from '../log'
import { asLambda, fuels } from '../mixture'
import { joinBinned } from '../view'
import {
  agreedLog,
  CaseAgreement,
  CaseEvent,
  errorMap,
  errorOf,
  foldCase,
  judgeConvergence,
  kindsLeft,
  roundError,
  usualKinds,
  type Aim,
  type CaseState,
  type RoundError,
} from '.'

const agreement = v.parse(CaseAgreement, {
  title: 'Surges at slow speed',
  goal: 'Even pull from standstill',
  calibrator: 'The calibrator',
  drive: 'electric',
  parts: [],
  channels: [{ name: 'Pedal' }],
  kinds: usualKinds('Pedal'),
  limits: [],
  floorVolts: null,
  aim: null,
} satisfies v.InferInput<typeof CaseAgreement>)

const by = 'Rona'
const day = 86_400_000
type Step = CaseEvent | { after: number }
/** The state after some events, an hour apart or as they say. */
function after(steps: Step[], { good = ['l1', 'l2', 'l3'], proved = ['j1', 'j2'] } = {}): CaseState {
  let at = 0
  const events = steps.flatMap((step) => {
    if ('after' in step) {
      at += step.after
      return []
    }
    at += 1000
    return [{ at, event: step }]
  })
  const logs = ['l1', 'l2', 'l3', 'bad'].map((id) => ({
    id,
    verdict: good.includes(id) ? ('go' as const) : ('stop' as const),
  }))
  return foldCase(events, logs, new Set(proved), at)!
}
const opened: CaseEvent = { kind: 'opened', by, agreement }
const revision = (imageId: string): CaseEvent => ({
  kind: 'revision',
  by,
  imageId,
  definitionId: null,
  remarks: '',
})
const job = (jobId: string): CaseEvent => ({ kind: 'job', by, jobId })
const log = (logId: string, logKind: string): CaseEvent => ({ kind: 'log', by, logId, logKind })
const sent: CaseEvent = { kind: 'sent', by, sha256: 'a'.repeat(64), symptoms: '' }

describe('a case and what is next in it (PRACTICE K1, K2)', () => {
  it('waits for a base image first', () => {
    expect(after([opened]).next).toEqual({ does: 'receive', after: 'opening' })
    expect(foldCase([], [], new Set(), 0)).toBeNull()
  })
  it('asks for the write until it is proved', () => {
    expect(after([opened, revision('a')]).next).toEqual({ does: 'write', round: 1 })
    expect(after([opened, revision('a'), job('j1')], { proved: [] }).next).toEqual({
      does: 'write',
      round: 1,
    })
    expect(after([opened, revision('a'), job('j1')]).next).toMatchObject({ does: 'log' })
  })
  it('asks for the kinds in their order, the next one when the last is good', () => {
    const written = [opened, revision('a'), job('j1')]
    expect(after(written).next).toEqual({ does: 'log', round: 1, logKind: 'idle' })
    expect(after([...written, log('bad', 'idle')]).next).toMatchObject({ logKind: 'idle' })
    expect(after([...written, log('l1', 'idle')]).next).toMatchObject({ logKind: 'light-load' })
    expect(after([...written, log('l1', 'full-load')]).next).toMatchObject({ logKind: 'idle' })
  })
  it('a held log counts by a named person’s word, a stopped one never', () => {
    const facts = [
      { id: 'held', verdict: 'hold' as const },
      { id: 'stopped', verdict: 'stop' as const },
    ]
    const events = (logId: string): CaseEvent[] => [
      opened,
      revision('a'),
      job('j1'),
      log(logId, 'idle'),
      { kind: 'log-accepted', by, logId, why: 'it rests there when cold' },
    ]
    const state = (list: CaseEvent[]) =>
      foldCase(
        list.map((event, at) => ({ at, event })),
        facts,
        new Set(['j1']),
        9,
      )!
    expect(state(events('held').slice(0, 4)).next).toMatchObject({ logKind: 'idle' })
    expect(state(events('held')).next).toMatchObject({ logKind: 'light-load' })
    expect(state(events('held')).rounds[0]!.logs[0]!.accepted).toBe('Rona: it rests there when cold')
    expect(state(events('stopped')).next).toMatchObject({ logKind: 'idle' })
  })
  it('sends when all kinds are there, waits, and goes on with the answer', () => {
    const logged = [
      opened,
      revision('a'),
      job('j1'),
      log('l1', 'idle'),
      log('l2', 'light-load'),
      log('l3', 'full-load'),
    ]
    expect(after(logged).next).toEqual({ does: 'send', round: 1 })
    const left: CaseEvent = { kind: 'log-left-out', by, logId: 'l2', why: 'a neighbour was alongside' }
    expect(after([...logged, left]).next).toMatchObject({ does: 'log', logKind: 'light-load' })
    const waiting = after([...logged, sent, { after: 3 * day }])
    expect(waiting.next).toMatchObject({ does: 'wait', round: 1 })
    expect(waiting.rounds[0]!.waitedMs).toBe(3 * day)
    const answered = after([...logged, sent, { after: 2 * day }, revision('b'), { after: 5 * day }])
    expect(answered.next).toEqual({ does: 'write', round: 2 })
    expect(answered.rounds.map(({ state }) => state)).toEqual(['answered', 'to-write'])
    expect(answered.rounds[0]!.waitedMs).toBe(2 * day + 1000)
    expect(answered.rounds[1]!.imageId).toBe('b')
  })
  it('a second image before anything was sent is no answer', () => {
    const state = after([opened, revision('a'), revision('b')])
    expect(state.rounds[0]!.answeredAt).toBeNull()
    expect(state.next).toMatchObject({ round: 2 })
  })
  it('closes and opens again; a machine that changed stays with its round', () => {
    const changed: CaseEvent = { kind: 'machine-changed', by, says: 'New propeller' }
    const closed: CaseEvent = { kind: 'closed', by, outcome: 'reached', says: 'Pulls evenly' }
    const done = after([opened, revision('a'), changed, closed])
    expect(done.next).toEqual({ does: 'nothing' })
    expect(done.closed).toMatchObject({ outcome: 'reached' })
    expect(done.rounds[0]!.machineChanges).toMatchObject([{ says: 'New propeller' }])
    expect(
      after([opened, revision('a'), closed, { kind: 'reopened', by, why: 'It surges again' }]).next,
    ).toMatchObject({ does: 'write' })
  })
  it('the newest agreement counts', () => {
    const only = { ...agreement, kinds: agreement.kinds.slice(0, 1) }
    const state = after([
      opened,
      revision('a'),
      job('j1'),
      log('l1', 'idle'),
      { kind: 'agreed', by, agreement: only, why: 'no rollers here' },
    ])
    expect(state.next).toMatchObject({ does: 'send' })
    expect(kindsLeft(agreement, state.rounds[0]!)).toEqual(['light-load', 'full-load'])
  })
})

describe('distance to the aim', () => {
  const aim: Aim = {
    channel: 'Amps',
    target: { channel: 'Wanted' },
    x: { channel: 'Speed', points: [0, 100] },
    y: { channel: 'Pedal', points: [0, 100] },
    within: 1,
    unit: 'A',
  }
  const logOf = (columns: Record<string, number[]>): Log => ({
    seconds: Float64Array.from(Object.values(columns)[0]!, (_, row) => row),
    channels: Object.entries(columns).map(([name, values]) => ({
      name,
      unit: '',
      values: Float64Array.from(values),
    })),
    bytes: 1,
    preamble: [],
    findings: [],
  })
  const five = [1, 1, 1, 1, 1]
  const measured = logOf({
    Amps: [12, 14, 16, 12, 16],
    Wanted: five.map(() => 10),
    Speed: five.map(() => 0),
    Pedal: five.map(() => 100),
  })
  it('is measured less wanted', () => {
    expect([...errorOf(measured, aim)!]).toEqual([2, 4, 6, 2, 6])
    expect([...errorOf(measured, { ...aim, target: { value: 12 } })!]).toEqual([0, 2, 4, 0, 4])
    expect(errorOf(measured, { ...aim, channel: 'Volts' })).toBeNull()
    expect(errorOf(measured, { ...aim, target: { channel: 'Volts' } })).toBeNull()
  })
  it('one figure a round: cells with five figures or more count once each', () => {
    // Mean 4, deviations −2 0 2 −2 2, squares 16, / 4 = 4: spread 2.
    const error = roundError(3, errorMap(measured, aim)!)!
    expect(error).toMatchObject({ round: 3, rms: 4, worst: 4, spread: 2, reached: 1, cells: 4 })
    const four = logOf(
      Object.fromEntries(measured.channels.map(({ name, values }) => [name, [...values.slice(0, 4)]])),
    )
    expect(roundError(1, errorMap(four, aim)!)).toBeNull()
    expect(errorMap(logOf({ Speed: [1] }), aim)).toBeNull()
  })
  it('joins the logs of a round', () => {
    const error = roundError(1, joinBinned([errorMap(measured, aim)!, errorMap(measured, aim)!])!)!
    expect(error.rms).toBeCloseTo(4, 9)
    expect(error.reached).toBe(1)
  })

  const errors = (...rms: number[]): RoundError[] =>
    rms.map((each, index) => ({
      round: index + 1,
      rms: each,
      worst: each,
      spread: 0.5,
      reached: 9,
      cells: 16,
    }))
  const said = (rounds: number, list: RoundError[], drive: 'electric' | 'combustion' = 'electric') =>
    judgeConvergence(rounds, list, aim, drive).map(({ rule, level }) => `${rule} ${level}`)
  it('is reached at the figure agreed on, and not above it', () => {
    expect(said(3, errors(9, 4, 1))).toEqual(['aim-reached go'])
    expect(said(3, errors(9, 4, 1.01))).toEqual([])
  })
  it('more than nine rounds are nine times in ten a mechanical fault (common practice)', () => {
    const falling = errors(90, 70, 50, 40, 30, 20, 15, 10, 7, 4)
    expect(said(9, falling.slice(0, 9))).toEqual([])
    expect(said(10, falling)).toEqual(['many-rounds hold'])
    expect(said(10, errors(90, 70, 50, 40, 30, 20, 15, 10, 7, 1))).toEqual(['aim-reached go'])
  })
  it('says so sooner where two rounds brought less than a tenth', () => {
    expect(said(3, errors(10, 9.5, 9.1))).toEqual(['not-converging hold'])
    expect(said(3, errors(10, 9.5, 8.9))).toEqual([])
    expect(said(3, errors(10, 8, 12))).toEqual([])
    expect(said(2, errors(10, 10))).toEqual([])
  })
  it('the check list is that of the drive', () => {
    const remedy = (drive: 'electric' | 'combustion') =>
      judgeConvergence(11, errors(5, 5, 5), aim, drive)[0]!.remedy!
    for (const word of ['Leaks', 'Air sensor', 'Plugs', 'pump']) expect(remedy('combustion')).toContain(word)
    expect(remedy('electric')).toContain('Propeller')
    expect(remedy('electric')).not.toContain('Plugs and leads')
  })
  it('a unit that does not do the same thing twice is told', () => {
    const wide = errors(9, 4, 3).map((each) => ({ ...each, spread: 6.1 }))
    expect(said(3, wide)).toEqual(['spread-too-wide note'])
    expect(
      said(
        3,
        wide.map((each) => ({ ...each, spread: 6 })),
      ),
    ).toEqual([])
  })
  it('without an aim only the rounds are counted', () => {
    expect(judgeConvergence(10, [], null, 'electric').map(({ rule }) => rule)).toEqual(['many-rounds'])
    expect(judgeConvergence(9, [], null, 'electric')).toEqual([])
  })
})

describe('a log in the units that were agreed on', () => {
  const combustion: CaseAgreement = {
    ...agreement,
    drive: 'combustion',
    fuel: 'petrol',
    channels: [
      { name: 'Wideband', unit: 'lambda', role: 'mixture' },
      { name: 'Pedal', unit: '%', role: 'load' },
    ],
  }
  const log = (unit: string): Log => ({
    seconds: Float64Array.of(0, 1),
    channels: [
      { name: 'WIDEBAND', unit, values: Float64Array.of(14.7, 29.4) },
      { name: 'Pedal', unit: '%', values: Float64Array.of(14.7, 1) },
    ],
    bytes: 1,
    preamble: [],
    findings: [],
  })
  it('turns air over fuel into lambda, and nothing else', () => {
    const [mixture, pedal] = agreedLog(log('AFR'), combustion).channels
    expect([...mixture!.values]).toEqual([1, 2])
    expect(mixture!.unit).toBe('lambda')
    expect([...pedal!.values]).toEqual([14.7, 1])
  })
  it.each([
    ['a log in lambda', log('lambda'), combustion],
    ['no fuel known', log('AFR'), (({ fuel: _, ...rest }) => rest)(combustion)],
    [
      'AFR agreed on',
      log('AFR'),
      { ...combustion, channels: [{ name: 'Wideband', unit: 'AFR', role: 'mixture' as const }] },
    ],
  ])('leaves it as it is: %s', (_, given, agreed) => {
    expect([...agreedLog(given, agreed).channels[0]!.values]).toEqual([14.7, 29.4])
  })
})

describe('mixtures', () => {
  it('air and fuel by weight as lambda (stoichiometric ratio of petrol 14.7, from memory)', () => {
    expect(asLambda(14.7, 'AFR', 'petrol')).toBe(1)
    expect(asLambda(12.5, 'A/F', 'petrol')).toBeCloseTo(0.85, 2)
    expect(asLambda(0.85, 'lambda', 'petrol')).toBe(0.85)
    expect(asLambda(0.85, '', 'petrol')).toBe(0.85)
  })
  it('ethanol from its formula: C2H6O + 3 O2, air 23.2 % oxygen by mass', () => {
    // Molar masses 46.07 and 32.00 g/mol: 3 × 32.00 / 46.07 / 0.232 = 8.98; E85 with petrol 14.7 in the rest.
    const pure = (3 * 32) / 46.07 / 0.232
    expect(0.85 * pure + 0.15 * fuels.petrol.airPerFuel).toBeCloseTo(fuels.e85.airPerFuel, 0)
  })
})
