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

interface UnitWord {
  /** Value in the base unit. */
  base(value: number): number
}
const times = (factor: number): UnitWord => ({ base: (value) => value * factor })

/** Units a person writes, by measure; the first is the base unit and may be left out. Sources: SI prefixes; NIST SP 811 for foot and °F. */
const unitWords: Record<Measure, Record<string, UnitWord>> = {
  volts: { v: times(1), volt: times(1), volts: times(1), mv: times(1e-3), kv: times(1e3) },
  amps: { a: times(1), amp: times(1), amps: times(1), ma: times(1e-3) },
  watts: { w: times(1), watt: times(1), watts: times(1), kw: times(1e3) },
  ohms: {
    ohm: times(1),
    ohms: times(1),
    ω: times(1),
    mohm: times(1e-3),
    mω: times(1e-3),
    kohm: times(1e3),
    kω: times(1e3),
  },
  'ampere-hours': { ah: times(1), mah: times(1e-3) },
  'watt-hours': { wh: times(1), kwh: times(1e3) },
  hertz: { hz: times(1), khz: times(1e3), mhz: times(1e6) },
  metres: { m: times(1), cm: times(0.01), mm: times(1e-3), ft: times(0.3048), in: times(0.0254) },
  'square-millimetres': {
    mm2: times(1),
    'mm²': times(1),
    awg: { base: (gauge) => awgSquareMillimetres(gauge) },
  },
  celsius: {
    '°c': times(1),
    c: times(1),
    '°f': { base: (value) => ((value - 32) * 5) / 9 },
    f: { base: (value) => ((value - 32) * 5) / 9 },
    k: { base: (value) => value - 273.15 },
  },
  percent: { '%': times(1) },
  milliseconds: { ms: times(1), s: times(1e3), sec: times(1e3), min: times(6e4), h: times(3.6e6) },
  bytes: {
    bytes: times(1),
    byte: times(1),
    b: times(1),
    kib: times(1024),
    mib: times(1048576),
    kb: times(1000),
    mb: times(1e6),
  },
  baud: { baud: times(1), bd: times(1), 'bit/s': times(1), bps: times(1) },
  count: { '': times(1) },
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

export interface QuantityLimits {
  /** Field, for the refusal. */
  field: string
  least?: number
  most?: number
}

/**
 * Reads what a person typed: "12,6 V", "12.6v", "500 mA", "14 AWG", "68 °F". A number alone is in the base unit.
 * @returns the value in the base unit.
 * @throws Problem `quantity` with the field and an example: no number, a unit of another measure, out of bounds.
 */
export function readQuantity(
  typed: string,
  measure: Measure,
  { field, least, most }: QuantityLimits,
): number {
  const text = typed.trim()
  const refuse = (says: string) =>
    new Problem({
      kind: 'quantity',
      place: { at: field },
      says,
      expected: `for example ${examples[measure]}`,
      found: text === '' ? 'nothing' : text,
      remedy: 'Write the figure with its unit.',
    })
  const zeros = /^([1-4])\/0\s*awg$/i.exec(text)
  if (measure === 'square-millimetres' && zeros) return awgSquareMillimetres(1 - Number(zeros[1]))
  const parts =
    /^([+-]?)(\d{1,3}(?:[   ]\d{3})+|\d+)?(?:[.,](\d+))?(?:e([+-]?\d{1,3}))?\s*([^\d\s].*)?$/i.exec(text)
  if (!parts || (parts[2] === undefined && parts[3] === undefined)) throw refuse('this is no figure')
  const [, sign, whole = '0', fraction = '', power = '0', word = ''] = parts
  const number = Number(`${sign}${whole.replace(/\D/g, '')}.${fraction || '0'}e${power}`)
  const words = unitWords[measure]
  const unit =
    word === ''
      ? times(1)
      : (words[word.trim().toLowerCase().replace('²', '2')] ?? words[word.trim().toLowerCase()])
  if (!unit) throw refuse(`"${word.trim()}" is not a unit of this field`)
  const value = unit.base(number)
  if (!Number.isFinite(value)) throw refuse('this is no figure')
  if (least !== undefined && value < least)
    throw refuse(value < 0 && least >= 0 ? 'this cannot be negative' : `this is below ${least}`)
  if (most !== undefined && value > most) throw refuse(`this is more than any bench has: above ${most}`)
  return value
}
