import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { awgSquareMillimetres } from '../kernel'
import {
  ampereHours,
  baudMargin,
  busOhms,
  generatorShare,
  judgeBaud,
  judgeFrequency,
  judgeLaptop,
  judgeTermination,
  judgeThresholds,
  leadDrop,
  nearestAwg,
  nearestDivisor,
  sums,
  workSum,
} from '.'

describe('wire', () => {
  // Source: ASTM B258 diameters as tabled in NEC chapter 9, table 8 and handbooks: 10 AWG 5.261, 12 AWG 3.31, 14 AWG 2.08, 18 AWG 0.823, 4/0 107.2 mm².
  it.each([
    [10, 5.261],
    [12, 3.31],
    [14, 2.08],
    [18, 0.823],
    [22, 0.326],
    [-3, 107.2],
  ])('%s AWG is %s mm²', (gauge, area) => {
    expect(awgSquareMillimetres(gauge) / area).toBeCloseTo(1, 2)
    expect(nearestAwg(area)).toBe(gauge)
  })
  // Source: handbook copper wire table at 20 °C: 10 AWG 3.277, 14 AWG 8.286, 18 AWG 20.95 ohm per kilometre.
  it.each([
    [10, 3.277],
    [14, 8.286],
    [18, 20.95],
  ])('%s AWG has %s ohm a kilometre at 20 °C', (gauge, ohms) => {
    const { ohmsPerKilometre } = leadDrop({
      metres: 1,
      squareMillimetres: awgSquareMillimetres(gauge),
      amps: 1,
    })
    expect(ohmsPerKilometre / ohms).toBeCloseTo(1, 2)
  })
  it('loses what Ohm says, there and back', () => {
    // Worked by hand: 3 m of 2.5 mm², both ways 6 m: 6 / (58 · 2.5) = 41.4 mohm; 10 A lose 0.414 V and 4.14 W.
    const { ohms, dropVolts, lostWatts } = leadDrop({ metres: 3, squareMillimetres: 2.5, amps: 10 })
    expect(ohms).toBeCloseTo(0.04138, 5)
    expect(dropVolts).toBeCloseTo(0.4138, 4)
    expect(lostWatts).toBeCloseTo(4.138, 3)
    // IEC 60028: 0.00393 per kelvin, so 50 K more is 19.65 % more.
    expect(leadDrop({ metres: 3, squareMillimetres: 2.5, amps: 10, celsius: 70 }).ohms / ohms).toBeCloseTo(
      1.1965,
      4,
    )
  })
})

describe('a generator', () => {
  // PRACTICE D11, common practice: 10 A at 48 V is 480 W, not 1 200 W; 10 kWh at 1 kW takes 10 h and nothing is left.
  it('gives 10 A at 48 V as 480 W', () => {
    expect(
      generatorShare({
        generatorWatts: 2000,
        batteryVolts: 48,
        chargeAmps: [10],
        wattHours: 4800,
        efficiency: 1,
      }),
    ).toMatchObject({
      chargeWatts: 480,
      leftForLoadsWatts: 1520,
      hoursToFull: 10,
    })
  })
  it('of 1 kW fills 10 kWh in 10 h, with nothing left for loads', () => {
    const share = generatorShare({
      generatorWatts: 1000,
      batteryVolts: 50,
      chargeAmps: [20],
      wattHours: 10_000,
      efficiency: 1,
    })
    expect(share).toMatchObject({ hoursToFull: 10, leftForLoadsWatts: 0, overWatts: 0, share: 1 })
  })
  it('shared by two inverters counts both', () => {
    const share = generatorShare({
      generatorWatts: 1000,
      batteryVolts: 48,
      chargeAmps: [15, 15],
      wattHours: 1,
      efficiency: 1,
    })
    expect(share.chargeWatts).toBe(1440)
    expect(share.overWatts).toBe(440)
  })
})

describe('thresholds and windows', () => {
  // PRACTICE D11: start below stop, neither below the floor (48 V on that family); 58–63 Hz on a 60 Hz system.
  it.each([
    [49, 54, 'go'],
    [54, 49, 'stop'],
    [47, 54, 'stop'],
    [50, 50, 'stop'],
  ] as const)('start %s V, stop %s V over a floor of 48 V: %s', (startVolts, stopVolts, level) => {
    expect(judgeThresholds({ startVolts, stopVolts, floorVolts: 48 })[0]!.level).toBe(level)
  })
  it.each([
    [57.9, 'stop'],
    [58, 'go'],
    [63, 'go'],
    [63.1, 'stop'],
  ] as const)('%s Hz on a 60 Hz system: %s', (hertz, level) =>
    expect(judgeFrequency(hertz, 60).level).toBe(level),
  )
})

describe('baud', () => {
  // Worked by hand: 16 MHz, 16 times a bit, divisor 9 gives 111 111 baud for 115 200: 3.5 % low.
  it('error of a divider is what is left over', () => {
    const { divisor, error } = nearestDivisor(16_000_000, 115_200, 16)
    expect(divisor).toBe(9)
    expect(error).toBeCloseTo(-0.0355, 3)
    expect(nearestDivisor(1_843_200, 9600, 16)).toEqual({ divisor: 12, error: 0 })
  })
  it('is stop where the last bit is sampled in the next one', () => {
    const exact = { clockHertz: 1_843_200, clocksPerBit: 16 }
    const off = (share: number) => ({ clockHertz: 1_843_200 * (1 + share), clocksPerBit: 16 })
    expect(baudMargin(exact, exact).allowedError).toBeCloseTo(0.0375, 9)
    expect(judgeBaud(exact, off(0.01)).level).toBe('go')
    expect(judgeBaud(exact, off(0.03)).level).toBe('hold')
    expect(judgeBaud(exact, off(0.05)).level).toBe('stop')
    expect(judgeBaud(exact, off(-0.05)).level).toBe('stop')
  })
  it('with an RC oscillator is worse than with a crystal', () => {
    const end = (ppm: number) => ({ clockHertz: 8_000_000, clocksPerBit: 16 * 52, ppm })
    expect(baudMargin(end(50), end(20_000)).worstError).toBeGreaterThan(
      baudMargin(end(50), end(50)).worstError,
    )
  })
  // A receiver simulated look by look: edge found up to 1/16 of its bit late, the middle three of sixteen in every bit.
  it('agrees with samples placed one by one', () => {
    const placed = (error: number) => {
      const bit = 1 / (1 + error)
      return Array.from({ length: 10 }, (_, at) =>
        [-1 / 16, 0, 1 / 16].flatMap((look) =>
          [0, 1 / 16].map((late) => ({
            at,
            seen: (at + 0.5 + look + late) * bit,
          })),
        ),
      )
        .flat()
        .every(({ at, seen }) => seen > at && seen < at + 1)
    }
    fc.assert(
      fc.property(fc.double({ min: -0.08, max: 0.08, noNaN: true }), (error) => {
        const { lastBitInside } = baudMargin(
          { clockHertz: 1, clocksPerBit: 1 },
          { clockHertz: 1 + error, clocksPerBit: 1 },
        )
        // What is allowed is sampled right; of a slow receiver what is not allowed is sampled wrong.
        if (lastBitInside) expect(placed(error)).toBe(true)
        else if (error < 0) expect(placed(error)).toBe(false)
      }),
      { numRuns: 500 },
    )
    expect(placed(0.048)).toBe(true)
    expect(placed(0.049)).toBe(false)
  })
})

describe('termination', () => {
  // ISO 11898-2: 120 ohm at both ends, 60 ohm between the wires.
  it.each([
    [60, 'go'],
    [120, 'hold'],
    [40, 'hold'],
    [2, 'stop'],
    [50_000, 'hold'],
  ] as const)('%s ohm: %s', (ohms, level) => expect(judgeTermination(ohms).level).toBe(level))
  it('of two, one and three', () => expect([2, 1, 3].map(busOhms)).toEqual([60, 120, 40]))
})

describe('the laptop', () => {
  // PRACTICE D3; twice the run is common practice.
  it.each([
    [true, null, 'go'],
    [false, null, 'hold'],
    [false, 60, 'go'],
    [false, 15, 'hold'],
    [false, 8, 'stop'],
  ] as const)('on mains %s with %s min for a run of ten: %s', (onMains, minutesLeft, level) => {
    expect(judgeLaptop({ onMains, minutesLeft, runMs: 600_000 }).level).toBe(level)
  })
  it('is judged by charge and usual hours where the system tells no minutes', () => {
    expect(
      judgeLaptop({ onMains: false, minutesLeft: null, charge: 0.5, fullHours: 4, runMs: 600_000 }),
    ).toMatchObject({
      level: 'go',
      numbers: { minutesLeft: 120 },
    })
  })
})

describe('ampere-hours', () => {
  it('last as long as Peukert says', () => {
    const { hours } = ampereHours({ capacityAh: 100, charge: 0.5, amps: 20, ratedHours: 20, peukert: 1.2 })
    expect(hours).toBeCloseTo(3.789 / 2, 3)
    expect(
      ampereHours({ capacityAh: 100, charge: 1, amps: 0, ratedHours: 20, peukert: 1.2 }).hours,
    ).toBeNull()
  })
})

describe('the calculators', () => {
  const sum = (id: string) => sums.find((each) => each.id === id)!
  it.each(sums.map((each) => [each.id, each] as const))(
    '%s works on what stands in its fields, with its source',
    (_, each) => {
      const { says, numbers } = workSum(each, {})
      expect(says.length).toBeGreaterThan(0)
      for (const value of Object.values(numbers)) expect(Number.isFinite(value)).toBe(true)
      expect(each.source).not.toBe('')
    },
  )
  // PRACTICE D11, common practice.
  it('say what the trade says: 10 A at 48 V is 480 W, 10 kWh at 1 kW is 10 h', () => {
    expect(workSum(sum('generator-share'), {}).numbers['chargeWatts']).toBe(480)
    const full = workSum(sum('generator-share'), {
      firstAmps: '20 A',
      batteryVolts: '50 V',
      efficiency: '100 %',
    }).numbers
    expect(full).toMatchObject({ hoursToFull: 10, leftForLoadsWatts: 0 })
    expect(workSum(sum('frequency-window'), { hertz: '57.5 Hz' }).findings[0]!.level).toBe('stop')
  })
  // The wire-time formula, (1 024 + 5 + 1) × 10 / 115 200 s a block.
  it('say how long 256 KiB take at 115 200 baud', () => {
    expect(workSum(sum('run-time'), { eraseMs: 0, programMs: 0 }).numbers['totalMs']).toBeCloseTo(
      (256 * 1030 * 10_000) / 115_200,
      3,
    )
  })
  it('refuse a field that does not read, by its name', () => {
    expect(() => workSum(sum('lead-drop'), { amps: '-3 A' })).toThrow(/amps: this cannot be negative/)
    expect(() => workSum(sum('lead-drop'), { amps: '10 V' })).toThrow(/not a unit of this field/)
  })
})
