import { bytesNumber, fillSlots, isSlot, type SlotValue, type Token } from '@bench-wake/core/family'
import { asciiText, bytesOfHex } from '@bench-wake/core/kernel'

/** How far bytes that were heard agree with a template: not, so far, or whole with what its slots hold. */
export type Heard =
  | { state: 'no' }
  /** More has to come; `open` where it would be whole if nothing more came. */
  | { state: 'so-far'; open?: { used: number; slots: Record<string, SlotValue> } }
  | { state: 'whole'; used: number; slots: Record<string, SlotValue> }

const no: Heard = { state: 'no' }

/**
 * Holds what was heard against what a bench would send: the other way round of filling a template. Slots whose value is
 * known are compared; bytes of the image are as many as the length that was heard says, else all that comes.
 * @param known values that the unit knows as the bench does: component, staging, what it gave itself.
 * @param whole true where the end of the bytes is the end of what was sent: a frame's payload.
 */
export function hear(
  tokens: readonly Token[],
  bytes: Uint8Array,
  known: Readonly<Record<string, SlotValue>>,
  whole = false,
): Heard {
  const slots: Record<string, SlotValue> = {}
  let at = 0
  for (const [index, token] of tokens.entries()) {
    if (!isSlot(token) || (token.slot in known && token.slot !== 'data')) {
      const due = isSlot(token) ? fillSlots([token], known) : token
      for (let offset = 0; offset < due.length; offset++, at++) {
        if (at >= bytes.length) return whole ? no : { state: 'so-far' }
        if (bytes[at] !== due[offset]) return no
      }
      continue
    }
    const { slot, format } = token
    const width = fixedBytes(format)
    const length = slot === 'data' ? dataLength(slots, known) : null
    const rest = tokens
      .slice(index + 1)
      .reduce((sum, each) => sum + (isSlot(each) ? (fixedBytes(each.format) ?? 0) : each.length), 0)
    let end: number
    if (width !== null) end = at + width
    else if (slot === 'data') {
      const digits = /hex/.test(format)
      if (whole) end = bytes.length - rest
      else if (length !== null) end = at + length * (digits ? 2 : 1)
      else if (digits && endsDigits(tokens[index + 1])) {
        // Digits end where something stands that is none, as a line's end.
        end = at
        while (end < bytes.length && allowed('hex', bytes[end]!, false)) end++
        if (end === bytes.length) return { state: 'so-far' }
      } else {
        if (bytes.length <= at) return { state: 'so-far' }
        // Nobody said how long it is: it is whole when nothing more comes.
        return {
          state: 'so-far',
          open: { used: bytes.length, slots: { ...slots, data: bytes.slice(at, bytes.length - rest) } },
        }
      }
    } else {
      const next = tokens[index + 1]
      const stop = next && !isSlot(next) ? next[0] : undefined
      end = at
      while (end < bytes.length && bytes[end] !== stop && allowed(format, bytes[end]!, stop !== undefined))
        end++
      if (end === at) return bytes.length > at ? no : whole ? no : { state: 'so-far' }
      if (end === bytes.length && !whole) return { state: 'so-far' }
    }
    if (end > bytes.length) return whole ? no : { state: 'so-far' }
    const value = valueOf(format, bytes.slice(at, end), slot)
    if (value === null) return no
    slots[slot] = value
    at = end
  }
  return whole && at !== bytes.length ? no : { state: 'whole', used: at, slots }
}

/** True for fixed bytes that cannot be taken for hexadecimal digits. */
const endsDigits = (next: Token | undefined): boolean =>
  next !== undefined && !isSlot(next) && !allowed('hex', next[0]!, false)

function dataLength(
  slots: Readonly<Record<string, SlotValue>>,
  known: Readonly<Record<string, SlotValue>>,
): number | null {
  const length = slots['length'] ?? known['length']
  return length === undefined ? null : Number(length)
}

function fixedBytes(format: string): number | null {
  const [, bits] = /^u(8|16|24|32)/.exec(format) ?? []
  if (bits) return Number(bits) / 8
  const [, digits] = /^(?:l?hex|dec)([0-9]+)$/.exec(format) ?? []
  return digits ? Number(digits) : null
}

/** @param ends something follows the slot that ends it: then a text of several words may stand in it. */
function allowed(format: string, byte: number, ends: boolean): boolean {
  const character = String.fromCharCode(byte)
  if (/hex/.test(format)) return /[0-9a-fA-F]/.test(character)
  if (format === '' && ends) return byte >= 32 && byte < 127
  if (format === '' || /dec/.test(format)) return /[0-9A-Za-z._-]/.test(character)
  return true
}

function valueOf(format: string, bytes: Uint8Array, slot: string): SlotValue | null {
  if (/^u/.test(format)) return bytesNumber(bytes, format.endsWith('be'))
  const text = asciiText(bytes)
  if (slot === 'data') return /hex/.test(format) ? bytesOfHex(text) : bytes
  if (/hex/.test(format)) return /^[0-9a-fA-F]+$/.test(text) ? parseInt(text, 16) : null
  return /^[0-9]+$/.test(text) ? Number(text) : text
}
