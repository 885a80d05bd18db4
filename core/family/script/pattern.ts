import type { Pattern } from '../schema'
import { asciiText, bytesOfHex } from '../../kernel'
import { bytesNumber, isSlot, readEither, type SlotToken, type SlotValue } from './template'

/*
 * What is awaited is found anywhere in the stream, without a line end if need be. Every pattern runs along with the bytes
 * as a set of places where it could be. Of those within one slot two are kept: the one that began first, which counts, and
 * the one that began last, which stays when the first has grown too long. So a byte costs no more than the pattern is long,
 * whatever the unit chatters.
 */

/** Longest capture of a slot without a width of its own, bytes. */
export const maxCaptured = 256
const CR = 13
const LF = 10

type Part =
  | { kind: 'byte'; byte: number }
  /** Nothing stands before it on its line. */
  | { kind: 'line-start' }
  /** One of a line's two ends, and in a line a gap between two words: as many as come. */
  | { kind: 'line-end' }
  | { kind: 'gap' }
  | { kind: 'fixed'; slot: SlotToken; width: number; allows: (byte: number) => boolean }
  | { kind: 'run'; slot: SlotToken; allows: (byte: number) => boolean }

const isHex = (byte: number) =>
  (byte >= 48 && byte <= 57) || (byte >= 65 && byte <= 70) || (byte >= 97 && byte <= 102)
const isDigit = (byte: number) => byte >= 48 && byte <= 57
const isRow = (byte: number) => isHex(byte) || byte === 32
const isLineEnd = (byte: number) => byte === CR || byte === LF
const isText = (byte: number) => !isLineEnd(byte)
const isBlank = (byte: number) => byte === 32 || byte === 9
const isAny = () => true

/** `done` and `total` are numbers without being told so. */
const usual = (slot: SlotToken): string => slot.format || (/^(done|total)$/.test(slot.slot) ? 'dec' : '')

function partOf(slot: SlotToken): Part {
  const format = usual(slot)
  const [, digits, width] = /^(l?hex|dec)([0-9]*)$/.exec(format) ?? []
  const [, bits] = /^u(8|16|24|32)/.exec(format) ?? []
  if (bits) return { kind: 'fixed', slot, width: Number(bits) / 8, allows: isAny }
  const allows = digits === 'dec' ? isDigit : digits ? isHex : format === 'bytes' ? isRow : isText
  return width ? { kind: 'fixed', slot, width: Number(width), allows } : { kind: 'run', slot, allows }
}

const byteOf = (byte: number): Part => ({ kind: 'byte', byte })
/** A line's end in a text, however it is written, stands for whatever end the unit gives its lines. */
function textParts(bytes: Uint8Array, gaps = false): Part[] {
  const parts: Part[] = []
  for (const byte of bytes) {
    const kind = isLineEnd(byte) ? 'line-end' : gaps && isBlank(byte) ? 'gap' : null
    if (!kind) parts.push(byteOf(byte))
    else if (parts.at(-1)?.kind !== kind) parts.push({ kind })
  }
  return parts
}

/** A pattern ready to run. */
export interface Compiled {
  parts: readonly Part[]
  /** Bytes that it takes at least. */
  min: number
  means: NonNullable<Pattern['means']>
  /** As the profile has it, for a sentence. */
  says: string
  slots: readonly string[]
}

/** @throws RangeError for a text with a character above 255. */
export function compilePattern(pattern: Pattern): Compiled {
  const tokens = readEither(pattern)
  const parts = tokens.flatMap((token): Part[] =>
    isSlot(token)
      ? [partOf(token)]
      : 'bytes' in pattern
        ? [...token].map(byteOf)
        : textParts(token, 'line' in pattern),
  )
  if ('line' in pattern) {
    parts.unshift({ kind: 'line-start' })
    if (parts.at(-1)?.kind !== 'line-end') parts.push({ kind: 'line-end' })
  }
  // A slot at the end has nothing after it that would end it: the line's end does.
  if (parts.at(-1)?.kind === 'run') parts.push({ kind: 'line-end' })
  return {
    parts,
    min: parts.reduce(
      (sum, part) => sum + (part.kind === 'fixed' ? part.width : part.kind === 'line-start' ? 0 : 1),
      0,
    ),
    means: pattern.means ?? 'go',
    says:
      'bytes' in pattern
        ? pattern.bytes
        : 'line' in pattern
          ? `a line ${JSON.stringify(pattern.line)}`
          : JSON.stringify(pattern.text),
    slots: tokens.filter(isSlot).map(({ slot }) => slot),
  }
}

/** What an awaited text came as. */
export interface Found {
  /** Index of the pattern. */
  index: number
  pattern: Compiled
  slots: Record<string, SlotValue>
  /** Bytes fed before the match began, and until it was whole. */
  start: number
  end: number
}

/** A place within a pattern: which part, how many bytes of it, and where each slot began and ended. */
interface Place {
  part: number
  count: number
  start: number
  marks: readonly number[]
}

/** Runs several patterns along a stream; the first that is whole counts, of two at the same byte the first in the list. */
export class Matcher {
  private places: Place[][]
  private fed: number[] = []
  private at = 0
  private base = 0

  constructor(private readonly patterns: readonly Compiled[]) {
    this.places = patterns.map(() => [])
  }

  /** @returns the match that ends with this byte, or null. */
  feed(byte: number): Found | null {
    this.keep(byte)
    for (let index = 0; index < this.patterns.length; index++) {
      const pattern = this.patterns[index]!
      const before = this.places[index]!
      const next: Place[] = []
      /** Where the places of a part stand in `next`: the eldest, and the youngest beside it. */
      const eldest: (number | undefined)[] = []
      const youngest: (number | undefined)[] = []
      let whole: Place | undefined
      const put = (place: Place) => {
        if (place.part === pattern.parts.length) {
          whole ??= place
          return
        }
        const first = eldest[place.part]
        if (first === undefined) {
          eldest[place.part] = next.push(place) - 1
          return
        }
        // Of fixed parts every count is a place of its own, and there are few.
        if (pattern.parts[place.part]!.kind === 'fixed') {
          if (!next.some(({ part, count }) => part === place.part && count === place.count)) next.push(place)
          return
        }
        const last = youngest[place.part]
        if (last === undefined) youngest[place.part] = next.push(place) - 1
        else next[last] = place
      }
      for (const place of before) this.step(pattern.parts, place, byte, put)
      this.step(pattern.parts, { part: 0, count: 0, start: this.at - 1, marks: [] }, byte, put)
      this.places[index] = next
      if (whole) {
        const slots = this.captured(pattern.parts, whole.marks)
        return { index, pattern, start: whole.start, end: this.at, slots }
      }
    }
    return null
  }

  private step(parts: readonly Part[], place: Place, byte: number, put: (place: Place) => void): void {
    const part = parts[place.part]!
    const { count, start, marks } = place
    const onward = (ends: readonly number[]) => put({ part: place.part + 1, count: 0, start, marks: ends })
    switch (part.kind) {
      case 'byte':
        if (byte === part.byte) onward(marks)
        return
      case 'line-start': {
        const before = this.at - 2 < this.base ? LF : this.fed[this.at - 2 - this.base]
        if (isLineEnd(before!)) this.step(parts, { part: place.part + 1, count: 0, start, marks }, byte, put)
        return
      }
      case 'line-end':
      case 'gap':
        // As many as come, where something follows; the first ends a pattern.
        if (count > 0) this.step(parts, { part: place.part + 1, count: 0, start, marks }, byte, put)
        if (!(part.kind === 'gap' ? isBlank : isLineEnd)(byte)) return
        if (place.part + 1 === parts.length) onward(marks)
        else put({ part: place.part, count: 1, start, marks })
        return
      case 'fixed': {
        if (!part.allows(byte)) return
        const begun = count === 0 ? [...marks, this.at - 1] : marks
        if (count + 1 === part.width) onward([...begun, this.at])
        else put({ part: place.part, count: count + 1, start, marks: begun })
        return
      }
      case 'run': {
        // What could be the next part is tried first: a slot is as short as it can be.
        if (count > 0)
          this.step(
            parts,
            { part: place.part + 1, count: 0, start, marks: [...marks, this.at - 1] },
            byte,
            put,
          )
        if (!part.allows(byte) || count >= maxCaptured) return
        put({
          part: place.part,
          count: count + 1,
          start,
          marks: count === 0 ? [...marks, this.at - 1] : marks,
        })
        return
      }
      default:
        return part satisfies never
    }
  }

  private keep(byte: number): void {
    this.fed.push(byte)
    this.at++
    // No match is longer than its captures and its own bytes; what is older is let go.
    if (this.fed.length > 16_384) {
      this.fed = this.fed.slice(-8_192)
      this.base = this.at - this.fed.length
    }
  }

  private captured(parts: readonly Part[], marks: readonly number[]): Record<string, SlotValue> {
    const slots: Record<string, SlotValue> = {}
    let at = 0
    for (const part of parts) {
      if (part.kind !== 'fixed' && part.kind !== 'run') continue
      const [from, to] = [marks[at]!, marks[at + 1]!]
      at += 2
      slots[part.slot.slot] = valueOf(
        part.slot,
        Uint8Array.from(this.fed.slice(from - this.base, to - this.base)),
      )
    }
    return slots
  }
}

function valueOf(slot: SlotToken, bytes: Uint8Array): SlotValue {
  const format = usual(slot)
  const text = asciiText(bytes)
  if (format.startsWith('hex') || format.startsWith('lhex')) return parseInt(text, 16)
  if (format.startsWith('dec')) return parseInt(text, 10)
  if (format.startsWith('u')) return bytesNumber(bytes, format.endsWith('be'))
  if (format === 'bytes') return bytesOfHex(text.replace(/ +/g, ''))
  return text.trim()
}

/**
 * A pattern held against the beginning of bytes whose end is known: a frame's payload. A slot without a width of its own
 * takes all that is left. @returns the slots, or null.
 */
export function matchHead(pattern: Compiled, bytes: Uint8Array): Record<string, SlotValue> | null {
  const slots: Record<string, SlotValue> = {}
  let at = 0
  for (const part of pattern.parts) {
    if (part.kind === 'line-end' || part.kind === 'line-start') continue
    if (part.kind === 'gap') {
      if (!isBlank(bytes[at] ?? 0)) return null
      while (isBlank(bytes[at] ?? 0)) at++
      continue
    }
    if (part.kind === 'byte') {
      if (bytes[at++] !== part.byte) return null
      continue
    }
    const end = part.kind === 'fixed' ? at + part.width : bytes.length
    const own = bytes.slice(at, end)
    if (end > bytes.length || own.length === 0 || (part.kind === 'fixed' && !own.every(part.allows)))
      return null
    // Bytes as they are: in a frame nothing is printed as digits.
    slots[part.slot.slot] = part.kind === 'run' && usual(part.slot) !== 'text' ? own : valueOf(part.slot, own)
    at = end
  }
  return slots
}

/** True where a pattern is whole before a later one could be: the later is never reached. */
export function hides(first: Compiled, second: Compiled): boolean {
  if (first.parts.length > second.parts.length) return false
  return first.parts.every((part, at) => {
    const other = second.parts[at]!
    if (part.kind === 'byte') return other.kind === 'byte' && part.byte === other.byte
    return part.kind !== 'fixed' && part.kind !== 'run' && other.kind === part.kind
  })
}
