import { bytesText, crc32, hexNumber } from '../kernel'

/**
 * What holding an image against a unit can come to; every step, record and screen speaks from these.
 * - `equal-read-back`: every byte was read out of the unit and is that of the image.
 * - `equal-checksum`: a checksum that the unit computed over its memory is that of the image; `by` names it.
 * - `version-only`: the link compares nothing; what the unit says of its version after the restart is all there is.
 * - `not-comparable`: it could be compared in principle and was not: nothing to compare, no answer to it.
 * - `different`: at least one byte is not that of the image.
 */
export const checkOutcomes = [
  'equal-read-back',
  'equal-checksum',
  'version-only',
  'not-comparable',
  'different',
] as const
export type CheckOutcome = (typeof checkOutcomes)[number]

/** What a check of what was written came to. */
export interface Verification {
  outcome: CheckOutcome
  /** Which checksum it rests on: "CRC-32". */
  by?: string
  /** What was compared, in words and figures: `CBF43926 and 00000000 over the halves of 262 144 bytes`. */
  expected: string
  found: string
}

/** True only where every byte of the image was held against the unit and none differs. */
export const isEqual = ({ outcome }: Pick<Verification, 'outcome'>): boolean =>
  outcome === 'equal-read-back' || outcome === 'equal-checksum'

/** The outcome in a few words, for a list. */
export function checkText({ outcome, by }: Pick<Verification, 'outcome' | 'by'>): string {
  switch (outcome) {
    case 'equal-read-back':
      return 'equal at every byte, read back'
    case 'equal-checksum':
      return `equal by ${by ?? 'checksum'}`
    case 'version-only':
      return 'not compared: this link proves it by its version alone'
    case 'not-comparable':
      return 'not compared'
    case 'different':
      return 'not the same'
  }
}

/** The outcome of several pieces as one: the one that proves least. */
export function weakestCheck(checks: readonly Verification[]): Verification | null {
  const weight = (check: Verification) => checkOutcomes.indexOf(check.outcome)
  return checks.reduce<Verification | null>(
    (weakest, check) => (!weakest || weight(check) > weight(weakest) ? check : weakest),
    null,
  )
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
  const said = (sums: string[]) => `${sums.join(' and ')} over the halves of ${bytesText(bytes.length)}`
  if (halves.length === 0) return { outcome: 'not-comparable', expected: 'bytes to compare', found: 'none' }
  const answered = found.some((sum) => sum !== 'none')
  const equal = expected.every((sum, index) => sum === found[index])
  return {
    outcome: equal ? 'equal-checksum' : answered ? 'different' : 'not-comparable',
    by: 'CRC-32',
    expected: said(expected),
    found: answered ? said(found) : 'no checksum',
  }
}

/** An image held against the bytes that were read back out of the unit. */
export function readBackVerification(
  differsAt: number,
  bytes: Uint8Array,
  place: (offset: number) => string,
): Verification {
  if (bytes.length === 0) return { outcome: 'not-comparable', expected: 'bytes to compare', found: 'none' }
  const all = `${bytesText(bytes.length)} read back`
  return differsAt === -1
    ? { outcome: 'equal-read-back', expected: all, found: all }
    : { outcome: 'different', expected: all, found: `the first difference at ${place(differsAt)}` }
}
