import { describe, expect, it } from 'vitest'
import {
  chargeLimit,
  correctedBy,
  flowOf,
  judgeChargeUsed,
  judgePower,
  loadsToShed,
  minutesToFloor,
  restVolts,
  smallestCharger,
  sourceOhms,
  supplyCourse,
  type Load,
  type PowerQuestion,
  type Source,
  type SupplySetup,
} from '.'

/*
 * The supply worked by hand: Ohm's and Kirchhoff's laws, Peukert 1897 (t = H (C / (I H))^k), and the rest-voltage table in
 * use in the trade for six lead-acid cells (12.7 V full, 12.4 V at three quarters, 12.2 V half, 12.0 V quarter, 11.8 V flat).
 */

const source = (form: Partial<Source> = {}): Source => ({
  chemistry: 'lead-acid',
  cells: 6,
  capacityAh: 100,
  charge: 0.75,
  celsius: 25,
  ohms: 0.05,
  ...form,
})
const load = (id: string, amps: number, off = false): Load => ({
  id,
  name: id,
  amps,
  shed: `pull ${id}`,
  off,
})
const setup = (form: Partial<SupplySetup> = {}): SupplySetup => ({
  source: source(),
  leadOhms: 0.02,
  loads: [load('radar', 6), load('lamp', 3, true)],
  charger: null,
  ...form,
})
const bench = (form: Partial<Source> = {}) =>
  setup({ source: source({ chemistry: 'bench', cells: 1, setVolts: 12, ohms: 0, ...form }), loads: [] })

describe('the source', () => {
  it.each([
    [1, 12.7],
    [0.75, 12.4],
    [0.5, 12.2],
    [0.25, 12.0],
    [0, 11.8],
  ])('of six lead-acid cells at a charge of %s rests at %s V', (charge, volts) => {
    expect(Math.abs(restVolts(source({ charge })) - volts)).toBeLessThan(0.011)
  })
  it('has more ohms when cold, empty, small or long, and those that were measured where they were', () => {
    const ohms = (form: Partial<Source> = {}) => {
      const { ohms: _measured, ...rest } = source({ charge: 1, ...form })
      return sourceOhms(rest)
    }
    const warm = ohms()
    // Six cells of a hundred ampere-hours: some ten milliohms over minutes (from memory).
    expect(warm).toBeGreaterThan(0.005)
    expect(warm).toBeLessThan(0.02)
    expect(ohms({ celsius: 40 })).toBe(warm)
    expect(ohms({ celsius: -20 })).toBeCloseTo(2 * warm, 10)
    expect(ohms({ celsius: 2.5 })).toBeCloseTo(1.5 * warm, 10)
    expect(ohms({ charge: 0 })).toBeCloseTo(1.5 * warm, 10)
    expect(ohms({ capacityAh: 50 })).toBeCloseTo(2 * warm, 10)
    expect(ohms({ cells: 12 })).toBeCloseTo(2 * warm, 10)
    expect(sourceOhms(source())).toBe(0.05)
    expect(sourceOhms(source({ ohms: 0 }))).toBe(0)
    const { ohms: _measured, ...supply } = bench().source
    expect(sourceOhms(supply)).toBe(0)
  })
})

describe('what flows', () => {
  const rest = restVolts(source())
  const flow = (charger: SupplySetup['charger'], form: Partial<SupplySetup> = {}) => {
    const all = setup({ charger, ...form })
    const { terminalVolts, batteryAmps, chargerAmps } = flowOf(all, all.source, 4)
    return [terminalVolts, batteryAmps, chargerAmps].map((each) => Number(each.toFixed(9)))
  }
  const want = (...each: number[]) => each.map((figure) => Number(figure.toFixed(9)))
  // 6 A of the radar and 4 A of the unit through 0.05 ohm, 4 A through 0.02 ohm of lead.
  it('out of a battery alone', () => expect(flow(null)).toEqual(want(rest - 0.5 - 0.08, 10, 0)))
  it('with the lamp on, too', () =>
    expect(flow(null, { loads: [load('radar', 6), load('lamp', 3)] })).toEqual(
      want(rest - 0.65 - 0.08, 13, 0),
    ))
  it('with a charger that gives all it has', () =>
    expect(flow({ amps: 4, volts: 15 })).toEqual(want(rest - 0.3 - 0.08, 6, 4)))
  it('with a charger that gives just what is drawn', () =>
    expect(flow({ amps: 10, volts: 15 })).toEqual(want(rest - 0.08, 0, 10)))
  it('with a charger that charges, up to its volts', () =>
    expect(flow({ amps: 30, volts: rest + 0.1 })).toEqual(want(rest + 0.1 - 0.08, -2, 12)))
  it('with one whose volts lie below the battery’s, which helps only as far', () =>
    expect(flow({ amps: 30, volts: rest - 0.2 })).toEqual(want(rest - 0.2 - 0.08, 4, 6)))
  it('with one whose volts are never reached from above: it takes nothing', () =>
    expect(flow({ amps: 30, volts: rest - 2 })).toEqual(want(rest - 0.5 - 0.08, 10, 0)))
  it('with one of no amps', () =>
    expect(flow({ amps: 0, volts: 15 })).toEqual(want(rest - 0.5 - 0.08, 10, 0)))
  it('with one of few amps and few volts: never more than it has', () =>
    expect(flow({ amps: 2, volts: rest - 0.45 })).toEqual(want(rest - 0.45 - 0.08, 9, 1)))

  it.each([
    [4, 12 - 0.08, 4],
    [5, 12 - 0.1, 5],
    [10, 6 - 0.2, 5],
  ])('out of a bench supply of 12 V and 5 A, at %s A: %s V', (amps, volts, given) => {
    const all = bench({ limitAmps: 5 })
    expect(flowOf(all, all.source, amps)).toEqual({
      terminalVolts: volts,
      batteryAmps: given,
      chargerAmps: 0,
    })
  })
  it('out of a bench supply with ohms of its own and no limit', () => {
    const all = bench({ ohms: 0.1 })
    const { terminalVolts, batteryAmps } = flowOf(all, all.source, 10)
    expect(terminalVolts).toBeCloseTo(12 - 1 - 0.2, 9)
    expect(batteryAmps).toBe(10)
  })
})

describe('the course', () => {
  const hour = 3_600_000
  const quiet = (form: Partial<Source> = {}, more: Partial<SupplySetup> = {}) =>
    setup({ source: source({ ohms: 0, charge: 1, ...form }), leadOhms: 0, loads: [], ...more })
  const endCharge = (all: SupplySetup, unitAmps: number, ms = hour) =>
    supplyCourse(all, [{ name: 'write', ms, unitAmps }]).points.at(-1)!.charge

  it.each([
    ['an hour at the rated 5 A of 100 Ah over 20 h takes a twentieth', {}, 5, 0.95],
    ['at 10 A Peukert counts 5 · 2^1.2 = 11.49 A', {}, 10, 1 - 0.11487],
    ['at −20 °C half of the ampere-hours are there', { celsius: -20 }, 5, 0.9],
    ['nothing is left below nothing', { charge: 0.01 }, 5, 0],
  ])('%s', (_what, form, amps, left) => {
    expect(endCharge(quiet(form), amps)).toBeCloseTo(left, 4)
  })
  it('is charged by what the charger gives beyond, without Peukert, and never above full', () => {
    const charger = { amps: 15, volts: 20 }
    expect(endCharge(quiet({ charge: 0.5, ohms: 0.001 }, { charger }), 5)).toBeCloseTo(0.6, 6)
    expect(endCharge(quiet({ charge: 0.97, ohms: 0.001 }, { charger }), 5)).toBe(1)
  })
  it('of a supply without a charge has none', () => {
    expect(endCharge(bench(), 5)).toBe(0.75)
  })
  it('has the volts at the last byte of the write, whatever comes after it', () => {
    const all = bench({ ohms: 0.1 })
    const course = supplyCourse(all, [
      { name: 'erase', ms: 1000, unitAmps: 1 },
      { name: 'write', ms: 1000, unitAmps: 2 },
      { name: 'restart', ms: 1000, unitAmps: 5 },
      { name: 'prove', ms: 1000, unitAmps: 0.5 },
    ])
    const volts = (amps: number) => 12 - amps * 0.12
    expect(course.nowVolts).toBeCloseTo(volts(1), 9)
    expect(course.lastByteVolts).toBeCloseTo(volts(2), 9)
    expect(course.lowestVolts).toBeCloseTo(volts(5), 9)
    expect(course.lowestAt).toBeCloseTo(2000, 6)
    expect(course.endVolts).toBeCloseTo(volts(0.5), 9)
    // One after the other, without a gap.
    expect(course.points.at(-1)!.at).toBeCloseTo(4000, 6)
    const noWrite = supplyCourse(all, [{ name: 'idle', ms: 0, unitAmps: 3 }])
    expect(noWrite.points).toHaveLength(2)
    expect(noWrite.lastByteVolts).toBeCloseTo(volts(3), 9)
  })
  it('accounts for every joule', () => {
    // 12 V, 0.1 ohm within, 0.02 ohm of lead, 5 A for 100 s.
    const { energy } = supplyCourse(bench({ ohms: 0.1 }), [{ name: 'write', ms: 100_000, unitAmps: 5 }])
    expect(energy.source).toBeCloseTo(12 * 5 * 100, 6)
    expect(energy.unit).toBeCloseTo((12 - 0.6) * 5 * 100, 6)
    expect(energy.lost).toBeCloseTo((25 * 0.1 + 25 * 0.02) * 100, 6)
    expect([energy.loads, energy.charger, energy.stored]).toEqual([0, 0, 0])
    const charged = supplyCourse(setup({ charger: { amps: 30, volts: restVolts(source()) + 0.1 } }), [
      { name: 'write', ms: 1000, unitAmps: 4 },
    ]).energy
    const given = charged.source + charged.charger
    const taken = charged.unit + charged.loads + charged.lost + charged.stored
    expect(given).toBeCloseTo(taken, 6)
    expect(charged.stored).toBeGreaterThan(0)
    expect(charged.source).toBe(0)
  })

  describe('down to the floor', () => {
    // 12.40 V at three quarters, 12.20 V at half: in the middle of it 12.5 Ah are gone, at the rated 5 A 150 minutes.
    it('takes as long as the charge between lasts', () => {
      const all = quiet({ charge: 0.75 })
      const middle = (restVolts(source({ charge: 0.75 })) + restVolts(source({ charge: 0.5 }))) / 2
      expect(minutesToFloor(all, 5, middle)).toBeCloseTo(150, 0)
    })
    it('is over at once below it, and not at it', () => {
      const all = quiet({ charge: 0.75 })
      const now = restVolts(source())
      expect(minutesToFloor(all, 5, now + 0.001)).toBe(0)
      expect(minutesToFloor(all, 5, now)).toBeCloseTo(0, 6)
    })
    it('is never reached by what holds its volts, nor within a working day by what hardly draws', () => {
      expect(minutesToFloor(bench(), 5, 11)).toBeNull()
      expect(minutesToFloor(quiet(), 0.1, 12)).toBeNull()
    })
  })
})

describe('a meter corrects the model', () => {
  it('to the charge whose volts under the load that is on are those measured', () => {
    for (const charge of [0.1, 0.4, 0.75, 0.99]) {
      const all = setup({ source: source({ charge }) })
      const volts = flowOf(all, all.source, 2).terminalVolts
      expect(correctedBy(setup({ source: source({ charge: 0.5 }) }), volts, 2)!.source.charge).toBeCloseTo(
        charge,
        6,
      )
    }
  })
  it('of a supply that holds its volts: what it is set to is what was measured and what is lost on the way', () => {
    const all = bench({ ohms: 0.1 })
    expect(correctedBy(all, 11.5, 5)!.source.setVolts).toBeCloseTo(11.5 + 0.6, 9)
  })
  it('takes a slack of four hundredths and no more', () => {
    const all = setup({ loads: [], source: source({ ohms: 0 }), leadOhms: 0 })
    const full = restVolts(source({ charge: 1 }))
    const flat = restVolts(source({ charge: 0 }))
    const slack = full * 0.04
    expect(correctedBy(all, full + slack - 1e-6, 0)!.source.charge).toBeCloseTo(1, 6)
    expect(correctedBy(all, full + slack + 1e-6, 0)).toBeNull()
    expect(correctedBy(all, flat - slack + 1e-6, 0)!.source.charge).toBeCloseTo(0, 6)
    expect(correctedBy(all, flat - slack - 1e-6, 0)).toBeNull()
  })
})

describe('ampere-hours of the run against those in the battery', () => {
  const used = (hours: number, form: Partial<Source> = {}, more: Partial<SupplySetup> = {}, amps = 5) =>
    judgeChargeUsed(setup({ source: source({ charge: 1, ...form }), loads: [], ...more }), [
      { name: 'write', ms: hours * 3_600_000, unitAmps: amps },
    ])
  it.each([
    [15.9, 'go'],
    [16.1, 'hold'],
    [19.9, 'hold'],
    [20.1, 'stop'],
  ])('%s h at 5 A out of 100 Ah: %s', (hours, level) => {
    const finding = used(hours)!
    expect(finding).toMatchObject({ rule: 'charge-used', level })
    expect(finding.numbers!['takenAh']).toBeCloseTo(hours * 5, 6)
    expect(finding.numbers!['usableAh']).toBeCloseTo(100, 6)
    expect(finding.remedy === undefined).toBe(level === 'go')
    expect(finding.says.includes('wants')).toBe(level === 'stop')
  })
  it('an empty battery has none', () => expect(used(1, { charge: 0 })).toMatchObject({ level: 'stop' }))
  it.each([
    ['a supply without a charge', () => used(1, { chemistry: 'bench', setVolts: 12 })],
    ['no time', () => used(0)],
    ['no draw', () => used(1, {}, {}, 0)],
    [
      'a charger that carries it all',
      () => used(1, { ohms: 0.01, charge: 0.5 }, { charger: { amps: 20, volts: 15 } }),
    ],
  ])('says nothing of %s', (_what, ask) => expect(ask()).toBeNull())
})

describe('the ways out', () => {
  const rest = restVolts(source({ charge: 0.75 }))
  const idle = [{ name: 'write', ms: 0, unitAmps: 0 }]
  const alone = (form: Partial<Source> = {}) =>
    setup({ source: source({ ohms: 0.1, ...form }), loads: [], leadOhms: 0 })
  it('no charger where the supply holds by itself, to the floor', () => {
    expect(smallestCharger(alone(), idle, rest, 15)).toBe(0)
    expect(smallestCharger(alone(), idle, rest + 1e-6, 15)).toBe(1)
  })
  it('the smallest that is sold', () => {
    // 0.89 V above rest through 0.1 ohm are 8.9 A.
    expect(smallestCharger(alone(), idle, rest + 0.89, 15)).toBe(10)
    expect(smallestCharger(alone(), idle, rest + 0.79, 15)).toBe(8)
  })
  it('none beyond what the battery takes, to the ampere', () => {
    // A quarter of its ampere-hours: 10 A for 40 Ah.
    expect(smallestCharger(alone({ capacityAh: 40 }), idle, rest + 0.89, 15)).toBe(10)
    expect(smallestCharger(alone({ capacityAh: 39.9 }), idle, rest + 0.89, 15)).toBeNull()
    expect(chargeLimit(alone({ capacityAh: 40 }), idle)!.amps).toBe(10)
  })
  it('none that would have to go beyond its volts, or into a battery too cold or too hot', () => {
    expect(smallestCharger(alone(), idle, rest + 0.89, rest + 0.5)).toBeNull()
    expect(smallestCharger(alone({ celsius: -21 }), idle, 13, 15)).toBeNull()
    expect(smallestCharger(alone({ celsius: 51 }), idle, 13.2, 15)).toBeNull()
    expect(smallestCharger(alone({ celsius: 50 }), idle, 13.2, 15)).not.toBeNull()
  })

  const loads = [
    load('pump', 1),
    load('radar', 5),
    load('lamp', 3),
    load('heater', 9, true),
    load('clock', 0),
  ]
  const shedding = (floorVolts: number) =>
    loadsToShed(setup({ source: source({ ohms: 0.1 }), loads, leadOhms: 0 }), idle, floorVolts)?.map(
      ({ id }) => id,
    ) ?? null
  // Nine amps through 0.1 ohm: 0.9 V are lost; each ampere less is a tenth of a volt more.
  it.each([
    ['nothing where it holds', 0.9, []],
    ['the lightest that does it alone', 0.85, ['pump']],
    ['the lamp, where the pump is too little', 0.75, ['lamp']],
    ['the radar, where the lamp is too little', 0.45, ['radar']],
    ['the radar and the lightest beside it', 0.35, ['radar', 'pump']],
    ['the radar and the lamp', 0.15, ['radar', 'lamp']],
    ['all that are on', 0.0, ['radar', 'lamp', 'pump']],
    ['null where all of them are not enough', -0.01, null],
  ])('sheds %s', (_what, lost, ids) => {
    expect(shedding(rest - lost - (lost === 0.9 || lost === 0 ? 1e-9 : 0))).toEqual(ids)
  })
})

describe('the power gate', () => {
  const ask = (form: Partial<PowerQuestion> = {}) =>
    judgePower({
      setup: bench(),
      stretches: [
        { name: 'erase', ms: 60_000, unitAmps: 0 },
        { name: 'write', ms: 600_000, unitAmps: 0 },
      ],
      floorVolts: 11,
      ceilingVolts: 15,
      measuredVolts: null,
      idleAmps: 0,
      ...form,
    })
  const level = (form: Partial<PowerQuestion>, rule: string) =>
    ask(form).gate.findings.find((finding) => finding.rule === rule)?.level

  it.each([
    [12.001, 'stop'],
    [12, 'hold'],
    [11.85, 'hold'],
    [11.75, 'go'],
  ])('12 V over a floor of %s V: %s', (floorVolts, found) => {
    expect(level({ floorVolts }, 'supply-holds')).toBe(found)
  })
  it.each([
    [3.31, 'stop'],
    [3.25, 'hold'],
    [3.2, 'go'],
  ])('3.3 V that hold their volts over a floor of %s V: %s', (floorVolts, found) => {
    expect(level({ setup: bench({ setVolts: 3.3 }), floorVolts }, 'supply-holds')).toBe(found)
  })
  it.each([
    [12, undefined],
    [11.999, 'stop'],
  ])('12 V under a ceiling of %s V: %s', (ceilingVolts, found) => {
    expect(level({ ceilingVolts }, 'supply-ceiling')).toBe(found)
  })
  it('stands above the ceiling also when only one moment does', () => {
    const falls = ask({
      setup: bench({ ohms: 0.1 }),
      ceilingVolts: 11.9,
      stretches: [
        { name: 'idle', ms: 0, unitAmps: 0 },
        { name: 'write', ms: 1000, unitAmps: 5 },
      ],
    })
    expect(falls.gate.findings.find(({ rule }) => rule === 'supply-ceiling')).toMatchObject({
      level: 'stop',
      numbers: { highestVolts: 12, ceilingVolts: 11.9 },
    })
  })

  it.each([
    ['how many cells', { cells: 0 }],
    ['its ampere-hours', { capacityAh: 0 }],
    ['its state of charge', { charge: NaN }],
  ])('asks for %s where nobody said', (named, form) => {
    const { gate, course } = ask({ setup: setup({ source: source(form) }) })
    expect(gate).toMatchObject({
      id: 'power',
      verdict: 'hold',
      findings: [{ rule: 'supply-described', level: 'hold' }],
    })
    expect(gate.findings[0]!.says).toContain(named)
    expect(course).toBeNull()
  })
  it('asks for the volts of a bench supply, and for nothing of its cells', () => {
    const { setVolts: _volts, ...blank } = bench({ cells: 0, capacityAh: 0, charge: NaN }).source
    const { gate } = ask({ setup: { ...bench(), source: blank } })
    expect(gate.findings.map(({ says }) => says)).toEqual(['The supply is not described: its volts.'])
    expect(
      level({ setup: bench({ cells: 0, capacityAh: 0, charge: NaN }) }, 'supply-described'),
    ).toBeUndefined()
  })

  it('volts that no charge gives are held; below the floor they stop as well', () => {
    const battery = { setup: setup({ loads: [] }), floorVolts: 9 }
    expect(level({ ...battery, measuredVolts: 9 }, 'measurement-plausible')).toBe('hold')
    expect(level({ ...battery, measuredVolts: 9 }, 'supply-holds')).toBeUndefined()
    expect(level({ ...battery, measuredVolts: 8.99 }, 'supply-holds')).toBe('stop')
    expect(ask({ ...battery, measuredVolts: 8.99 }).gate.numbers).toMatchObject({
      supplyVolts: 8.99,
      floorVolts: 9,
    })
    expect(level({ ...battery, measuredVolts: 12.4 }, 'measurement-plausible')).toBeUndefined()
    // Two batteries in series on a unit for one: 25.6 V where 15 V is the most (PRACTICE D1).
    expect(level({ ...battery, measuredVolts: 25.6 }, 'measurement-plausible')).toBe('hold')
    expect(level({ ...battery, measuredVolts: 25.6 }, 'supply-ceiling')).toBe('stop')
    expect(ask({ ...battery, measuredVolts: 25.6 }).gate.verdict).toBe('stop')
    expect(level({ ...battery, measuredVolts: 15.01 }, 'supply-ceiling')).toBe('stop')
    expect(level({ ...battery, ceilingVolts: 15.5, measuredVolts: 15.5 }, 'supply-ceiling')).toBeUndefined()
  })
  it('is held while nobody has measured', () => {
    expect(level({}, 'supply-measured')).toBe('hold')
    expect(level({ measuredVolts: 12 }, 'supply-measured')).toBeUndefined()
  })
  it('what was measured with the lamps on counts as that, and the lamps do not in the run', () => {
    const measuredWith = setup({ loads: [load('lamp', 10)], leadOhms: 0 })
    const now = setup({ loads: [], leadOhms: 0 })
    const volts = flowOf(measuredWith, source({ charge: 0.6 }), 0).terminalVolts
    expect(ask({ setup: now, measuredVolts: volts, measuredWith }).course!.points[0]!.charge).toBeCloseTo(
      0.6,
      5,
    )
    expect(ask({ setup: now, measuredVolts: volts }).course!.points[0]!.charge).toBeLessThan(0.4)
    const set = ask({
      setup: bench({ ohms: 0.1 }),
      measuredVolts: 11.5,
      measuredWith: bench({ ohms: 0.1 }),
      idleAmps: 5,
    })
    expect(set.course!.nowVolts).toBeCloseTo(12.1, 9)
  })

  const sagging = (form: Partial<PowerQuestion> = {}) =>
    ask({
      setup: setup({ leadOhms: 0 }),
      stretches: [
        { name: 'erase', ms: 0, unitAmps: 2 },
        { name: 'write', ms: 60_000, unitAmps: 4 },
      ],
      floorVolts: 12.1,
      ...form,
    })
  it('names load and charger where it sags, and neither where it holds', () => {
    const sags = sagging()
    expect(sags.shed).toEqual([{ id: 'radar', name: 'radar', shed: 'pull radar', amps: 6 }])
    // 0.3 V above the floor of 12.4 V are lost by 6 A through 0.05 ohm: a charger brings the other four.
    expect(sags.smallestChargerAmps).toBe(4)
    const stop = sags.gate.findings.find(({ rule }) => rule === 'supply-holds')!
    expect(stop).toMatchObject({
      level: 'stop',
      remedy: 'Pull radar, or put a charger of 4 A on the battery and leave it on.',
    })
    expect(stop.numbers).toMatchObject({ chargerAmps: 4 })
    const holds = sagging({ floorVolts: 11 })
    expect([holds.shed, holds.smallestChargerAmps]).toEqual([null, null])
    expect(holds.gate.numbers).not.toHaveProperty('chargerAmps')
  })
  it('offers no charger above the ceiling, nor one of other volts than the one that is on', () => {
    expect(sagging({ ceilingVolts: 12.05 }).smallestChargerAmps).toBeNull()
    expect(
      sagging({ setup: setup({ leadOhms: 0, charger: { amps: 1, volts: 12 } }) }).smallestChargerAmps,
    ).toBeNull()
    const none = sagging({ floorVolts: 14.4, ceilingVolts: 15 }).gate.findings.find(
      ({ rule }) => rule === 'supply-holds',
    )!
    expect(none.remedy).toContain('no load and no charger alone')
  })
  it('counts the minutes to the floor by the heaviest draw', () => {
    const all = setup({ leadOhms: 0 })
    const answer = sagging({ setup: all, floorVolts: 11.9 })
    expect(answer.minutesToFloor).toBeCloseTo(minutesToFloor(all, 4, 11.9)!, 6)
    expect(answer.gate.numbers!['minutesToFloor']).toBe(answer.minutesToFloor)
    expect(ask().minutesToFloor).toBeNull()
    expect(ask().gate.numbers).not.toHaveProperty('minutesToFloor')
  })
})
