import { describe, expect, it } from 'vitest'
import type { Family } from '../../family'
import { judgeSupply } from '../supply-floor'
import {
  chargeLimit,
  chargerVoltsOf,
  chemistries,
  chemistryFacts,
  freshSupply,
  isChargeable,
  judgeChargeUsed,
  judgeCharger,
  judgeGenerator,
  judgeLeadOf,
  judgePower,
  setupOf,
  smallestCharger,
  supplyCourse,
  supplyOf,
  type Chemistry,
  type PowerQuestion,
  type Source,
  type Stretch,
  type SupplySetup,
} from '.'

/* The supply on its refusing side (PRACTICE D1, D2, D5, D10, D11, common practice). */

const source = (form: Partial<Source> = {}): Source => ({
  chemistry: 'lead-acid',
  cells: 6,
  capacityAh: 70,
  charge: 0.75,
  celsius: 25,
  ...form,
})
const setup = (form: Partial<SupplySetup> = {}): SupplySetup => ({
  source: source(),
  leadOhms: 0,
  loads: [],
  charger: null,
  ...form,
})
const run: Stretch[] = [
  { name: 'erase', ms: 60_000, unitAmps: 2 },
  { name: 'write', ms: 600_000, unitAmps: 4 },
]
const ask = (form: Partial<PowerQuestion> = {}) =>
  judgePower({
    setup: setup(),
    stretches: run,
    floorVolts: 12,
    ceilingVolts: 15,
    measuredVolts: null,
    idleAmps: 1,
    ...form,
  })
const finding = (form: Partial<PowerQuestion>, rule: string) =>
  ask(form).gate.findings.find((each) => each.rule === rule)

describe('cells that take no charge', () => {
  // Handbook knowledge of the trade: alkaline cells are primary cells; charging them makes them leak or burst.
  const cells = (charge: number) =>
    setup({ source: source({ chemistry: 'alkaline', cells: 4, capacityAh: 2.5, charge }) })
  it('are alkaline cells alone; what holds its volts is not charged either', () => {
    expect(chemistries.filter((each) => !isChargeable(each))).toEqual(['alkaline', 'bench', 'mains'])
    for (const chemistry of ['alkaline', 'bench', 'mains'] as const)
      expect(chargerVoltsOf({ source: source({ chemistry }) }), chemistry).toBeNull()
  })
  // Four cells at rest hold 4 × 1.34 V and no more; a charger of 20.3 V does not exist for them.
  it('are held up by no charger in the model, whatever was put on', () => {
    const bare = supplyCourse(cells(0.4), run).lowestVolts
    const charged = supplyCourse({ ...cells(0.4), charger: { amps: 10, volts: 20.3 } }, run).lowestVolts
    expect(charged).toBe(bare)
  })
  it('stop the gate when a charger is on them, and the remedy is fresh cells', () => {
    const on = { ...cells(0.9), charger: { amps: 2, volts: 6 } }
    expect(finding({ setup: on, floorVolts: 1 }, 'charger-fits')).toMatchObject({
      level: 'stop',
      says: 'Alkaline cells are never put on a charger.',
      remedy: 'Take the charger off. Put fresh cells in, and measure again.',
    })
    expect(ask({ setup: on, floorVolts: 1 }).gate.verdict).toBe('stop')
  })
  it('are never advised a charger where they sag, nor where they hold with little to spare', () => {
    const low = ask({ setup: cells(0.2), floorVolts: 5 })
    expect(low.gate.verdict).toBe('stop')
    expect(low.smallestChargerAmps).toBeNull()
    const lowest = supplyCourse(cells(0.9), run).lowestVolts
    const tight = ask({ setup: cells(0.9), floorVolts: lowest - 0.01 })
    for (const { gate } of [low, tight])
      for (const { rule, remedy, says } of gate.findings) {
        if (rule === 'supply-measured' || !remedy) continue
        expect(`${says} ${remedy}`).not.toMatch(/[Cc]harge/)
      }
    expect(low.gate.findings.find(({ rule }) => rule === 'supply-holds')!.remedy).toBe(
      'Put fresh cells in, and measure again.',
    )
  })
  it('are told so by the measured floor too', () => {
    const power = { nominalVolts: 6, floorVolts: 5, ceilingVolts: 7, amps: { idle: 0, erase: 0, write: 0 } }
    const remedy = (chemistry?: Chemistry) =>
      judgeSupply({ power: power as Family['power'] }, 4, chemistry).findings[0]!.remedy
    expect(remedy('alkaline')).toBe('Put fresh cells in, and measure again.')
    expect(remedy('nimh')).toMatch(/^Put a charger on the battery/)
    expect(remedy('bench')).toMatch(/^Set the supply higher/)
    expect(remedy('mains')).toMatch(/^Look at the mains/)
    expect(remedy()).toMatch(
      /one that takes one, fresh cells in where it does not|fresh cells in where it does not/,
    )
    expect(judgeSupply({ power: power as Family['power'] }, 5.05, 'alkaline').findings[0]).toMatchObject({
      level: 'hold',
      remedy: 'Put fresh cells in, and measure again.',
    })
  })
})

describe('a charger', () => {
  // From memory of makers' data sheets as a class: volts of a cell, amps an ampere-hour, °C.
  it.each([
    ['lead-acid', 6, 14.4, 0.25, -20, 50],
    ['agm', 6, 14.4, 0.3, -20, 50],
    ['lfp', 4, 14.2, 0.5, 0, 45],
    ['nmc', 3, 12.6, 0.5, 0, 45],
    ['nimh', 6, 8.7, 0.5, 0, 45],
  ] as const)('of %s cells, %i of them, holds %s V', (chemistry, cells, volts, share, coldest, hottest) => {
    const own = source({ chemistry, cells, capacityAh: 100 })
    expect(chargerVoltsOf({ source: own })).toBeCloseTo(volts, 9)
    const at = (celsius: number) => chargeLimit({ source: { ...own, celsius }, loads: [] }, run)!
    expect(at(20).amps).toBeCloseTo(share * 100 + 2, 9)
    expect(at(coldest)).toMatchObject({ tooCold: false, tooHot: false })
    expect(at(coldest - 0.1).tooCold).toBe(true)
    expect(at(hottest)).toMatchObject({ tooCold: false, tooHot: false })
    expect(at(hottest + 0.1).tooHot).toBe(true)
  })
  it('gives no more than the battery takes and what is drawn past it all the time', () => {
    const loads = [
      { id: 'a', name: 'Lamps', amps: 9, shed: 'pull F1', off: false },
      { id: 'b', name: 'Blower', amps: 5, shed: 'off', off: true },
    ]
    // 0.25 of 70 Ah, the lamps, and the least that the unit draws: 17.5 + 9 + 2 A.
    const own = setup({ loads })
    expect(chargeLimit(own, run)!.amps).toBeCloseTo(28.5, 9)
    const level = (amps: number) => judgeCharger({ ...own, charger: { amps, volts: 14.4 } }, run)?.level
    expect(level(28.5)).toBe('go')
    expect(level(28.6)).toBe('stop')
    expect(level(0)).toBeUndefined()
    expect(judgeCharger(own, run)).toBeNull()
    expect(judgeCharger({ ...own, charger: { amps: 40, volts: 14.4 } }, run)!.remedy).toBe(
      'Set the charger to 28.5 A or less, or take a smaller one.',
    )
  })
  it('is not put on a frozen lithium battery, and none is advised there', () => {
    const frozen = setup({ source: source({ chemistry: 'lfp', cells: 4, celsius: -5, charge: 0.1 }) })
    expect(judgeCharger({ ...frozen, charger: { amps: 5, volts: 14.2 } }, run)).toMatchObject({
      level: 'stop',
      says: 'The battery is at -5 °C: too cold to be charged.',
      because: 'Lithium iron phosphate: from 0 to 45 °C.',
    })
    expect(smallestCharger(frozen, run, 12.81, 14.2)).toBeNull()
    const warm = { ...frozen, source: { ...frozen.source, celsius: 10 } }
    expect(smallestCharger(warm, run, 12.81, 14.2)).toBeGreaterThan(0)
    const hot = { ...frozen, source: { ...frozen.source, celsius: 50 } }
    expect(judgeCharger({ ...hot, charger: { amps: 5, volts: 14.2 } }, run)!.says).toMatch(/too hot/)
    expect(smallestCharger(hot, run, 12.81, 14.2)).toBeNull()
  })
  it('that is advised is one the battery takes', () => {
    // A small battery under a large draw: what would hold the floor is more than 0.25 A an ampere-hour and the draw.
    const small = setup({ source: source({ capacityAh: 4, charge: 0.5 }) })
    const heavy: Stretch[] = [
      { name: 'idle', ms: 1000, unitAmps: 0 },
      { name: 'write', ms: 60_000, unitAmps: 6 },
    ]
    expect(chargeLimit(small, heavy)!.amps).toBeCloseTo(1, 9)
    expect(smallestCharger(small, heavy, 12.1, 14.4)).toBeNull()
    expect(
      smallestCharger({ ...small, source: { ...small.source, capacityAh: 40 } }, heavy, 12.1, 14.4),
    ).toBeGreaterThan(0)
  })
  it('that lifts the supply above its ceiling stops', () => {
    const charged = setup({ source: source({ charge: 1 }), charger: { amps: 10, volts: 14.4 } })
    expect(finding({ setup: charged, ceilingVolts: 12.75 }, 'supply-ceiling')).toMatchObject({
      level: 'stop',
      because: 'The charger holds 14.40 V.',
    })
    expect(finding({ setup: charged, ceilingVolts: 13 }, 'supply-ceiling')).toBeUndefined()
    expect(
      finding({ setup: setup({ source: source({ charge: 1 }) }), ceilingVolts: 12.5 }, 'supply-ceiling')!
        .because,
    ).toBe('The source itself stands above it.')
  })
})

describe('the floor', () => {
  const bench = (setVolts: number) =>
    setup({ source: source({ chemistry: 'bench', cells: 1, capacityAh: 0, setVolts }) })
  it('is a stop below it, a hold within the margin, a go above: to the hundredth', () => {
    const level = (volts: number) =>
      finding({ setup: bench(volts), measuredVolts: volts }, 'supply-holds')?.level
    expect(level(11.99)).toBe('stop')
    expect(level(12)).toBe('hold')
    // Common practice: a fifth of a volt to spare at 12 V.
    expect(level(12.19)).toBe('hold')
    expect(level(12.21)).toBe('go')
  })
  it('asks less to spare of a supply of few volts: a fortieth', () => {
    const level = (volts: number) =>
      finding(
        { setup: bench(volts), measuredVolts: volts, floorVolts: 3.2, ceilingVolts: 3.6 },
        'supply-holds',
      )?.level
    expect(level(3.27)).toBe('hold')
    expect(level(3.29)).toBe('go')
    expect(level(3.19)).toBe('stop')
  })
  it('is not known to hold while nobody measured, however good the description', () => {
    const { gate } = ask({ setup: setup({ source: source({ charge: 1 }) }), measuredVolts: null })
    expect(gate.findings.find(({ rule }) => rule === 'supply-measured')?.level).toBe('hold')
    expect(gate.verdict).toBe('hold')
    expect(ask({ setup: setup({ source: source({ charge: 1 }) }), measuredVolts: 12.65 }).gate.verdict).toBe(
      'go',
    )
  })
  it('a measurement that does not go with the description is a hold, and below the floor a stop', () => {
    expect(ask({ measuredVolts: 14.9 }).gate.findings.map(({ rule, level }) => [rule, level])).toEqual([
      ['measurement-plausible', 'hold'],
    ])
    expect(ask({ measuredVolts: 9 }).gate.findings.map(({ rule, level }) => [rule, level])).toEqual([
      ['measurement-plausible', 'hold'],
      ['supply-holds', 'stop'],
    ])
    expect(ask({ measuredVolts: 9 }).gate.numbers).toMatchObject({ supplyVolts: 9, floorVolts: 12 })
  })
  it('is not judged for a supply of which something is missing, each by its name', () => {
    const says = (form: Partial<Source>) =>
      ask({ setup: setup({ source: source(form) }) }).gate.findings[0]!.says
    expect(says({ cells: 0 })).toBe('The supply is not described: how many cells.')
    expect(says({ capacityAh: 0 })).toBe('The supply is not described: its ampere-hours.')
    expect(says({ charge: Number.NaN })).toBe('The supply is not described: its state of charge.')
    expect(says({ chemistry: 'bench' })).toBe('The supply is not described: its volts.')
  })
  it('with one load that holds it names that load and no other', () => {
    const loads = [
      { id: 'f14', name: 'Headlamps', amps: 11, shed: 'pull fuse F14', off: false },
      { id: 'radio', name: 'Radio', amps: 1, shed: 'switch the radio off', off: false },
    ]
    const own = setup({ source: source({ charge: 0.6 }), loads })
    const without = supplyCourse({ ...own, loads: [] }, run).lowestVolts
    const answer = ask({ setup: own, floorVolts: without - 0.05 })
    expect(answer.shed!.map(({ id }) => id)).toEqual(['f14'])
    expect(answer.gate.findings.find(({ rule }) => rule === 'supply-holds')!.remedy).toMatch(
      /^Pull fuse F14, or put a charger/,
    )
    expect(answer.gate.numbers['chargerAmps']).toBeGreaterThan(0)
  })
})

describe('what a run takes out of a battery', () => {
  // By hand: 4 A for an hour out of 10 Ah at 20 h: rated 0.5 A, counts 0.5 · 8^1.2 = 6.06 A, so 10 · c / 6.06 · 4 Ah are there.
  const hour: Stretch[] = [{ name: 'write', ms: 3_600_000, unitAmps: 4 }]
  const used = (charge: number) =>
    judgeChargeUsed(setup({ source: source({ capacityAh: 10, charge }) }), hour)
  const there = (charge: number) => (10 * charge * 4) / (0.5 * 8 ** 1.2)
  it('is a stop where it is not there, a hold above four fifths, else a go', () => {
    expect(used(0.6)!.numbers).toEqual({
      takenAh: expect.closeTo(4, 6),
      usableAh: expect.closeTo(there(0.6), 4),
    })
    expect(used(0.6)!.level).toBe('stop')
    expect(used(0.7)!.level).toBe('hold')
    expect(used(0.8)!.level).toBe('go')
    expect(used(0.6)!.remedy).toMatch(/^Put a charger on the battery/)
  })
  it('is less in the cold, and nothing where a charger carries it or there is no charge', () => {
    const cold = judgeChargeUsed(
      setup({ source: source({ capacityAh: 10, charge: 0.75, celsius: 0 }) }),
      hour,
    )!
    expect(cold.level).toBe('stop')
    const charged = setup({ source: source({ capacityAh: 40 }), charger: { amps: 4, volts: 14.4 } })
    expect(judgeChargeUsed(charged, hour)).toBeNull()
    expect(judgeChargeUsed(setup({ source: source({ chemistry: 'bench', setVolts: 12 }) }), hour)).toBeNull()
    expect(judgeChargeUsed(setup(), [{ name: 'idle', ms: 0, unitAmps: 4 }])).toBeNull()
  })
  it('stands at the gate where it is wrong, and not where it is well', () => {
    const form = { stretches: hour, floorVolts: 1, ceilingVolts: 20 }
    const low = { ...form, setup: setup({ source: source({ capacityAh: 10, charge: 0.6 }) }) }
    expect(finding(low, 'charge-used')?.level).toBe('stop')
    expect(finding({ ...form, setup: setup() }, 'charge-used')).toBeUndefined()
  })
})

describe('what a person says of the supply', () => {
  const power = {
    nominalVolts: 48,
    floorVolts: 48,
    ceilingVolts: 60,
    amps: { idle: 2, erase: 3, write: 5 },
    supply: {
      chemistry: 'lfp',
      cells: 16,
      capacityAh: 200,
      leadOhms: 0.004,
      loads: [{ id: 'p', name: 'Pumps', amps: 25, shed: 'off' }],
    },
  } as unknown as Family['power']
  it('outweighs the profile, part by part', () => {
    expect(setupOf(power, {})).toMatchObject({
      source: { chemistry: 'lfp', cells: 16, capacityAh: 200, celsius: 20, charge: 0.8 },
      leadOhms: 0.004,
      charger: null,
      loads: [{ id: 'p', off: false }],
    })
    expect(
      setupOf(power, { cells: 15, capacityAh: 100, celsius: 5, charge: 0.5, leadOhms: 0.1, shed: ['p'] }),
    ).toMatchObject({
      source: { cells: 15, capacityAh: 100, celsius: 5, charge: 0.5 },
      leadOhms: 0.1,
      loads: [{ off: true }],
    })
    // Another chemistry has nothing of the profile's cells.
    expect(setupOf(power, { chemistry: 'agm' })!.source).toMatchObject({ cells: 0, capacityAh: 0 })
    const { supply: _supply, ...bare } = power
    expect(setupOf(bare as Family['power'], {})).toBeNull()
    expect(setupOf(bare as Family['power'], { chemistry: 'bench', setVolts: 50 })!.source.setVolts).toBe(50)
  })
  it('a lead that was measured outweighs its ohms', () => {
    // 10 m of 4 mm², there and back: 20 / (58 · 4) ohm at 20 °C.
    const lead = { metres: 10, squareMillimetres: 4 }
    expect(setupOf(power, { lead, leadOhms: 9 })!.leadOhms).toBeCloseTo(20 / (58 * 4), 9)
    expect(setupOf(power, { lead, celsius: 70 })!.leadOhms).toBeCloseTo((20 / (58 * 4)) * 1.1965, 6)
    expect(judgeLeadOf(power, {})).toEqual([])
    // At the highest current of the run: 5 A lose 0.43 V of 48; 3 % are 1.44 V.
    expect(judgeLeadOf(power, { lead })[0]).toMatchObject({
      level: 'go',
      numbers: { dropVolts: expect.closeTo(0.431, 3) },
    })
    expect(judgeLeadOf(power, { lead: { metres: 40, squareMillimetres: 4 } })[0]!.level).toBe('hold')
  })
  it('a line of the unit’s page that tells its supply is read, and another is not', () => {
    const page = (value: string) => ({
      at: 3,
      source: 'link' as const,
      lines: [{ field: 'supply', label: 'Supply', value }],
    })
    expect(supplyOf(page('12.4 V'))).toEqual({ volts: 12.4, at: 3 })
    expect(supplyOf(page('12400 mV'))!.volts).toBeCloseTo(12.4, 9)
    for (const odd of ['low', '-1 V', '12 A', '99999 V']) expect(supplyOf(page(odd)), odd).toBeNull()
    expect(supplyOf(undefined)).toBeNull()
    expect(supplyOf({ ...page(''), lines: [] })).toBeNull()
  })
  const inverter = {
    ...power,
    inverter: { systemHertz: 50, chargerEfficiency: 0.8 },
  } as unknown as Family['power']
  it('of a generator is judged by share, frequency and thresholds', () => {
    const rules = (say: Parameters<typeof judgeGenerator>[1], own = inverter) =>
      Object.fromEntries(judgeGenerator(own, say).map(({ rule, level }) => [rule, level]))
    expect(rules(null)).toEqual({})
    expect(rules(undefined)).toEqual({})
    // 10 A at 48 V through 80 %: 600 W of a kilowatt.
    expect(rules({ watts: 1000, chargeAmps: [10], hertz: 50 })).toEqual({
      'generator-share': 'go',
      'frequency-window': 'go',
    })
    expect(rules({ watts: 1000, chargeAmps: [10, 10], hertz: 50 })['generator-share']).toBe('stop')
    expect(rules({ watts: 1000, chargeAmps: [15], hertz: 50, efficiency: 1 })['generator-share']).toBe('go')
    expect(rules({ watts: 1000, chargeAmps: [15], hertz: 50 })['generator-share']).toBe('hold')
    expect(rules({ watts: 1000, chargeAmps: [1], hertz: 53 })['frequency-window']).toBe('stop')
    expect(rules({ watts: 1000, chargeAmps: [1] })['frequency-window']).toBe('hold')
    expect(rules({ watts: 1000, chargeAmps: [1], hertz: null })['frequency-window']).toBe('hold')
    expect(rules({ watts: 1000, chargeAmps: [1] }, power)).toEqual({ 'generator-share': 'go' })
    expect(
      rules({ watts: 1000, chargeAmps: [1], hertz: 50, startVolts: 49, stopVolts: 54 })['threshold-order'],
    ).toBe('go')
    expect(
      rules({ watts: 1000, chargeAmps: [1], hertz: 50, startVolts: 54, stopVolts: 49 })['threshold-order'],
    ).toBe('stop')
    expect(
      rules({ watts: 1000, chargeAmps: [1], hertz: 50, startVolts: 47, stopVolts: 54 })['threshold-floor'],
    ).toBe('stop')
    expect(rules({ watts: 1000, chargeAmps: [1], hertz: 50, startVolts: 47 })).not.toHaveProperty(
      'threshold-floor',
    )
    expect(rules({ watts: 1000, chargeAmps: [1], hertz: 50, stopVolts: 47 })).not.toHaveProperty(
      'threshold-floor',
    )
  })
})

describe('the measured supply alone', () => {
  const power = {
    nominalVolts: 12,
    floorVolts: 12,
    ceilingVolts: 15,
    amps: { idle: 1, erase: 1, write: 1 },
  } as unknown as Family['power']
  // Common practice: 0.3 V above the floor before the write begins; a fortieth of it below 12 V.
  it.each([
    [null, 'hold'],
    [11.99, 'stop'],
    [12, 'hold'],
    [12.29, 'hold'],
    [12.31, 'go'],
    [15, 'go'],
    [15.01, 'stop'],
    [25.6, 'stop'],
  ])('%s V: %s', (volts, level) => expect(judgeSupply({ power }, volts).verdict).toBe(level))
  it('of 3.3 V asks a fortieth', () => {
    const logic = { ...power, floorVolts: 3.2, ceilingVolts: 3.6 } as Family['power']
    expect(judgeSupply({ power: logic }, 3.27).verdict).toBe('hold')
    expect(judgeSupply({ power: logic }, 3.29).verdict).toBe('go')
  })
})

describe('tables of the chemistries', () => {
  it('name each, with a rest curve that rises where there is one', () => {
    for (const chemistry of chemistries) {
      const { name, restVolts, charging } = chemistryFacts[chemistry]
      expect(name.length, chemistry).toBeGreaterThan(5)
      if (restVolts)
        for (let at = 1; at < restVolts.length; at++)
          expect(restVolts[at]!).toBeGreaterThanOrEqual(restVolts[at - 1]!)
      // Whoever is charged is charged above its own rest volts.
      if (charging && restVolts) expect(charging.cellVolts).toBeGreaterThanOrEqual(restVolts.at(-1)!)
      expect(freshSupply(chemistry)).toMatch(/\.$/)
    }
  })
})
