import {
  awgSquareMillimetres,
  durationText,
  readQuantity,
  voltsText,
  type Finding,
  type Measure,
} from '../../kernel'
import { blockCount, xmodemWireMs } from '../../link'
import { chemistryFacts } from '../power/chemistry'
import { peukertHours } from '../power/peukert'
import { judgeBaud, nearestDivisor } from './baud'
import { ampereHours } from './charge-time'
import { generatorShare } from './generator'
import { judgeLaptop } from './laptop'
import { busOhms, judgeTermination } from './termination'
import { judgeFrequency, judgeThresholds } from './thresholds'
import { leadDrop, nearestAwg } from './wire'

/** A field of a calculator: what it measures, and how one writes it. */
export interface SumField {
  id: string
  label: string
  measure: Measure
  /** What it begins with, as a person would write it. */
  usual: string
  least?: number
  most?: number
}

export interface SumAnswer {
  /** Figures by name, the unit in the name: for programs. */
  numbers: Record<string, number>
  /** The same to a person, the one that matters first. */
  says: { label: string; value: string }[]
  findings: Finding[]
}

/** A calculator: a uniform small object; page and server run the same. */
export interface Sum {
  id: string
  name: string
  /** Where the formula comes from. */
  source: string
  fields: readonly SumField[]
  work(values: Readonly<Record<string, number>>): SumAnswer
}

const field = (
  id: string,
  label: string,
  measure: Measure,
  usual: string,
  least = 0,
  most = 1e9,
): SumField => ({
  id,
  label,
  measure,
  usual,
  least,
  most,
})
const figure = (value: number, unit: string, digits = 2) => `${value.toFixed(digits)} ${unit}`

export const sums: readonly Sum[] = [
  {
    id: 'run-time',
    name: 'Run time on a serial line',
    source:
      'Blocks of 1 024 bytes with 5 around and 1 answer, 10 bits each (Forsberg 1988); erase and program times added.',
    fields: [
      field('bytes', 'Image', 'bytes', '256 KiB', 1, 2 ** 32),
      field('baud', 'Speed', 'baud', '115200', 50, 12e6),
      field('eraseMs', 'Erasing takes', 'milliseconds', '3 s'),
      field('programMs', 'Programming takes', 'milliseconds', '2 s'),
    ],
    work({ bytes, baud, eraseMs, programMs }) {
      const wire = xmodemWireMs(bytes!, 1024, { baudRate: baud!, dataBits: 8, parity: 'none', stopBits: 1 })
      const total = wire + eraseMs! + programMs!
      const { large, small } = blockCount(bytes!, 1024)
      return {
        numbers: { wireMs: wire, totalMs: total, bytesPerSecond: (bytes! * 1000) / wire },
        says: [
          { label: 'In all', value: durationText(total) },
          { label: 'On the wire', value: durationText(wire) },
          { label: 'Blocks', value: `${large} of 1 024${small ? `, ${small} of 128` : ''}` },
          { label: 'Look away for', value: total < 60_000 ? 'stay there' : durationText(total * 0.9) },
        ],
        findings: [],
      }
    },
  },
  {
    id: 'lead-drop',
    name: 'Drop in a lead',
    source: 'Annealed copper 1/58 ohm·mm²/m at 20 °C, 0.00393 per kelvin (IEC 60028); AWG by ASTM B258.',
    fields: [
      field('metres', 'Length, one way', 'metres', '3 m', 0, 1000),
      field('squareMillimetres', 'Cross-section', 'square-millimetres', '2.5 mm2', 0.01, 500),
      field('amps', 'Current', 'amps', '10 A', 0, 1000),
      field('celsius', 'Temperature', 'celsius', '20 °C', -60, 200),
    ],
    work(values) {
      const { metres, squareMillimetres, amps, celsius } = values as Record<
        'metres' | 'squareMillimetres' | 'amps' | 'celsius',
        number
      >
      const { ohms, dropVolts, lostWatts } = leadDrop({ metres, squareMillimetres, amps, celsius })
      const gauge = nearestAwg(squareMillimetres)
      return {
        numbers: { ohms, dropVolts, lostWatts },
        says: [
          { label: 'Lost in the lead', value: voltsText(dropVolts) },
          { label: 'There and back', value: figure(ohms * 1000, 'mohm', 1) },
          { label: 'As heat', value: figure(lostWatts, 'W', 1) },
          {
            label: 'Nearest gauge',
            value: `${gauge < 1 ? `${1 - gauge}/0` : gauge} AWG, ${figure(awgSquareMillimetres(gauge), 'mm²')}`,
          },
        ],
        findings: [],
      }
    },
  },
  {
    id: 'generator-share',
    name: 'Inverters on one generator',
    source: 'Charger amps are amps at battery volts: 10 A at 48 V is 480 W (common practice).',
    fields: [
      field('generatorWatts', 'Generator', 'watts', '1 kW', 1),
      field('batteryVolts', 'Battery', 'volts', '48 V', 1, 1000),
      field('firstAmps', 'Charge current, first inverter', 'amps', '10 A'),
      field('secondAmps', 'Second inverter', 'amps', '0 A'),
      field('wattHours', 'To go into the battery', 'watt-hours', '10 kWh'),
    ],
    work(values) {
      const { generatorWatts, batteryVolts, firstAmps, secondAmps, wattHours } = values as Record<
        'generatorWatts' | 'batteryVolts' | 'firstAmps' | 'secondAmps' | 'wattHours',
        number
      >
      const share = generatorShare({
        generatorWatts,
        batteryVolts,
        chargeAmps: [firstAmps, secondAmps],
        wattHours,
      })
      const over = share.overWatts > 0
      return {
        numbers: {
          chargeWatts: share.chargeWatts,
          leftForLoadsWatts: share.leftForLoadsWatts,
          overWatts: share.overWatts,
          ...(share.hoursToFull === null ? {} : { hoursToFull: share.hoursToFull }),
        },
        says: [
          { label: 'Charging draws', value: figure(share.chargeWatts, 'W', 0) },
          { label: 'Left for loads', value: figure(share.leftForLoadsWatts, 'W', 0) },
          {
            label: 'Until full',
            value: share.hoursToFull === null ? 'nothing charges' : figure(share.hoursToFull, 'h', 1),
          },
        ],
        findings: [
          {
            rule: 'generator-share',
            level: over ? 'stop' : share.share > 0.8 ? 'hold' : 'go',
            says: over
              ? `Charging alone is ${figure(share.overWatts, 'W', 0)} too much for the generator.`
              : `Charging takes ${Math.round(share.share * 100)} % of the generator.`,
            because: `${figure(firstAmps + secondAmps, 'A', 1)} at ${voltsText(batteryVolts)} is ${figure(share.chargeWatts, 'W', 0)}.`,
            ...(over ? { remedy: 'Lower the charge current of one, or charge one after the other.' } : {}),
          },
        ],
      }
    },
  },
  {
    id: 'threshold-order',
    name: 'Order of thresholds',
    source: 'Start below stop, neither below the floor, or the unit does not start (common practice).',
    fields: [
      field('startVolts', 'Generator starts below', 'volts', '49 V', 0, 1000),
      field('stopVolts', 'And stops above', 'volts', '54 V', 0, 1000),
      field('floorVolts', 'The unit’s floor', 'volts', '48 V', 0, 1000),
    ],
    work(values) {
      const form = values as Record<'startVolts' | 'stopVolts' | 'floorVolts', number>
      return {
        numbers: { ...form },
        says: [{ label: 'Between start and stop', value: voltsText(form.stopVolts - form.startVolts) }],
        findings: judgeThresholds(form),
      }
    },
  },
  {
    id: 'frequency-window',
    name: 'Frequency window',
    source: '58 to 63 Hz on a 60 Hz system (common practice); in proportion on 50 Hz.',
    fields: [
      field('hertz', 'Measured', 'hertz', '60 Hz', 1, 1000),
      field('system', 'System', 'hertz', '60 Hz', 50, 60),
    ],
    work({ hertz, system }) {
      const finding = judgeFrequency(hertz!, system! >= 55 ? 60 : 50)
      return {
        numbers: finding.numbers ?? {},
        says: [{ label: 'Measured', value: figure(hertz!, 'Hz', 1) }],
        findings: [finding],
      }
    },
  },
  {
    id: 'baud-error',
    name: 'Baud error of two ends',
    source:
      'Last bit sampled 9.5 bit times behind the start edge, found up to 1/16 late; derivation in core/ready/sums/baud.ts.',
    fields: [
      field('baud', 'Speed wanted', 'baud', '115200', 50, 12e6),
      field('firstHertz', 'Clock of the adapter', 'hertz', '48 MHz', 1e3, 1e9),
      field('secondHertz', 'Clock of the unit', 'hertz', '16 MHz', 1e3, 1e9),
      field('oversampling', 'Times a bit is sampled', 'count', '16', 4, 32),
    ],
    work(values) {
      const { baud, firstHertz, secondHertz, oversampling } = values as Record<
        'baud' | 'firstHertz' | 'secondHertz' | 'oversampling',
        number
      >
      const ends = [firstHertz, secondHertz].map((clockHertz) => {
        const { divisor } = nearestDivisor(clockHertz, baud, oversampling)
        return { clockHertz, clocksPerBit: divisor * oversampling, divisor }
      }) as [
        { clockHertz: number; clocksPerBit: number; divisor: number },
        { clockHertz: number; clocksPerBit: number; divisor: number },
      ]
      const finding = judgeBaud(ends[0], ends[1])
      return {
        numbers: finding.numbers ?? {},
        says: [
          { label: 'Difference', value: figure((finding.numbers?.['worstError'] ?? 0) * 100, '%') },
          ...ends.map(({ clockHertz, clocksPerBit, divisor }, index) => ({
            label: index === 0 ? 'Adapter' : 'Unit',
            value: `${Math.round(clockHertz / clocksPerBit)} baud, divisor ${divisor}`,
          })),
        ],
        findings: [finding],
      }
    },
  },
  {
    id: 'termination',
    name: 'Termination of a bus',
    source: '120 ohm at both ends (ISO 11898-2; RS-485 alike): 60 ohm between the wires, unpowered.',
    fields: [field('ohms', 'Measured between the wires', 'ohms', '60 ohm', 0, 1e7)],
    work({ ohms }) {
      const finding = judgeTermination(ohms!)
      return {
        numbers: finding.numbers ?? {},
        says: [{ label: 'As it should be', value: figure(busOhms(2), 'ohm', 0) }],
        findings: [finding],
      }
    },
  },
  {
    id: 'laptop-time',
    name: 'Laptop time',
    source: 'Twice the run is wanted (common practice).',
    fields: [
      field('runMs', 'The run takes', 'milliseconds', '11 min'),
      field('leftMs', 'The battery lasts', 'milliseconds', '90 min'),
    ],
    work({ runMs, leftMs }) {
      const finding = judgeLaptop({ onMains: false, minutesLeft: leftMs! / 60_000, runMs: runMs! })
      return {
        numbers: finding.numbers ?? {},
        says: [{ label: 'Wanted', value: durationText(2 * runMs!) }],
        findings: [finding],
      }
    },
  },
  {
    id: 'ampere-hours',
    name: 'Ampere-hours',
    source: 'Peukert 1897; exponent 1.2 for flooded lead-acid over 20 h (from memory).',
    fields: [
      field('capacityAh', 'Printed capacity', 'ampere-hours', '70 Ah', 0.01, 20000),
      field('percent', 'State of charge', 'percent', '80 %', 0, 100),
      field('amps', 'Draw', 'amps', '8 A', 0, 5000),
    ],
    work(values) {
      const { capacityAh, percent, amps } = values as Record<'capacityAh' | 'percent' | 'amps', number>
      const { peukert, ratedHours } = chemistryFacts['lead-acid']
      const sum = ampereHours({ capacityAh, charge: percent / 100, amps, ratedHours, peukert })
      return {
        numbers: {
          countedAmps: sum.countedAmps,
          usableAh: sum.usableAh,
          ...(sum.hours === null ? {} : { hours: sum.hours }),
        },
        says: [
          {
            label: 'Lasts',
            value: sum.hours === null ? 'nothing draws' : durationText(sum.hours * 3_600_000),
          },
          { label: 'Usable', value: figure(sum.usableAh, 'Ah', 1) },
          { label: 'Counts as', value: figure(sum.countedAmps, 'A', 1) },
          ...(amps > 0
            ? [
                {
                  label: 'Full battery',
                  value: figure(peukertHours(amps, capacityAh, ratedHours, peukert), 'h', 1),
                },
              ]
            : []),
        ],
        findings: [],
      }
    },
  },
]

/**
 * Works a calculator on what was typed: each field a figure with its unit, or a number in the base unit.
 * @throws Problem `quantity` that names the first field that does not read.
 */
export function workSum(sum: Sum, typed: Readonly<Record<string, string | number>>): SumAnswer {
  const values = Object.fromEntries(
    sum.fields.map(({ id, measure, usual, least, most }) => [
      id,
      readQuantity(String(typed[id] ?? usual), measure, {
        field: id,
        ...(least === undefined ? {} : { least }),
        ...(most === undefined ? {} : { most }),
      }),
    ]),
  )
  return sum.work(values)
}
