import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { awgSquareMillimetres, isProblem, readQuantity, type Measure, type QuantityLimits } from '.'

const read = (typed: string, measure: Measure, limits: Partial<QuantityLimits> = {}) =>
  readQuantity(typed, measure, { field: 'supplyVolts', ...limits })
const refusal = (typed: string, measure: Measure, limits: Partial<QuantityLimits> = {}) => {
  try {
    read(typed, measure, limits)
  } catch (error) {
    if (isProblem(error, 'quantity')) return error
    throw error
  }
  throw new Error(`"${typed}" was read as ${measure}`)
}

describe('a figure as a person types it', () => {
  it.each([
    ['12,6 V', 'volts', 12.6],
    ['12.6v', 'volts', 12.6],
    ['12600 mV', 'volts', 12.6],
    ['12.6 Volts', 'volts', 12.6],
    ['1.5 kV', 'volts', 1500],
    ['+12 V', 'volts', 12],
    ['500 mA', 'amps', 0.5],
    ['.5 A', 'amps', 0.5],
    ['2 amps', 'amps', 2],
    ['200 milliamps', 'amps', 0.2],
    ['20 mohm', 'ohms', 0.02],
    ['1.2 kW', 'watts', 1200],
    ['480 watt', 'watts', 480],
    ['70 Ah', 'ampere-hours', 70],
    ['2200 mAh', 'ampere-hours', 2.2],
    ['10 kWh', 'watt-hours', 10_000],
    ['99 Wh', 'watt-hours', 99],
    ['50 Hz', 'hertz', 50],
    ['16 MHz', 'hertz', 16e6],
    ['10 ft', 'metres', 3.048],
    ['12 in', 'metres', 0.3048],
    ['30 cm', 'metres', 0.3],
    ['2.5 mm2', 'square-millimetres', 2.5],
    ['2.5 mm²', 'square-millimetres', 2.5],
    ['1 cm²', 'square-millimetres', 100],
    ['68 °F', 'celsius', 20],
    ['-4 F', 'celsius', -20],
    ['21 °C', 'celsius', 21],
    ['21 ℃', 'celsius', 21],
    ['293.15 K', 'celsius', 20],
    ['80 %', 'percent', 80],
    ['250 ms', 'milliseconds', 250],
    ['90 s', 'milliseconds', 90_000],
    ['3 sec', 'milliseconds', 3000],
    ['11 min', 'milliseconds', 660_000],
    ['2 h', 'milliseconds', 7_200_000],
    ['256 KiB', 'bytes', 262_144],
    ['1 MiB', 'bytes', 1_048_576],
    ['64 kB', 'bytes', 64_000],
    ['2 MB', 'bytes', 2_000_000],
    ['1 GB', 'bytes', 1e9],
    ['1 GiB', 'bytes', 1_073_741_824],
    ['12 bytes', 'bytes', 12],
    ['1 byte', 'bytes', 1],
    ['5 B', 'bytes', 5],
    ['262 144', 'bytes', 262_144],
    ['262\u00a0144', 'bytes', 262_144],
    ['115200', 'baud', 115_200],
    ['115.2 kBd', 'baud', 115_200],
    ['9600 bps', 'baud', 9600],
    ['2 Mbit/s', 'baud', 2e6],
    ['1e3', 'count', 1000],
    ['1.5E-2 V', 'volts', 0.015],
    ['2.5', 'square-millimetres', 2.5],
  ] as [string, Measure, number][])('%s is read', (typed, measure, value) => {
    expect(read(typed, measure)).toBeCloseTo(value, 9)
  })

  // Source: The International System of Units (SI Brochure, 9th edition), table 7, typed from there; case matters.
  const prefixes: [string, number][] = [
    ['Q', 30],
    ['R', 27],
    ['Y', 24],
    ['Z', 21],
    ['E', 18],
    ['P', 15],
    ['T', 12],
    ['G', 9],
    ['M', 6],
    ['k', 3],
    ['h', 2],
    ['da', 1],
    ['d', -1],
    ['c', -2],
    ['m', -3],
    ['µ', -6],
    ['u', -6],
    ['n', -9],
    ['p', -12],
    ['f', -15],
    ['a', -18],
    ['z', -21],
    ['y', -24],
    ['r', -27],
    ['q', -30],
  ]
  it.each(prefixes)('%s is ten to the %s in every measure that takes prefixes', (prefix, power) => {
    for (const [symbol, measure] of [
      ['V', 'volts'],
      ['A', 'amps'],
      ['W', 'watts'],
      ['Ω', 'ohms'],
      ['ohm', 'ohms'],
      ['Ah', 'ampere-hours'],
      ['Wh', 'watt-hours'],
      ['Hz', 'hertz'],
      ['m', 'metres'],
    ] as [string, Measure][]) {
      expect(read(`2 ${prefix}${symbol}`, measure) / (2 * 10 ** power), `${prefix}${symbol}`).toBeCloseTo(
        1,
        9,
      )
    }
    expect(read(`2 ${prefix}s`, 'milliseconds') / (2 * 10 ** (power + 3))).toBeCloseTo(1, 9)
  })
  it('keeps a thousandth and a million apart by case', () => {
    expect(read('1 MΩ', 'ohms')).toBe(1e6)
    expect(read('1 M\u2126', 'ohms')).toBe(1e6)
    expect(read('1 Mohm', 'ohms')).toBe(1e6)
    expect(read('1 megohm', 'ohms')).toBe(1e6)
    expect(read('1 Megaohm', 'ohms')).toBe(1e6)
    expect(read('1 kilohm', 'ohms')).toBe(1e3)
    expect(read('1 mΩ', 'ohms')).toBe(1e-3)
    expect(read('1 Kohm', 'ohms')).toBe(1000)
  })
  it.each([
    ['1 MOHM', 'ohms', /Mohm or mohm/],
    ['1 mOHM', 'ohms', /ohm/],
    ['16 mhz', 'hertz', /mHz or MHz/],
    ['16 MHZ', 'hertz', /MHz or mHz/],
    ['500 ma', 'amps', /mA or MA/],
    ['2200 mah', 'ampere-hours', /mAh or MAh/],
    ['1 mv', 'volts', /mV or MV/],
    ['5 PV'.toLowerCase(), 'volts', /pV or PV/],
    ['3 MM', 'metres', /Mm or mm/],
    ['3 MM2', 'square-millimetres', /Mm2 or mm2/],
    ['5 MS', 'milliseconds', /Ms or ms/],
    ['256 kb', 'bytes', /kB for 1 000 bytes or KiB for 1 024; kb are bits/],
    ['256 KB', 'bytes', /kB for 1 000 bytes or KiB for 1 024/],
    ['256 Kb', 'bytes', /bits/],
    ['1 mb', 'bytes', /MB for 1 000 000/],
    ['1 Mb', 'bytes', /Mb are bits/],
    ['1 gb', 'bytes', /GiB/],
    ['1 Gb', 'bytes', /bits/],
    ['1 b', 'bytes', /b are bits/],
  ] as [string, Measure, RegExp][])('%s could mean two things and is refused', (typed, measure, words) => {
    const error = refusal(typed, measure)
    expect(error.message).toContain('could mean two things')
    expect(error.message).toMatch(words)
  })
  it('takes lower case where nothing else could be meant', () => {
    expect(read('1.2 kw', 'watts')).toBe(1200)
    expect(read('1.2 KW', 'watts')).toBe(1200)
    expect(read('10 kwh', 'watt-hours')).toBe(10_000)
    expect(read('256 kib', 'bytes')).toBe(262_144)
    expect(read('50 hz', 'hertz')).toBe(50)
    expect(read('70 ah', 'ampere-hours')).toBe(70)
  })
  it.each([
    ['1 mbaud', 'baud'],
    ['1 mbps', 'baud'],
    ['1 mB', 'bytes'],
    ['1 m%', 'percent'],
    ['1 kft', 'metres'],
    ['1 xV', 'volts'],
    ['1 millia', 'amps'],
    ['3 constructor', 'volts'],
    ['3 __proto__', 'ohms'],
    ['3 toString', 'bytes'],
    ['3 x', 'count'],
  ] as [string, Measure][])('%s is no unit of %s', (typed, measure) =>
    expect(refusal(typed, measure).message).toContain('is not a unit of this field'),
  )

  // Source: ASTM B258 as tabled in handbooks: 14 AWG 2.08, 4/0 107.2, 1/0 53.5 mm².
  it('gauges are cross-sections', () => {
    expect(read('14 AWG', 'square-millimetres')).toBeCloseTo(2.081, 3)
    expect(read('4/0 AWG', 'square-millimetres')).toBeCloseTo(107.2, 1)
    expect(read('1/0 awg', 'square-millimetres')).toBeCloseTo(53.5, 1)
    expect(awgSquareMillimetres(36)).toBeCloseTo(0.01267, 5)
    expect(refusal('4/0 AWG', 'metres').message).toContain('no')
    expect(refusal('5/0 AWG', 'square-millimetres').message).toContain('no')
  })
  it.each([
    ['', 'volts', /nothing/],
    ['   ', 'volts', /nothing/],
    ['twelve', 'volts', /no figure/],
    ['V', 'volts', /no figure/],
    ['12.6 A', 'volts', /not a unit of this field/],
    ['-3 V', 'volts', /cannot be negative/],
    ['99999 V', 'volts', /more than any bench has: above 1000/],
    ['12.6.1', 'volts', /not a unit/],
    ['1e999 V', 'volts', /no figure/],
    ['12 600 0 V', 'volts', /no figure/],
    ['x 12 V', 'volts', /no figure/],
  ] as [string, Measure, RegExp][])(
    '"%s" is refused with the field and an example',
    (typed, measure, words) => {
      const error = refusal(typed, measure, { min: 0, max: 1000 })
      expect(error.facts.place?.at).toBe('supplyVolts')
      expect(error.facts.expected).toMatch(/for example 12\.6 V/)
      expect(error.facts.remedy).toMatch(/Write the figure with its unit\./)
      expect(error.message).toMatch(words)
    },
  )
  it('names a limit that is not zero', () => {
    expect(refusal('3', 'baud', { min: 50 }).message).toContain('this is below 50')
    expect(refusal('-3', 'celsius', { min: -2 }).message).toContain('this is below -2')
    expect(read('50', 'baud', { min: 50 })).toBe(50)
    expect(read('1000 V', 'volts', { max: 1000 })).toBe(1000)
    expect(read('-5', 'celsius')).toBe(-5)
  })
  it('gives an example of its own for every measure, which reads', () => {
    const measures: [Measure, number][] = [
      ['volts', 12.6],
      ['amps', 5],
      ['watts', 480],
      ['ohms', 0.02],
      ['ampere-hours', 70],
      ['watt-hours', 10_000],
      ['hertz', 50],
      ['metres', 3],
      ['square-millimetres', 2.5],
      ['celsius', 20],
      ['percent', 80],
      ['milliseconds', 90_000],
      ['bytes', 262_144],
      ['baud', 115_200],
      ['count', 2],
    ]
    for (const [measure, value] of measures) {
      const example = /^for example (.*?)(?: or (.*))?$/.exec(refusal('?', measure).facts.expected!)!
      expect(read(example[1]!, measure), measure).toBeCloseTo(value, 9)
      if (example[2]) expect(Number.isFinite(read(example[2], measure)), measure).toBe(true)
    }
  })
  it('never throws anything but its own refusal', () => {
    fc.assert(
      fc.property(
        fc.string({ maxLength: 16 }),
        fc.constantFrom<Measure>('volts', 'amps', 'celsius', 'square-millimetres', 'bytes', 'baud'),
        (typed, measure) => {
          try {
            expect(Number.isFinite(read(typed, measure))).toBe(true)
          } catch (error) {
            expect(isProblem(error, 'quantity'), String(error)).toBe(true)
          }
        },
      ),
      { numRuns: 500 },
    )
  })
})
