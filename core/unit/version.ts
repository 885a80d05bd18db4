import type { VersionScheme } from '../family'

export type { VersionScheme }

/** How the first stands to the second. */
export type VersionOrder = 'older' | 'same' | 'newer' | 'not-comparable'

/** An order with the reason; where nobody can say, `because` tells why instead of guessing. */
export interface ExplainedOrder {
  order: VersionOrder
  because: string
}

/** A version taken apart under a scheme: keys that compare from left to right, or why it cannot be read. */
type Reading = { keys: Key[]; letter?: number; line?: string } | { unread: string }
type Key = number | bigint | string

/**
 * Compares two versions under a scheme (PRACTICE A1, A4, B1). Equal texts are the same under every scheme.
 * - `dotted`: integers between dots, so 1.9 is older than 1.10; a missing part counts as 0.
 * - `decimal`: one decimal number, so 1.9 is newer than 1.10, and 1.1 is 1.10.
 * - `semver`: Semantic Versioning 2.0.0, clause 11; build metadata does not count.
 * - `date`: a day, as 2026-09-02, 20260902, 2026.09.02 or 02 Sep 2026. 03/04/2026 could be two days and is not ordered.
 * - `lettered`: dotted integers followed by letters: 4.07 before 4.07a before 4.07b before 4.08.
 * - `line`: the leading digits name the hardware line, the rest is dotted; two lines are never ordered.
 * - `opaque`: others than equal texts are not comparable.
 */
export function explainOrder(scheme: VersionScheme, first: string, second: string): ExplainedOrder {
  const [a, b] = [first.trim(), second.trim()]
  if (a === b && a !== '') return { order: 'same', because: `Both read ${a}.` }
  const [left, right] = [readVersion(scheme, a), readVersion(scheme, b)]
  if ('unread' in left) return { order: 'not-comparable', because: left.unread }
  if ('unread' in right) return { order: 'not-comparable', because: right.unread }
  if (left.line !== right.line) {
    return {
      order: 'not-comparable',
      because: `${a} is of line ${left.line}, ${b} of line ${right.line}: two lines, not two ages.`,
    }
  }
  const numbers = orderOf(left.keys, right.keys)
  const order = numbers === 'same' ? orderOf([left.letter ?? 0], [right.letter ?? 0]) : numbers
  return { order, because: howText[scheme](a, b, order) }
}

/** The bare order of two versions; see `explainOrder`. */
export function compareVersions(scheme: VersionScheme, first: string, second: string): VersionOrder {
  return explainOrder(scheme, first, second).order
}

/** The leading digits of a version under the scheme `line`: the hardware line's name. */
export function versionLine(version: string): string | undefined {
  return /^\s*(\d+)\./.exec(version)?.[1]
}

const words: Record<VersionOrder, string> = {
  older: 'is older than',
  newer: 'is newer than',
  same: 'is the same as',
  'not-comparable': 'cannot be ordered with',
}
const plain = (how: string) => (a: string, b: string, order: VersionOrder) =>
  `${a} ${words[order]} ${b}, ${how}.`
const howText: Record<VersionScheme, (a: string, b: string, order: VersionOrder) => string> = {
  dotted: plain('counting each number between the dots'),
  decimal: plain('read as decimal numbers'),
  semver: plain('by Semantic Versioning 2.0.0'),
  date: plain('by their days'),
  lettered: plain('numbers first, then the letter'),
  line: plain('counting after the line’s digits'),
  opaque: plain(''),
}

function readVersion(scheme: VersionScheme, text: string): Reading {
  if (text === '') return { unread: 'There is no version to compare.' }
  switch (scheme) {
    case 'opaque':
      return { unread: `This family’s versions have no order: ${text} can only be equal or not.` }
    case 'dotted': {
      const keys = dotted(text)
      return keys ? { keys } : { unread: `${text} is not made of numbers between dots.` }
    }
    case 'decimal': {
      const parts = /^(\d{1,12})(?:[.,](\d{1,18}))?$/.exec(text)
      return parts
        ? { keys: [BigInt(parts[1]!), (parts[2] ?? '').padEnd(18, '0')] }
        : { unread: `${text} is not a decimal number.` }
    }
    case 'semver':
      return semantic(text)
    case 'date':
      return dated(text)
    case 'lettered': {
      const parts = /^([\d.]+)[ -]?([A-Za-z]{0,2})$/.exec(text)
      const numbers = parts && dotted(parts[1]!)
      return numbers
        ? { keys: numbers, letter: letters(parts[2]!) }
        : { unread: `${text} is not numbers followed by a letter.` }
    }
    case 'line': {
      const numbers = dotted(text)
      return numbers && numbers.length > 1
        ? { keys: numbers.slice(1), line: String(numbers[0]) }
        : { unread: `${text} does not begin with the digits of a hardware line.` }
    }
  }
}

/** Numbers of any length between dots: a build number may be a day and a time. */
function dotted(text: string): bigint[] | null {
  if (text.length > 400 || !/^\d+(\.\d+)*$/.test(text)) return null
  return text.split('.').map(BigInt)
}

/** No letter before a before b … before z before aa. */
const letters = (text: string) =>
  [...text.toLowerCase()].reduce((sum, letter) => sum * 27 + letter.charCodeAt(0) - 96, 0)

/** Semantic Versioning 2.0.0, clauses 2, 9, 10 and 11; a leading `v` is taken off. */
function semantic(text: string): Reading {
  const parts =
    /^v?(0|[1-9]\d{0,60})\.(0|[1-9]\d{0,60})\.(0|[1-9]\d{0,60})(?:-([0-9A-Za-z.-]+))?(?:\+[0-9A-Za-z.-]+)?$/.exec(
      text,
    )
  if (!parts) return { unread: `${text} is not a semantic version such as 2.4.0.` }
  const [, major, minor, patch, pre] = parts
  const keys: Key[] = [BigInt(major!), BigInt(minor!), BigInt(patch!)]
  if (pre === undefined) return { keys: [...keys, 1] }
  keys.push(0)
  for (const part of pre.split('.')) {
    if (part === '' || /^0\d+$/.test(part)) return { unread: `${text} has a pre-release part "${part}".` }
    // Numeric identifiers are lower than the others; a longer list is higher when all before are equal.
    if (/^\d+$/.test(part)) keys.push(1, BigInt(part))
    else keys.push(2, part)
  }
  return { keys: [...keys, 0] }
}

const months = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec']

function dated(text: string): Reading {
  const day = (year: number, month: number, date: number): Reading => {
    const real = new Date(Date.UTC(year, month - 1, date))
    return real.getUTCMonth() === month - 1 && real.getUTCDate() === date
      ? { keys: [year, month, date] }
      : { unread: `${text} is not a day of the calendar.` }
  }
  const iso = /^(\d{4})([-./]?)(\d{2})\2(\d{2})(?:[T ].*)?$/.exec(text)
  if (iso) return day(Number(iso[1]), Number(iso[3]), Number(iso[4]))
  const named = /^(\d{1,2})[ -]([A-Za-z]{3})[a-z]*[ -](\d{4})$/.exec(text)
  const month = months.indexOf(named?.[2]?.toLowerCase() ?? '')
  if (named && month >= 0) return day(Number(named[3]), month + 1, Number(named[1]))
  const short = /^(\d{1,2})[-./](\d{1,2})[-./](\d{4})$/.exec(text)
  if (short) {
    const [one, two, year] = [Number(short[1]), Number(short[2]), Number(short[3])]
    if (one === two || one > 12) return day(year, two, one)
    if (two > 12) return day(year, one, two)
    return { unread: `${text} could be two days: the month may come first or second.` }
  }
  return { unread: `${text} is not a day such as 2026-09-02.` }
}

function orderOf(left: readonly Key[], right: readonly Key[]): VersionOrder {
  for (let at = 0; at < Math.max(left.length, right.length); at++) {
    const [a, b] = [left[at] ?? 0, right[at] ?? 0]
    if (a < b) return 'older'
    if (a > b) return 'newer'
  }
  return 'same'
}
