import { Problem, readQuantity } from '../../kernel'
import { ampereHoursSum } from './calculators/ampere-hours'
import { baudErrorSum } from './calculators/baud-error'
import { busTimeSum } from './calculators/bus-time'
import { chargerSizeSum } from './calculators/charger-size'
import { frequencyWindowSum } from './calculators/frequency-window'
import { generatorShareSum } from './calculators/generator-share'
import { laptopTimeSum } from './calculators/laptop-time'
import { leadDropSum } from './calculators/lead-drop'
import { runTimeSum } from './calculators/run-time'
import { sagSum } from './calculators/sag'
import { shedListSum } from './calculators/shed-list'
import { terminationSum } from './calculators/termination'
import { thresholdOrderSum } from './calculators/threshold-order'
import type { Sum, SumAnswer, SumField } from './sum'

/** Every calculator, a file each, in the order of the screen. */
export const sums: readonly Sum[] = [
  runTimeSum,
  busTimeSum,
  sagSum,
  chargerSizeSum,
  shedListSum,
  leadDropSum,
  generatorShareSum,
  thresholdOrderSum,
  frequencyWindowSum,
  baudErrorSum,
  terminationSum,
  laptopTimeSum,
  ampereHoursSum,
]

/**
 * Works a calculator on what was typed: each field a figure with its unit, or a number in the base unit.
 * @throws Problem `quantity` that names the first field that does not read.
 */
export function workSum(sum: Sum, typed: Readonly<Record<string, string | number>>): SumAnswer {
  const values = Object.fromEntries(
    sum.fields.map((field) => [field.id, readField(field, String(typed[field.id] ?? field.usual))]),
  )
  return sum.work(values)
}

/** @throws Problem `quantity` that names the field. */
function readField({ id, measure, choices, min, max }: SumField, typed: string): number {
  if (choices) {
    const index = choices.indexOf(typed.trim())
    if (index >= 0) return index
    throw new Problem({
      kind: 'quantity',
      place: { at: id },
      says: 'this is none of the choices',
      expected: choices.join(', '),
      found: typed,
      remedy: 'Choose one of these.',
    })
  }
  return readQuantity(typed, measure, {
    field: id,
    ...(min === undefined ? {} : { min }),
    ...(max === undefined ? {} : { max }),
  })
}
