import { applicationRegions, type Family } from '../family'
import { asciiBytes, asciiText, inSentence, asSentence } from '../kernel'
import { findBytes } from './find-bytes'
import { byteCount, holdsRange, type MemoryMap } from './memory-map'

/*
 * What can be seen in an image that no profile claims. Everything here is a hint for a person's eyes, never a ground
 * to write: an image without a known identity does not go on.
 */

/** How even the bytes of a stretch are: code, text, packed data or nothing. */
export interface EntropyBlock {
  address: number
  length: number
  /** Shannon entropy, bits a byte: 0 for one value, 8 for noise. */
  bits: number
}

/** What a text among the bytes looks like. */
export type TextKind = 'version' | 'date' | 'model' | 'text'

/** A text among the bytes, and what it looks like. */
export interface FoundText {
  address: number
  text: string
  kind: TextKind
}

/** A table of start addresses at the head of an image. */
export interface VectorTable {
  address: number
  /** First stack pointer. */
  stack: number
  /** Address of the reset routine. */
  reset: number
  makesSense: boolean
  because: string
}

/** Equipment that an image without a label may be for, and why. */
export interface PossibleFamily {
  familyId: string
  componentId: string
  because: string
}

/**
 * Entropy along the address line, in at most `most` blocks of equal length (a power of two, 256 bytes at least).
 * Shannon 1948, equation for H; long even stretches near 8 are packed or encrypted, near 0 filled.
 */
export function entropyOf(memory: MemoryMap, max = 256): EntropyBlock[] {
  let size = 256
  while (byteCount(memory) / size > max) size *= 2
  return memory.flatMap(({ address, bytes }) => {
    const blocks: EntropyBlock[] = []
    for (let from = 0; from < bytes.length; from += size) {
      const part = bytes.subarray(from, from + size)
      blocks.push({ address: address + from, length: part.length, bits: shannon(part) })
    }
    return blocks
  })
}

function shannon(bytes: Uint8Array): number {
  const counts = new Uint32Array(256)
  for (const byte of bytes) counts[byte]!++
  let bits = 0
  for (const count of counts) {
    if (count > 0) bits -= (count / bytes.length) * Math.log2(count / bytes.length)
  }
  return Math.abs(bits)
}

const minText = 4
const maxTexts = 200

/**
 * Texts in the image (four printable ASCII characters or more), sorted by what they look like: versions, dates, model
 * names, then the rest, at most two hundred.
 */
export function textsIn(memory: MemoryMap): FoundText[] {
  const told: FoundText[] = []
  const plain: FoundText[] = []
  for (const { address, bytes } of memory) {
    let from = -1
    for (let at = 0; at <= bytes.length; at++) {
      const byte = bytes[at]
      if (byte !== undefined && byte >= 0x20 && byte < 0x7f) {
        if (from < 0) from = at
        continue
      }
      if (from >= 0 && at - from >= minText) {
        const text = asciiText(bytes.subarray(from, Math.min(at, from + 80))).trim()
        // A short mark counts only where a zero ends it, as a compiler leaves it; noise makes such marks by chance.
        const ended = byte === 0
        const found = kindOf(text)
        const kind = found === 'model' && !ended ? 'text' : found
        if (kind !== 'text') told.push({ address: address + from, text, kind })
        // Noise makes short texts by chance; a word has letters in a row.
        else if (plain.length < maxTexts && /[A-Za-z]{3}/.test(text) && text.length >= 6) {
          plain.push({ address: address + from, text, kind })
        }
        if (told.length >= maxTexts) return told
      }
      from = -1
    }
  }
  const order: TextKind[] = ['version', 'date', 'model', 'text']
  return [...told, ...plain].sort((a, b) => order.indexOf(a.kind) - order.indexOf(b.kind)).slice(0, maxTexts)
}

function kindOf(text: string): TextKind {
  if (/^v?\d{1,3}\.\d{1,4}(\.\d{1,4}){0,2}[a-z]?([-+][0-9A-Za-z.]{1,16})?$/i.test(text)) return 'version'
  if (/\b(version|ver|fw|rev)[ :.=]*v?\d+(\.\d+)+/i.test(text)) return 'version'
  if (/\b(19|20)\d\d[-/.]?(0[1-9]|1[0-2])[-/.]?(0[1-9]|[12]\d|3[01])\b/.test(text)) return 'date'
  if (/\b(Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec)[a-z]* +\d{1,2},? +(19|20)\d\d\b/.test(text))
    return 'date'
  if (/^[A-Z]{2,5}-?\d{1,4}[A-Z]?$/.test(text)) return 'model'
  return 'text'
}

/**
 * Looks for a vector table of the Armv7-M kind at the start of each segment (Armv7-M Architecture Reference Manual,
 * B1.5.3): first word the stack pointer, second the reset routine with its lowest bit set.
 */
export function vectorTableOf(memory: MemoryMap): VectorTable | null {
  for (const { address, bytes } of memory) {
    if (bytes.length < 64) continue
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
    const [stack, reset] = [view.getUint32(0, true), view.getUint32(4, true)]
    if (stack === 0xffffffff && reset === 0xffffffff) continue
    const stackFits = stack % 4 === 0 && stack >= 0x1000_0000 && stack < 0x4000_0000
    const thumb = reset % 2 === 1
    const lands = holdsRange(memory, reset - 1, 2)
    const faults = [
      stackFits ? '' : 'the first word is no stack in memory',
      thumb ? '' : 'the reset routine’s lowest bit is not set',
      lands ? '' : 'the reset routine lies outside the image',
    ].filter(Boolean)
    if (faults.length === 3) continue
    return {
      address,
      stack,
      reset,
      makesSense: faults.length === 0,
      because:
        faults.length === 0
          ? 'Stack in memory, reset routine within the image.'
          : `${asSentence(faults.join('; '))}.`,
    }
  }
  return null
}

/** Families that the image could belong to, by what points there: mark elsewhere, identifier, place in memory. */
export function possibleFamilies(memory: MemoryMap, families: readonly Family[]): PossibleFamily[] {
  const found: (PossibleFamily & { weight: number })[] = []
  for (const family of families) {
    const device = findBytes(memory, asciiBytes(family.hardware.deviceIdentifier), 1)[0]
    for (const component of family.components) {
      const mark = component.identity && findBytes(memory, asciiBytes(component.identity.magic), 1)[0]
      const fits = memory.every(({ address, bytes }) =>
        applicationRegions(component).some(
          (region) => region.address <= address && address + bytes.length <= region.address + region.length,
        ),
      )
      const reasons = [
        mark === undefined ? '' : `its mark ${component.identity?.magic} stands at another place`,
        device === undefined ? '' : `it holds the text ${family.hardware.deviceIdentifier}`,
        fits ? `it lies within the ${inSentence(component.name)}’s memory` : '',
      ].filter(Boolean)
      const weight = (mark === undefined ? 0 : 4) + (device === undefined ? 0 : 2) + (fits ? 1 : 0)
      if (weight > 0)
        found.push({
          familyId: family.id,
          componentId: component.id,
          because: `${asSentence(reasons.join('; '))}.`,
          weight,
        })
    }
  }
  return found
    .sort((a, b) => b.weight - a.weight)
    .slice(0, 8)
    .map(({ weight: _, ...each }) => each)
}

/** What a plain look tells of an image. */
export interface Exploration {
  entropy: EntropyBlock[]
  texts: FoundText[]
  vectors: VectorTable | null
  possible: PossibleFamily[]
}

/** @param families profiles to look for; none for an image whose family is known. */
export function exploreImage(memory: MemoryMap, families: readonly Family[]): Exploration {
  return {
    entropy: entropyOf(memory),
    texts: textsIn(memory),
    vectors: vectorTableOf(memory),
    possible: possibleFamilies(memory, families),
  }
}
