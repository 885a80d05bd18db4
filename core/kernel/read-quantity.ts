import { Problem } from './problem'

/** What a figure measures; each is kept in its base unit. */
export type Measure =
  | 'volts'
  | 'amps'
  | 'watts'
  | 'ohms'
  | 'ampere-hours'
  | 'watt-hours'
  | 'hertz'
  | 'metres'
  | 'square-millimetres'
  | 'celsius'
  | 'percent'
  | 'milliseconds'
  | 'bytes'
  | 'baud'
  | 'count'

/** A symbol that takes prefixes: as it is properly written, its weight in the base unit, and the prefixes that make sense. */
interface UnitSymbol {
  symbol: string
  factor: number
  prefixes: keyof typeof prefixes
  /** Area: a prefix belongs to the metre and counts twice. */
  power?: 1 | 2
}

/** A whole word that takes no prefix, in whatever capitals. */
type UnitWord = (value: number) => number

const times =
  (factor: number): UnitWord =>
  (value) =>
    value * factor
const si = (symbol: string, factor = 1): UnitSymbol => ({ symbol, factor, prefixes: 'si' })
const rate = (symbol: string): UnitSymbol => ({ symbol, factor: 1, prefixes: 'thousands' })
const fahrenheit: UnitWord = (value) => ((value - 32) * 5) / 9

/** SI prefixes by their case (The International System of Units, 9th edition, table 7). */
const siPrefixes: Readonly<Record<string, number>> = {
  q: 1e-30,
  r: 1e-27,
  y: 1e-24,
  z: 1e-21,
  a: 1e-18,
  f: 1e-15,
  p: 1e-12,
  n: 1e-9,
  μ: 1e-6,
  u: 1e-6,
  m: 1e-3,
  c: 1e-2,
  d: 1e-1,
  da: 10,
  h: 100,
  k: 1e3,
  K: 1e3,
  M: 1e6,
  G: 1e9,
  T: 1e12,
  P: 1e15,
  E: 1e18,
  Z: 1e21,
  Y: 1e24,
  R: 1e27,
  Q: 1e30,
}
/** The same spelled out, as far as benches have them; in whatever capitals. */
const spelledPrefixes: Readonly<Record<string, number>> = {
  micro: 1e-6,
  milli: 1e-3,
  kilo: 1e3,
  mega: 1e6,
  meg: 1e6,
  giga: 1e9,
}
/** Prefixes by what they stand before: a thousandth of a byte or of a baud is nothing. */
const prefixes = {
  si: siPrefixes,
  thousands: { k: 1e3, K: 1e3, M: 1e6, G: 1e9 },
  bytes: { k: 1e3, M: 1e6, G: 1e9 },
}

interface MeasureUnits {
  symbols: readonly UnitSymbol[]
  words: Readonly<Record<string, UnitWord>>
  /** Texts that could mean two things, with what to write instead. */
  ambiguous?: Readonly<Record<string, string>>
}

/** Units a person writes, by measure. A figure alone is in the base unit. Sources: SI; NIST SP 811 for foot, inch and °F. */
const units: Record<Measure, MeasureUnits> = {
  volts: { symbols: [si('V'), si('volt'), si('volts')], words: {} },
  amps: { symbols: [si('A'), si('amp'), si('amps')], words: {} },
  watts: { symbols: [si('W'), si('watt'), si('watts')], words: {} },
  ohms: {
    symbols: [si('Ω'), si('ohm'), si('ohms'), si('Ohm'), si('Ohms')],
    words: { megohm: times(1e6), megohms: times(1e6), kilohm: times(1e3), kilohms: times(1e3) },
  },
  'ampere-hours': { symbols: [si('Ah')], words: {} },
  'watt-hours': { symbols: [si('Wh')], words: {} },
  hertz: { symbols: [si('Hz')], words: {} },
  metres: { symbols: [si('m')], words: { ft: times(0.3048), in: times(0.0254) } },
  'square-millimetres': {
    symbols: [{ symbol: 'm2', factor: 1e6, prefixes: 'si', power: 2 }],
    words: { awg: awgSquareMillimetres },
  },
  celsius: {
    symbols: [],
    words: { '°c': times(1), c: times(1), '°f': fahrenheit, f: fahrenheit, k: (value) => value - 273.15 },
  },
  percent: { symbols: [], words: { '%': times(1) } },
  milliseconds: {
    symbols: [si('s', 1e3)],
    words: { sec: times(1e3), min: times(6e4), h: times(3.6e6) },
  },
  bytes: {
    symbols: [{ symbol: 'B', factor: 1, prefixes: 'bytes' }],
    // Multiples by two: IEC 80000-13, clause 4.
    words: {
      byte: times(1),
      bytes: times(1),
      kib: times(1024),
      mib: times(1024 ** 2),
      gib: times(1024 ** 3),
    },
    ambiguous: {
      b: 'B for bytes; b are bits',
      kb: 'kB for 1 000 bytes or KiB for 1 024; kb are bits',
      Kb: 'kB for 1 000 bytes or KiB for 1 024; kb are bits',
      KB: 'kB for 1 000 bytes or KiB for 1 024',
      mb: 'MB for 1 000 000 bytes or MiB for 1 048 576; Mb are bits',
      Mb: 'MB for 1 000 000 bytes or MiB for 1 048 576; Mb are bits',
      gb: 'GB or GiB; Gb are bits',
      Gb: 'GB or GiB; Gb are bits',
    },
  },
  baud: { symbols: [rate('Bd'), rate('baud'), rate('bit/s'), rate('bps')], words: {} },
  count: { symbols: [], words: {} },
}

/** What a unit's text does to a figure; `ambiguous` says what to write; null where it is no unit of this measure. */
function unitOf(text: string, measure: Measure): UnitWord | { ambiguous: string } | null {
  const { symbols, words, ambiguous } = units[measure]
  const doubtful = ambiguous && Object.hasOwn(ambiguous, text) ? ambiguous[text] : undefined
  if (doubtful !== undefined) return { ambiguous: doubtful }
  const lower = text.toLowerCase()
  if (Object.hasOwn(words, lower)) return words[lower]!
  for (const exact of [true, false]) {
    for (const unit of symbols) {
      const found = readSymbol(text, unit, exact)
      if (found) return found
    }
  }
  return null
}

/** @param exact the symbol stands in its own capitals, so that those of its prefix can be trusted too. */
function readSymbol(
  text: string,
  { symbol, factor, prefixes: kind, power = 1 }: UnitSymbol,
  exact: boolean,
): UnitWord | { ambiguous: string } | null {
  const [ends, tail] = exact ? [text, symbol] : [text.toLowerCase(), symbol.toLowerCase()]
  if (!ends.endsWith(tail)) return null
  const prefix = text.slice(0, text.length - symbol.length)
  if (prefix === '') return times(factor)
  const known: Readonly<Record<string, number>> = prefixes[kind]
  if (Object.hasOwn(known, prefix)) {
    const other = prefix === prefix.toLowerCase() ? prefix.toUpperCase() : prefix.toLowerCase()
    // Who writes "mhz" does not mind capitals: it may be a thousandth or a million.
    if (!exact && known[other] !== undefined && known[other] !== known[prefix])
      return { ambiguous: `${prefix}${symbol} or ${other}${symbol}` }
    return times(factor * known[prefix]! ** power)
  }
  const spelled = prefix.toLowerCase()
  if (kind === 'si' && symbol.length > 2 && Object.hasOwn(spelledPrefixes, spelled))
    return times(factor * spelledPrefixes[spelled]!)
  return null
}

const examples: Record<Measure, string> = {
  volts: '12.6 V',
  amps: '5 A or 500 mA',
  watts: '480 W or 1.2 kW',
  ohms: '0.02 ohm or 20 mohm',
  'ampere-hours': '70 Ah',
  'watt-hours': '10 kWh',
  hertz: '50 Hz',
  metres: '3 m or 10 ft',
  'square-millimetres': '2.5 mm2 or 14 AWG',
  celsius: '20 °C or 68 °F',
  percent: '80 %',
  milliseconds: '90 s or 11 min',
  bytes: '262144 or 256 KiB',
  baud: '115200',
  count: '2',
}

/**
 * Diameter of American Wire Gauge n: 0.127 mm × 92^((36−n)/39) (ASTM B258-18, clause 5), as a cross-section in mm².
 * 0, -1, -2, -3 stand for 1/0, 2/0, 3/0, 4/0.
 */
export function awgSquareMillimetres(gauge: number): number {
  const diameter = 0.127 * 92 ** ((36 - gauge) / 39)
  return (Math.PI / 4) * diameter ** 2
}

/** `14 AWG`; `2/0 AWG` of −1. */
export const gaugeName = (gauge: number) => `${gauge < 1 ? `${1 - gauge}/0` : gauge} AWG`
/**
 * `14 AWG` of 2.08 mm², `between 10 and 11 AWG` of 4.3: a lead thinner than its gauge must not be read out of it.
 * Null above 4/0, where gauges end.
 */
export function awgText(squareMillimetres: number): string | null {
  const gauge = 36 - (39 * Math.log(Math.sqrt((4 / Math.PI) * squareMillimetres) / 0.127)) / Math.log(92)
  if (gauge < -3.02) return null
  const near = Math.round(gauge)
  // Figures are given with two decimals: 14 AWG is 2.0809, written 2.08.
  if (Math.abs(gauge - near) < 0.02) return gaugeName(near)
  return `between ${gaugeName(Math.floor(gauge)).replace(' AWG', '')} and ${gaugeName(Math.ceil(gauge))}`
}

/** Between which figures a quantity must lie, in its base unit. */
export interface QuantityLimits {
  /** Field, for the refusal. */
  field: string
  min?: number
  max?: number
}

/**
 * Reads what a person typed: "12,6 V", "12.6v", "500 mA", "1 MΩ", "14 AWG", "68 °F". A number alone is in the base unit.
 * Prefixes count by their case; where a person shows that capitals do not matter to them ("1 mohm" is plain, "1 MOHM"
 * and "16 mhz" are not) and the other case is a prefix too, the figure is refused.
 * @returns the value in the base unit.
 * @throws Problem `quantity` with the field and an example: no number, a unit of another measure, a unit that could
 * mean two, out of bounds.
 */
export function readQuantity(typed: string, measure: Measure, { field, min, max }: QuantityLimits): number {
  // The compatibility forms bring the ohm and micro signs, raised figures and thin spaces to one character each.
  const text = typed.normalize('NFKC').trim()
  const refuse = (says: string, remedy = 'Write the figure with its unit.') =>
    new Problem({
      kind: 'quantity',
      place: { at: field },
      says,
      expected: `for example ${examples[measure]}`,
      found: text === '' ? 'nothing' : text,
      remedy,
    })
  const zeros = /^([1-4])\/0\s*awg$/i.exec(text)
  if (measure === 'square-millimetres' && zeros) return awgSquareMillimetres(1 - Number(zeros[1]))
  const parts = /^([+-]?)(\d{1,3}(?:[ ]\d{3})+|\d+)?(?:[.,](\d+))?(?:e([+-]?\d{1,3}))?\s*([^\d\s].*)?$/i.exec(
    text,
  )
  if (!parts || (parts[2] === undefined && parts[3] === undefined)) throw refuse('this is no figure')
  const [, sign, whole = '0', fraction = '', power = '0', word = ''] = parts
  const number = Number(`${sign}${whole.replace(/\D/g, '')}.${fraction || '0'}e${power}`)
  const unit = word === '' ? times(1) : unitOf(word.trim(), measure)
  if (!unit) throw refuse(`"${word.trim()}" is not a unit of this field`)
  if (typeof unit !== 'function')
    throw refuse(
      `"${word.trim()}" could mean two things`,
      `Write ${unit.ambiguous}: capitals tell a thousandth from a million.`,
    )
  const value = unit(number)
  if (!Number.isFinite(value)) throw refuse('this is no figure')
  if (min !== undefined && value < min)
    throw refuse(value < 0 && min >= 0 ? 'this cannot be negative' : `this is below ${min}`)
  if (max !== undefined && value > max) throw refuse(`this is more than any bench has: above ${max}`)
  return value
}
