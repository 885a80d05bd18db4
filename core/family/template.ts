import { hexNumber } from '../kernel'
/*
 * Texts a unit says and hears, written in a profile as `main {value}` or `erase {address:hex8} {length:hex8}`.
 * A slot takes what stands between the literals around it. No regular expressions: a technician can write
 * these, and no profile can make the program hang.
 */

interface Part {
  literal: string
  slot?: { name: string; format: string }
}

const slotPattern = /\{([a-zA-Z][a-zA-Z0-9]*)(?::([a-z0-9]+))?\}/g

/** The slots a template names, in order. */
export function slotsOf(template: string): string[] {
  return split(template).flatMap((part) => (part.slot ? [part.slot.name] : []))
}

/**
 * Puts values into the slots. `{x:hex8}` writes a number as eight upper-case hexadecimal digits; without a
 * format the value is written as it is.
 * @throws RangeError when a slot has no value.
 */
export function fillTemplate(template: string, values: Readonly<Record<string, string | number>>): string {
  return split(template)
    .map(({ literal, slot }) => {
      if (!slot) return literal
      const value = values[slot.name]
      if (value === undefined) throw new RangeError(`No value for {${slot.name}} in "${template}"`)
      const hex = /^hex(\d+)$/.exec(slot.format)
      return literal + (hex ? hexNumber(Number(value), Number(hex[1])) : value)
    })
    .join('')
}

/**
 * Reads a line by a template: the slots' texts, or null when the line does not have that form. Runs of white
 * space count as one space on both sides, since units pad their tables.
 */
export function readTemplate(template: string, line: string): Record<string, string> | null {
  const text = evenSpace(line)
  const values: Record<string, string> = {}
  const parts = split(evenSpace(template))
  let at = 0
  for (let index = 0; index < parts.length; index++) {
    const { literal, slot } = parts[index]!
    if (!text.startsWith(literal, at)) return null
    at += literal.length
    if (!slot) continue
    const next = parts[index + 1]?.literal ?? ''
    const end = next === '' ? text.length : text.indexOf(next, at + 1)
    if (end <= at) return null
    values[slot.name] = text.slice(at, end)
    at = end
  }
  return at === text.length ? values : null
}

/**
 * Reads a text that begins by a template, whatever follows it: the slots' texts, or null. A slot that nothing follows in the
 * template ends at the first character that is a space or cannot be printed.
 * @param max characters of a slot at most.
 */
export function readTemplateStart(template: string, text: string, max = 40): Record<string, string> | null {
  const values: Record<string, string> = {}
  const parts = split(template)
  let at = 0
  for (const [index, { literal, slot }] of parts.entries()) {
    if (!text.startsWith(literal, at)) return null
    at += literal.length
    if (!slot) continue
    const next = parts[index + 1]?.literal ?? ''
    const rest = text.slice(at, at + max + next.length)
    const end = next === '' ? rest.search(/[^\x21-\x7e]/) : rest.indexOf(next)
    const value = end < 0 ? (next === '' ? rest.slice(0, max) : '') : rest.slice(0, end)
    if (!/^[\x20-\x7e]+$/.test(value)) return null
    values[slot.name] = value
    at += value.length
  }
  return values
}

/** What a template begins with, up to its first slot. */
export const literalStart = (template: string): string => split(template)[0]?.literal ?? ''

const evenSpace = (text: string) => text.trim().replace(/\s+/g, ' ')

function split(template: string): Part[] {
  const parts: Part[] = []
  let at = 0
  for (const match of template.matchAll(slotPattern)) {
    parts.push({
      literal: template.slice(at, match.index),
      slot: { name: match[1]!, format: match[2] ?? '' },
    })
    at = match.index + match[0].length
  }
  if (at < template.length) parts.push({ literal: template.slice(at) })
  return parts
}
