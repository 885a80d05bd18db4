/** A sign that stands for what cannot be read (Unicode 16.0, 3.9, U+FFFD). */
const unreadable = 0xfffd

/** Order of a UTF-16 file by its mark (Unicode 16.0, 3.10, D98); null for any other file, or while that is open. */
export function wideOrder(head: Uint8Array): 'little' | 'big' | null {
  if (head[0] === 0xff && head[1] === 0xfe) return 'little'
  return head[0] === 0xfe && head[1] === 0xff ? 'big' : null
}

/** Makes UTF-8 of UTF-16 as it comes in, whatever the pieces it was cut into. */
export class Utf16Reader {
  #odd: number | undefined
  /** The first half of a pair whose second has not come yet. */
  #high: number | undefined

  /** @param order which byte of a unit comes first. */
  constructor(private readonly order: 'little' | 'big') {}

  /** What these bytes say, in UTF-8: three bytes a unit at the most. A half without its other half is U+FFFD. */
  push(bytes: Uint8Array): Uint8Array {
    const text = new Uint8Array(((bytes.length + 1) >> 1) * 3 + 3)
    let length = 0
    const put = (point: number) => {
      if (point < 0x80) text[length++] = point
      else if (point < 0x800) {
        text[length++] = 0xc0 | (point >> 6)
        text[length++] = 0x80 | (point & 63)
      } else {
        if (point < 0x10000) text[length++] = 0xe0 | (point >> 12)
        else {
          text[length++] = 0xf0 | (point >> 18)
          text[length++] = 0x80 | ((point >> 12) & 63)
        }
        text[length++] = 0x80 | ((point >> 6) & 63)
        text[length++] = 0x80 | (point & 63)
      }
    }
    for (const byte of bytes) {
      if (this.#odd === undefined) {
        this.#odd = byte
        continue
      }
      const unit = this.order === 'little' ? this.#odd | (byte << 8) : (this.#odd << 8) | byte
      this.#odd = undefined
      const high = this.#high
      this.#high = undefined
      if (high !== undefined) {
        if (unit >= 0xdc00 && unit < 0xe000) {
          put(0x10000 + ((high - 0xd800) << 10) + (unit - 0xdc00))
          continue
        }
        put(unreadable)
      }
      if (unit >= 0xd800 && unit < 0xdc00) this.#high = unit
      else put(unit >= 0xdc00 && unit < 0xe000 ? unreadable : unit)
    }
    return text.subarray(0, length)
  }
}
