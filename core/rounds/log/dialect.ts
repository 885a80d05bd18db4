import { Problem } from '../../kernel'
import { clockSeconds } from './clock-time'

/** How a CSV file is written. */
export interface CsvDialect {
  /** Character code between two fields. */
  delimiter: number
  /** Character code before the decimals. */
  decimal: number
  names: string[]
  /** By column; empty where none is given. */
  units: string[]
  /** Lines before the heading, as they stand. */
  preamble: string[]
  /** The first column that holds times of a clock; -1 for none. */
  timeColumn: number
  /** Lines until the first row of figures, heading and units counted. */
  headLines: number
}

const delimiters = [';', '\t', ',', '|']
/** Lines that are looked at; a preamble of a hundred is none. */
const looked = 120

/**
 * How a file is written, from its first lines: delimiter and decimal sign by what makes most lines alike, heading and
 * units by where figures begin.
 * @param lines without their ends; the last may be cut off and is not looked at where there are others.
 * @throws Problem `log-unread` where no two lines agree on anything.
 */
export function sniffCsv(lines: readonly string[]): CsvDialect {
  const sample = lines.slice(0, looked)
  const dialects = delimiters.map((delimiter) => ({ delimiter, ...tableIn(sample, delimiter) }))
  const best = dialects.reduce((a, b) => (b.score > a.score ? b : a))
  if (best.score === 0)
    throw new Problem({
      kind: 'log-unread',
      place: { line: 1 },
      says: 'these lines are no table of figures',
      remedy: 'Export the log as CSV, with one heading and one row a sample.',
    })
  const { delimiter, first, width } = best
  const fields = (index: number) => splitFields(sample[index] ?? '', delimiter)
  const above = first > 0 ? fields(first - 1) : []
  const over = first > 1 ? fields(first - 2) : []
  const isHead = (cells: string[]) => cells.length === width && cells.some((cell) => cell !== '')
  // Two rows of words above the figures: names, and units below them.
  const twoRows =
    isHead(above) && isHead(over) && above.every((cell) => cell.length <= 12) && !over.some(looksNumeric)
  const names = twoRows ? over : isHead(above) ? above : []
  const headAt = first - (twoRows ? 2 : names.length > 0 ? 1 : 0)
  const named = Array.from({ length: width }, (_, index) => splitUnit(names[index] ?? ''))
  return {
    delimiter: delimiter.charCodeAt(0),
    decimal: decimalOf(sample.slice(first), delimiter),
    names: named.map(({ name }, index) => name || `Column ${index + 1}`),
    units: named.map(({ unit }, index) => (twoRows ? bare(above[index]!) : unit)),
    preamble: sample.slice(0, headAt),
    timeColumn: fields(first).findIndex((cell) => cell.includes(':') && !Number.isNaN(clockSeconds(cell))),
    headLines: first,
  }
}

/** Rows that follow each other and agree: a table, and no line of a preamble that happens to hold a figure. */
const fewestAlike = 3

/**
 * Where figures begin and how wide their rows are. The score is how many lines from there on agree, by how much of them
 * are figures: a wrong delimiter cuts figures into pieces that are none.
 */
function tableIn(
  lines: readonly string[],
  delimiter: string,
): { first: number; width: number; score: number } {
  const rows = lines.map((line) => splitFields(line, delimiter))
  let best = { first: 0, width: 0, score: 0 }
  for (let first = 0; first < rows.length; first++) {
    const width = rows[first]!.length
    if (width < 2 || !isFigures(rows[first]!)) continue
    let [alike, following, share] = [0, 0, 0]
    for (let index = first; index < rows.length; index++) {
      const row = rows[index]!
      if (row.length !== width || !isFigures(row)) continue
      alike++
      share += figureShare(row)
      if (following === index - first) following++
    }
    const score = alike * Math.min(width, 40) * (share / alike) ** 3
    if (score > best.score) best = { first, width, score }
    if (following >= Math.min(fewestAlike, rows.length - first)) return { first, width, score }
  }
  return best
}

/** A row of a log: at least half of what stands in it are figures or times. */
const isFigures = (cells: readonly string[]) => figureShare(cells) >= 0.5
const figureShare = (cells: readonly string[]) => {
  const filled = cells.filter((cell) => cell !== '')
  return filled.length === 0 ? 0 : filled.filter(looksNumeric).length / filled.length
}
const looksNumeric = (cell: string) =>
  /^[+-]?(\d+([.,]\d*)?|[.,]\d+)(e[+-]?\d+)?$/i.test(cell) || !Number.isNaN(clockSeconds(cell))

/** A decimal comma is one that stands between digits where no point ever does. */
function decimalOf(lines: readonly string[], delimiter: string): number {
  let [commas, points] = [0, 0]
  for (const line of lines)
    for (const cell of splitFields(line, delimiter)) {
      if (/^[+-]?\d*,\d+(e[+-]?\d+)?$/i.test(cell)) commas++
      else if (/^[+-]?\d*\.\d+(e[+-]?\d+)?$/i.test(cell)) points++
    }
  return (commas > points ? ',' : '.').charCodeAt(0)
}

/** `Motor speed [rpm]`, `Speed (rpm)`, `Speed/rpm` (ISO 80000-1, 7.1.4): name and unit. */
function splitUnit(heading: string): { name: string; unit: string } {
  const parts =
    /^(.*?)\s*[[({]([^\])}]*)[\])}]\s*$/.exec(heading) ??
    /^(.*\S)\s*\/\s*([%°µμΩA-Za-z][^\s/]{0,7})$/.exec(heading)
  return parts ? { name: parts[1]!.trim(), unit: parts[2]!.trim() } : { name: heading, unit: '' }
}
const bare = (unit: string) => unit.replace(/^[[({]|[\])}]$/g, '').trim()

/** Fields of one line, blanks around them taken off, quotes undone (RFC 4180, 2.5 and 2.7). */
export function splitFields(line: string, delimiter: string): string[] {
  const fields: string[] = []
  let field = ''
  let quoted = false
  for (let index = 0; index < line.length; index++) {
    const character = line[index]!
    if (quoted) {
      if (character !== '"') field += character
      else if (line[index + 1] === '"') field += line[++index]!
      else quoted = false
    } else if (character === '"' && field.trim() === '') {
      quoted = true
      field = ''
    } else if (character === delimiter) {
      fields.push(field.trim())
      field = ''
    } else field += character
  }
  fields.push(field.trim())
  return fields
}
