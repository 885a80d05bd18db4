import { fixedText } from '../../kernel'
import type { Finding, Measure } from '../../kernel'
import type { BenchInputs } from '../bench-inputs'
import type { SumPicture } from './picture'

/** A field of a calculator: what it measures, and how one writes it. */
export interface SumField {
  id: string
  label: string
  measure: Measure
  /** What it begins with, as a person would write it. */
  usual: string
  /** Where one of several is chosen: their words; the value is the index. */
  choices?: readonly string[]
  min?: number
  max?: number
}

/** What a calculator answers. */
export interface SumAnswer {
  /** Figures by name, the unit in the name: for programs. */
  numbers: Record<string, number>
  /** The same to a person, the one that matters first. */
  says: { label: string; value: string }[]
  findings: Finding[]
  picture: SumPicture
}

/** A calculator: a uniform small object; page and server run the same. */
export interface Sum {
  id: string
  name: string
  /** Where the formula comes from. */
  source: string
  fields: readonly SumField[]
  work(values: Readonly<Record<string, number>>): SumAnswer
  /** What of the answer a job takes over as said of its bench; absent where it only keeps the words. */
  puts?(numbers: Readonly<Record<string, number>>): BenchInputs
}

/** A question of a calculator, with its measure and the figures it takes, in base units. */
export const field = (
  id: string,
  label: string,
  measure: Measure,
  usual: string,
  min = 0,
  max = 1e9,
): SumField => ({
  id,
  label,
  measure,
  usual,
  min,
  max,
})
/** A value with its unit, rounded to so many decimal places. */
export const figure = (value: number, unit: string, digits = 2) => `${fixedText(value, digits)} ${unit}`
