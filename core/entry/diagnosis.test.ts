import { demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import {
  causeIds,
  checks,
  diagnose,
  entropyBits,
  expectedBits,
  posterior,
  priorsOf,
  type KnownOfBench,
} from '.'
import { plantFaults } from './planted.test-support'

const known = (familyId: string, more: Partial<KnownOfBench> = {}): KnownOfBench => {
  const family = demoFamily(familyId)
  return { family, link: family.links[0]!, way: family.entry.at(-1)!, ...more }
}

describe('Bayes’ rule', () => {
  // Source: the test for a rare illness, in any textbook: 1 % ill, 99 % found, 5 % false alarms: 0.0099 / 0.0594 = 1/6.
  it('gives the textbook’s one in six', () => {
    const { ill } = posterior({ ill: 0.01, well: 0.99 }, (cause) => (cause === 'ill' ? 0.99 : 0.05))
    expect(ill).toBeCloseTo(0.0099 / (0.0099 + 0.0495), 12)
    expect(ill).toBeCloseTo(1 / 6, 3)
  })
  // Worked by hand: 0.5, 0.3, 0.2 with likelihoods 0.2, 0.5, 1: 0.10, 0.15, 0.20 of 0.45.
  it('is worked by hand for three causes', () => {
    const likelihood: Record<string, number> = { a: 0.2, b: 0.5, c: 1 }
    const after = posterior({ a: 0.5, b: 0.3, c: 0.2 }, (cause) => likelihood[cause]!)
    expect(after['a']).toBeCloseTo(0.1 / 0.45, 12)
    expect(after['b']).toBeCloseTo(0.15 / 0.45, 12)
    expect(after['c']).toBeCloseTo(0.2 / 0.45, 12)
  })
  it('does not care in which order the answers came', () => {
    const one = (cause: string) => (cause === 'a' ? 0.9 : 0.2)
    const two = (cause: string) => (cause === 'b' ? 0.7 : 0.4)
    const start = { a: 0.4, b: 0.6 }
    expect(posterior(posterior(start, one), two)['a']).toBeCloseTo(
      posterior(posterior(start, two), one)['a']!,
      12,
    )
  })
})

describe('information', () => {
  // Worked by hand (Shannon 1948): one bit for two equal causes; 1 − H(0.9) = 1 − 0.4690 for a test that is right nine times in ten.
  it('is one bit of a certain test between two equal causes, and 0.531 of one that errs one time in ten', () => {
    const even = { a: 0.5, b: 0.5 }
    const sure = [(c: string) => (c === 'a' ? 1 : 0), (c: string) => (c === 'a' ? 0 : 1)]
    const often = [(c: string) => (c === 'a' ? 0.9 : 0.1), (c: string) => (c === 'a' ? 0.1 : 0.9)]
    expect(entropyBits(even)).toBe(1)
    expect(expectedBits(even, sure)).toBeCloseTo(1, 12)
    expect(expectedBits(even, often)).toBeCloseTo(1 - (0.9 * Math.log2(1 / 0.9) + 0.1 * Math.log2(10)), 12)
    expect(expectedBits(even, often)).toBeCloseTo(0.531, 3)
    // A test whose answer does not depend on the cause tells nothing.
    expect(expectedBits(even, [() => 0.5, () => 0.5])).toBeCloseTo(0, 12)
  })
  // Worked by hand: 1/2, 1/4, 1/8, 1/8 are 1.75 bits.
  it('of 1/2, 1/4, 1/8, 1/8 is 1.75 bits', () =>
    expect(entropyBits({ a: 0.5, b: 0.25, c: 0.125, d: 0.125 })).toBe(1.75))
})

describe('the checks', () => {
  it('have answers that add up to one under every cause', () => {
    for (const { id, answers } of checks) {
      for (const cause of causeIds) {
        const sum = answers.reduce(
          (total, { likelihood }) => total + (likelihood[cause] ?? likelihood.usual),
          0,
        )
        expect(sum, `${id}, ${cause}`).toBeCloseTo(1, 9)
      }
    }
  })
})

describe('the ladder', () => {
  // PRACTICE F2, common practice: a time-out means swapped pair, bad contact, or not in the bootloader.
  it('begins with the three that the trade begins with', () => {
    const { ranked } = diagnose(known('mains-relay'), {})
    expect(new Set(ranked.slice(0, 3).map(({ id }) => id))).toEqual(
      new Set(['swapped-pair', 'bad-contact', 'missed-window']),
    )
  })
  it('leaves out what cannot be: a second unit where two ends are joined, a pair where none is', () => {
    const ids = (family: string) => diagnose(known(family), {}).ranked.map(({ id }) => id)
    // A debug adapter joins one host and one device; of a serial line nobody has said what else hangs there.
    expect(ids('beacon-receiver')).not.toContain('second-unit')
    expect(ids('mains-relay')).toContain('second-unit')
    expect(ids('mains-relay')).not.toContain('wrong-definition')
    expect(ids('tide-logger')).not.toContain('swapped-pair')
    expect(ids('buoy-battery')).toContain('second-unit')
    expect(ids('launch-motor')).toContain('wrong-definition')
  })
  it('is moved by the bench: wiring judged right, a scan, the judge’s own clock', () => {
    const share = (more: Partial<KnownOfBench>, id: string) =>
      priorsOf(known('buoy-battery', more)).beliefs[id]!
    expect(share({ wiringRight: true }, 'swapped-pair')).toBeLessThan(share({}, 'swapped-pair'))
    expect(share({ unitsOnBus: 1 }, 'second-unit')).toBeLessThan(share({}, 'second-unit'))
    expect(share({ unitsOnBus: 2 }, 'second-unit')).toBeGreaterThan(share({}, 'second-unit') * 3)
    expect(share({ lastTry: 'missed' }, 'missed-window')).toBeGreaterThan(0.5)
    expect(share({ foundBefore: ['bad-contact', 'bad-contact'] }, 'bad-contact')).toBeGreaterThan(
      share({}, 'bad-contact'),
    )
  })
  it('asks harmless things before risky ones, and says why it ranks as it does', () => {
    const first = diagnose(known('mains-relay'), {})
    expect(first.next!.risk).toBe(0)
    const { ranked, found, next } = diagnose(known('mains-relay'), {
      sign: 'in',
      pair: 'same',
      contact: 'firm',
    })
    expect(ranked[0]!.id).toBe('swapped-pair')
    expect(found).toBe(true)
    expect(next).toBeNull()
    expect(ranked[0]!.because.join()).toMatch(/“no, like goes to like” speaks for it/)
  })
  it('takes silence of relays for success and chatter for a missed window or a wrong definition', () => {
    const chatter = diagnose(known('launch-motor', { lastTry: 'in-time' }), { sign: 'normal' }).ranked
    const share = (id: string) => chatter.find((each) => each.id === id)!.share
    const before = diagnose(known('launch-motor', { lastTry: 'in-time' }), {}).ranked.find(
      ({ id }) => id === 'wrong-definition',
    )!.share
    expect(share('wrong-definition')).toBeGreaterThan(before * 3)
  })
  it('names every planted cause where each answer is right, in four questions on average', () => {
    const { questions, named, asked } = plantFaults(1, 0)
    expect(asked).toBe(8)
    expect(named).toBe(1)
    expect(questions).toBeLessThanOrEqual(4)
  })
  it('and still nearly always where a person gets one answer in twenty wrong', () => {
    const { questions, named, asked } = plantFaults(40, 0.05)
    expect(asked).toBe(8 * 40)
    expect(questions).toBeLessThanOrEqual(4.5)
    expect(named).toBeGreaterThan(0.85)
  })
})
