import type { Pattern } from '../schema'

/*
 * A text that a person marks in what a unit said becomes a template: the line it stands in, with a slot in its place.
 */

/** A line of what was heard, with a slot where the marked text stood. */
export interface Mark {
  /** `fw {value}`. */
  template: string
  /** What was marked. */
  value: string
}

const lineEnds = /[\r\n]/
/** Braces of the unit's own would be taken for a slot. */
const hasBraces = /[{}]/

/**
 * The template of the line that a marked text stands in.
 * @param from first character of the mark in `heard`, `to` the one after its last.
 * @returns null where nothing is marked, where the mark goes over a line's end, or the line has braces of its own.
 */
export function markOf(heard: string, from: number, to: number, slot = 'value'): Mark | null {
  const marked = heard.slice(from, to)
  const value = marked.trim()
  if (value === '' || lineEnds.test(marked)) return null
  const start = from + marked.indexOf(value)
  const end = start + value.length
  const lineStart = Math.max(heard.lastIndexOf('\r', start - 1), heard.lastIndexOf('\n', start - 1)) + 1
  const rest = heard.slice(end)
  const lineEnd = end + (rest.search(lineEnds) < 0 ? rest.length : rest.search(lineEnds))
  const [before, after] = [heard.slice(lineStart, start), heard.slice(end, lineEnd)]
  if (hasBraces.test(before + after)) return null
  const template = `${before.trimStart()}{${slot}}${after.trimEnd()}`
  // A line that is all slot would be any line.
  return { template, value }
}

/** The text that a unit stops at and waits: what stands after the last line's end; null where it ended its last line. */
export function promptOf(heard: string): string | null {
  const last = heard.slice(Math.max(heard.lastIndexOf('\r'), heard.lastIndexOf('\n')) + 1)
  return last.trim() === '' || hasBraces.test(last) ? null : last
}

/** What a line of a unit's page is likely to be. */
export interface Guess extends Mark {
  field: string
  label: string
}

/** Words by which units usually name a line of their page (common practice). */
const named: readonly { field: string; label: string; words: RegExp; value: RegExp }[] = [
  {
    field: 'version.main',
    label: 'Firmware',
    words: /^(fw|firmware|version|ver|sw|software|app|application|release|main)$/i,
    value: /^v?\d+(\.\d+)+[\w.+-]*$/i,
  },
  { field: 'serial', label: 'Serial', words: /^(serial|sn|s\/n|ser)$/i, value: /^[\w-]{3,}$/ },
  {
    field: 'hardware',
    label: 'Hardware',
    words: /^(hw|hardware|board|pcb|rev|revision)$/i,
    value: /^[\w.]+$/,
  },
  {
    field: 'deviceIdentifier',
    label: 'Device',
    words: /^(device|model|product|type|unit|id)$/i,
    value: /^[\w.-]{2,}$/,
  },
]

/**
 * What is offered in a text that a unit said: of each line the first value whose name is a usual one, and a version that
 * stands with no name at all.
 */
export function guessMarks(heard: string): Guess[] {
  const guesses: Guess[] = []
  const known = new Set<string>()
  let at = 0
  for (const line of heard.split(/(\r\n|\r|\n)/)) {
    const start = at
    at += line.length
    if (lineEnds.test(line) || line.trim() === '') continue
    for (const { field, label, words, value } of named) {
      if (known.has(field)) continue
      for (const [, name, gap, text] of line.matchAll(/([A-Za-z/]+)(\s*[:=]\s*|\s+)([^\s,;()]+)/g)) {
        if (!words.test(name!) || !value.test(text!)) continue
        const from = start + line.indexOf(`${name}${gap}${text}`) + name!.length + gap!.length
        const mark = markOf(heard, from, from + text!.length)
        if (!mark || known.has(field)) continue
        known.add(field)
        guesses.push({ field, label, ...mark })
      }
    }
  }
  return guesses
}

/** How an answer is known to be over: by its last line, or by the prompt that follows it without a line's end. */
export const endPattern = (end: { line: string } | { prompt: string }): Pattern =>
  'line' in end ? { line: end.line } : { text: end.prompt }
