import { describe, expect, it } from 'vitest'
import { asciiBytes } from '../kernel'
import {
  checkOutcomes,
  checksumVerification,
  checkText,
  isEqual,
  readBackVerification,
  weakestCheck,
  type CheckOutcome,
  type Verification,
} from '.'

const check = (outcome: CheckOutcome): Verification => ({ outcome, expected: 'e', found: outcome })

describe('what a check came to', () => {
  it('is equal only where bytes were held against bytes, or a sum against a sum', () => {
    expect(checkOutcomes.filter((outcome) => isEqual({ outcome }))).toEqual([
      'equal-read-back',
      'equal-checksum',
    ])
  })
  it('is said differently for each, and a sum by its name', () => {
    expect(new Set(checkOutcomes.map((outcome) => checkText({ outcome }))).size).toBe(checkOutcomes.length)
    expect(checkText({ outcome: 'equal-checksum', by: 'CRC-32' })).toBe('equal by CRC-32')
    expect(checkText({ outcome: 'equal-checksum' })).toBe('equal by checksum')
    expect(checkText({ outcome: 'not-comparable' })).toBe('not compared')
    expect(checkText({ outcome: 'different' })).toBe('not the same')
  })
  it('of several pieces is that of the one that proves least', () => {
    const all = checkOutcomes.map(check)
    for (const [index, weaker] of all.entries())
      for (const stronger of all.slice(0, index)) {
        expect(weakestCheck([stronger, weaker])).toBe(weaker)
        expect(weakestCheck([weaker, stronger])).toBe(weaker)
      }
    const [first, second] = [check('different'), check('different')]
    expect(weakestCheck([first, second])).toBe(first)
    expect(weakestCheck([])).toBeNull()
  })
})

// CRC-32/ISO-HDLC of "123456789" is CBF43926 (catalogue of parametrised CRC algorithms); the sums of its halves are
// those of Python's zlib.
describe('an image held against sums that the unit works out', () => {
  const bytes = asciiBytes('123456789')
  const sums = ['9BE3E0A3', '131DA070']
  const asked = async (answers: readonly string[], image = bytes) => {
    const pieces: [number, number][] = []
    const verification = await checksumVerification(image, async (offset, length) => {
      pieces.push([offset, length])
      return answers[pieces.length - 1] ?? ''
    })
    return { ...verification, pieces }
  }
  it('is asked over each half, cut at a word', async () => {
    expect(await asked(sums)).toEqual({
      outcome: 'equal-checksum',
      by: 'CRC-32',
      expected: '9BE3E0A3 and 131DA070 over the halves of 9 bytes',
      found: '9BE3E0A3 and 131DA070 over the halves of 9 bytes',
      pieces: [
        [0, 4],
        [4, 5],
      ],
    })
    expect((await asked([], new Uint8Array(1000))).pieces).toEqual([
      [0, 500],
      [500, 500],
    ])
    expect((await asked([], new Uint8Array(1006))).pieces).toEqual([
      [0, 500],
      [500, 506],
    ])
  })
  it('is one sum where it is too short for two', async () => {
    expect((await asked(['C2749DB5'], asciiBytes('1234567'))).pieces).toEqual([[0, 7]])
  })
  it.each([
    ['the first half differs', ['9BE3E0A4', '131DA070'], 'different'],
    ['the second half differs', ['9BE3E0A3', '131DA071'], 'different'],
    ['the halves stand the other way round', ['131DA070', '9BE3E0A3'], 'different'],
    ['one half is not answered', ['9BE3E0A3', ''], 'different'],
    ['neither half is answered', ['', ''], 'not-comparable'],
  ])('%s: %o', async (_, answers, outcome) => {
    const { outcome: came, found } = await asked(answers)
    expect(came).toBe(outcome)
    expect(found).toBe(
      outcome === 'not-comparable'
        ? 'no checksum'
        : `${answers.map((sum) => sum || 'none').join(' and ')} over the halves of 9 bytes`,
    )
  })
  it('of no bytes is compared with nothing', async () => {
    expect(await asked([], new Uint8Array(0))).toEqual({
      outcome: 'not-comparable',
      expected: 'bytes to compare',
      found: 'none',
      pieces: [],
    })
  })
})

describe('an image held against what was read back', () => {
  const place = (offset: number) => `place ${offset}`
  const judged = (differsAt: number, length = 100) =>
    readBackVerification(differsAt, new Uint8Array(length), place)
  it('is equal only where nothing differs, the first byte included', () => {
    expect(judged(-1)).toEqual({
      outcome: 'equal-read-back',
      expected: '100 bytes read back',
      found: '100 bytes read back',
    })
    expect(judged(0)).toMatchObject({ outcome: 'different', found: 'the first difference at place 0' })
    expect(judged(99)).toMatchObject({ outcome: 'different', found: 'the first difference at place 99' })
  })
  it('of no bytes is compared with nothing, whatever is said', () => {
    expect([judged(-1, 0).outcome, judged(0, 0).outcome]).toEqual(['not-comparable', 'not-comparable'])
  })
})
