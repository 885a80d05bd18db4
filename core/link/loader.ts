import { bytesText, crc32, hexNumber, Problem } from '../kernel'

/** What a loader can do with this unit; the plan and the record say which proof was possible. */
export interface LoaderAbilities {
  /** Reads memory back. */
  read: boolean
  /** Erases as an act of its own, before the write. */
  erase: boolean
  /** How a written image is checked: byte by byte, by a checksum the unit computes, or by its version alone. */
  verify: 'read-back' | 'checksum' | 'version-only'
  /** Goes on in the middle after a cut. */
  resume: boolean
}

/** How far an act has come. Bytes count when the unit has acknowledged them. */
export interface Progress {
  done: number
  total: number
  unit: 'bytes' | 'sectors'
  /** Pieces sent again so far. */
  retries: number
}

/** Is told of progress; the act goes on when the promise resolves. */
export type Report = (progress: Progress) => Promise<void> | void

/** Raised when the person abandons the run. */
export interface Abandon {
  readonly raised: boolean
}

export interface Verification {
  how: LoaderAbilities['verify']
  ok: boolean
  /** What was compared, in words and figures: `CRC-32 CBF43926 over 262 144 bytes`. */
  expected: string
  found: string
}

/** A piece of memory to be erased. */
export interface Range {
  address: number
  length: number
}

/**
 * A unit's bootloader, over whatever link. One per protocol. Every act throws a Problem that says what the unit
 * answered, or that it did not; none resolves before the unit has confirmed.
 */
export interface Loader {
  readonly can: LoaderAbilities
  /** Finds the bootloader on the line; throws Problem `no-bootloader` when it does not answer. */
  attach(): Promise<void>
  /** The lines the bootloader says of the unit. */
  identify(): Promise<string[]>
  read?(range: Range, report: Report): Promise<Uint8Array>
  erase(range: Range, report: Report): Promise<void>
  /**
   * @param from byte to go on from after a cut, where the loader can `resume`: one that an earlier report named.
   */
  write(address: number, bytes: Uint8Array, report: Report, abandon: Abandon, from?: number): Promise<void>
  /**
   * Sends the image over the link as a write would, and the unit throws it away; absent where it has no such thing.
   */
  rehearse?(address: number, bytes: Uint8Array, report: Report, abandon: Abandon): Promise<void>
  verify(address: number, bytes: Uint8Array): Promise<Verification>
  /** Starts the new firmware. */
  leave(): Promise<void>
  /** Whether the unit keeps its memory from being read; absent where there is no such thing. */
  protected?(): Promise<boolean>
  /**
   * Takes the protection away; the unit erases itself with it. Ask twice before.
   * @param consent the words of the second question, so that nothing calls this in passing.
   */
  eraseAll?(consent: 'erase the whole unit'): Promise<void>
}

/** The person abandons a write; `found` says how the unit is left. */
export function writeAbandoned(thing: string, offset: number, found: string): Problem {
  return new Problem({
    kind: 'write-abandoned',
    thing,
    place: { offset },
    says: 'the write was abandoned by you',
    found,
    remedy: 'Write again from the beginning.',
  })
}

/**
 * An image held against checksums that the unit computes over its memory: one over each half. Over an image that ends in
 * its own CRC-32 the sum of the whole is the same for every such image, the residue of the code (2144DF1C; catalogue of
 * parametrised CRC algorithms, CRC-32/ISO-HDLC), and would tell an old image from a new one by nothing.
 * @param ask CRC-32 of a piece of the image in the unit, as hexadecimal digits; empty where the unit gives none.
 */
export async function checksumVerification(
  bytes: Uint8Array,
  ask: (offset: number, length: number) => Promise<string>,
): Promise<Verification> {
  const middle = (bytes.length >> 1) & ~3
  const halves = [bytes.subarray(0, middle), bytes.subarray(middle)].filter(({ length }) => length > 0)
  const expected: string[] = []
  const found: string[] = []
  let offset = 0
  for (const half of halves) {
    expected.push(hexNumber(crc32(half), 8))
    found.push((await ask(offset, half.length)) || 'none')
    offset += half.length
  }
  const said = (sums: string[]) =>
    `CRC-32 ${sums.join(' and ')} over the halves of ${bytesText(bytes.length)}`
  return {
    how: 'checksum',
    ok: expected.every((sum, index) => sum === found[index]),
    expected: said(expected),
    found: found.every((sum) => sum === 'none') ? 'no checksum' : said(found),
  }
}
