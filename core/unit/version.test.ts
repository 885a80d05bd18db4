import fc from 'fast-check'
import semver from 'semver'
import { describe, expect, it } from 'vitest'
import { compareVersions, explainOrder, versionLine, type VersionScheme } from '.'

/* PRACTICE A1, A4, B1, B5, common practice, where nothing else is said. */

const cases: [VersionScheme, string, string, string][] = [
  // Numbers of any length, any number of parts, leading zeros and missing parts.
  ['dotted', '1.2.3.4.5.6.7.8.9', '1.2.3.4.5.6.7.8.10', 'older'],
  ['dotted', '1.2.3.4.5.6.7.8', '1.2.3.4.5.6.7.8.0.0', 'same'],
  ['dotted', '1.2.3.4.5.6.7.8.1', '1.2.3.4.5.6.7.8', 'newer'],
  ['dotted', '9007199254740993', '9007199254740992', 'newer'],
  ['dotted', '20260902123456', '20260902123455', 'newer'],
  ['dotted', '1.02', '1.2', 'same'],
  ['dotted', ' 2.41 ', '2.41', 'same'],
  ['dotted', '2.41\t', ' 2.48', 'older'],
  ['dotted', '2.', '2.1', 'not-comparable'],
  ['dotted', '.2', '2.1', 'not-comparable'],
  ['dotted', '2..1', '2.1', 'not-comparable'],
  ['dotted', '2,1', '2.1', 'not-comparable'],
  ['dotted', '2.1', 'x', 'not-comparable'],
  ['dotted', '2.1', '', 'not-comparable'],
  ['dotted', '', '', 'not-comparable'],
  ['dotted', '  ', '', 'not-comparable'],
  // One number: the figures after the point are a fraction.
  ['decimal', '1.05', '1.5', 'older'],
  ['decimal', '1,5', '1.50', 'same'],
  ['decimal', '10.0', '9.9', 'newer'],
  ['decimal', '123456789012.5', '123456789012.4', 'newer'],
  ['decimal', '1.000000000000000001', '1', 'newer'],
  ['decimal', '01.5', '1.5', 'same'],
  ['decimal', 'v1.5', '1.5', 'not-comparable'],
  ['decimal', '1.5b', '1.5', 'not-comparable'],
  ['decimal', '1.5.1', '1.5', 'not-comparable'],
  ['decimal', '1.', '1.5', 'not-comparable'],
  ['decimal', '', '1.5', 'not-comparable'],
  // Numbers first, then letters.
  ['lettered', '4.07', '4.07a', 'older'],
  ['lettered', '4.7 b', '4.07b', 'same'],
  ['lettered', '4.07-B', '4.07b', 'same'],
  ['lettered', '4.07a', '4.07z', 'older'],
  ['lettered', '4.07zz', '4.08', 'older'],
  ['lettered', '4.07az', '4.07ba', 'older'],
  ['lettered', '4.07a', '4.07.1', 'older'],
  ['lettered', '4.07a', '4.07.0', 'newer'],
  ['lettered', '1.2.3.4.5.6.7.8.9', '1.2.3.4.5.6.7.8.10', 'older'],
  ['lettered', '1.2.3.4.5.6.7.8.9b', '1.2.3.4.5.6.7.8.9a', 'newer'],
  ['lettered', '12.345', '12.346', 'older'],
  ['lettered', '4', '4a', 'older'],
  ['lettered', 'a4.07', '4.07', 'not-comparable'],
  ['lettered', '4.07abc', '4.07', 'not-comparable'],
  ['lettered', '4.07!', '4.07', 'not-comparable'],
  ['lettered', '4..07a', '4.07', 'not-comparable'],
  ['lettered', '', '4.07', 'not-comparable'],
  // The leading digits name the hardware line.
  ['line', '31.07', '31.7', 'same'],
  ['line', '31.08.1', '31.08', 'newer'],
  ['line', '031.07', '31.08', 'older'],
  ['line', '58.07', '31.08', 'not-comparable'],
  ['line', '31', '31.08', 'not-comparable'],
  ['line', '31.08', '31', 'not-comparable'],
  ['line', 'x', '31.08', 'not-comparable'],
  // Days, however they are written; one that could be two is none.
  ['date', '2026-09-02', '2026.09.02', 'same'],
  ['date', '2026/09/02', '20260902', 'same'],
  ['date', '2026-09-02T10:12Z', '2026-09-02', 'same'],
  ['date', '2026-09-02 10:12', '2026-09-03', 'older'],
  ['date', '2025-12-31', '2026-01-01', 'older'],
  ['date', '2026-09-30', '2026-10-01', 'older'],
  ['date', '02-Sep-2026', '2026-09-02', 'same'],
  ['date', '2 September 2026', '2026-09-02', 'same'],
  ['date', '13/01/2026', '2026-01-13', 'same'],
  ['date', '01/13/2026', '2026-01-13', 'same'],
  ['date', '05/05/2026', '2026-05-05', 'same'],
  ['date', '31.10.2026', '2026-10-31', 'same'],
  ['date', '12/12/2026', '2026-12-12', 'same'],
  ['date', '11/12/2026', '2026-12-11', 'not-comparable'],
  ['date', '2026-13-01', '2026-01-01', 'not-comparable'],
  ['date', '2026-00-10', '2026-01-01', 'not-comparable'],
  ['date', '2026-04-31', '2026-01-01', 'not-comparable'],
  ['date', '2025-02-29', '2026-01-01', 'not-comparable'],
  ['date', '2024-02-29', '2024-03-01', 'older'],
  ['date', '32/10/2026', '2026-01-01', 'not-comparable'],
  ['date', '2026-09/02', '2026-09-02', 'not-comparable'],
  ['date', 'x2026-09-02', '2026-09-02', 'not-comparable'],
  ['date', '2026-09-02x', '2026-09-02', 'not-comparable'],
  ['date', '2026-09-022', '2026-09-02', 'not-comparable'],
  ['date', '2 Sop 2026', '2026-09-02', 'not-comparable'],
  ['date', 'x2 Sep 2026', '2026-09-02', 'not-comparable'],
  ['date', '2 Sep 20266', '2026-09-02', 'not-comparable'],
  ['date', '102 Sep 2026', '2026-09-02', 'not-comparable'],
  ['date', 'x13/01/2026', '2026-01-13', 'not-comparable'],
  ['date', '13/01/20261', '2026-01-13', 'not-comparable'],
  ['date', '113/01/2026', '2026-01-13', 'not-comparable'],
  ['date', '1/31/2026', '2026-01-31', 'same'],
  ['date', '', '2026-01-13', 'not-comparable'],
  // Equal or not, and nothing else.
  ['opaque', 'AMBER', ' AMBER', 'same'],
  ['opaque', '1.0', '2.0', 'not-comparable'],
  ['opaque', '', 'AMBER', 'not-comparable'],
  // Semantic Versioning 2.0.0: clause 2 (numbers without leading zeros), 9, 10, 11.
  ['semver', '9007199254740993.0.0', '9007199254740992.0.0', 'newer'],
  ['semver', '0.9007199254740993.0', '0.9007199254740992.0', 'newer'],
  ['semver', '0.0.99999999999999999999', '0.0.99999999999999999998', 'newer'],
  ['semver', '1.0.0-9007199254740993', '1.0.0-9007199254740992', 'newer'],
  ['semver', 'v1.2.3', '1.2.3', 'same'],
  ['semver', '1.2.3+a.b-c', '1.2.3+z', 'same'],
  ['semver', '1.2.3-rc.1+a', '1.2.3-rc.1', 'same'],
  ['semver', '1.2', '1.2.0', 'not-comparable'],
  ['semver', '1.2.3.4', '1.2.3', 'not-comparable'],
  ['semver', '01.2.3', '1.2.3', 'not-comparable'],
  ['semver', '1.02.3', '1.2.3', 'not-comparable'],
  ['semver', '1.2.03', '1.2.3', 'not-comparable'],
  ['semver', '1.2.3-01', '1.2.3', 'not-comparable'],
  ['semver', '1.2.3-a..b', '1.2.3', 'not-comparable'],
  ['semver', '1.2.3-', '1.2.3', 'not-comparable'],
  ['semver', '1.2.3+', '1.2.3', 'not-comparable'],
  ['semver', 'x1.2.3', '1.2.3', 'not-comparable'],
  ['semver', '1.2.3x', '1.2.3', 'not-comparable'],
  ['semver', '1.2.3-0a', '1.2.3-1', 'newer'],
  ['semver', '1.2.3-00a', '1.2.3', 'older'],
  ['semver', '1.2.3-10', '1.2.3-9', 'newer'],
  ['semver', '1.2.3-1a', '1.2.3-9', 'newer'],
  ['semver', '1.2.3-0', '1.2.3-1', 'older'],
]

const mirror: Record<string, string> = { older: 'newer', newer: 'older' }

describe('the order of two versions', () => {
  it.each(cases)('%s: "%s" against "%s" is %s, and the other way round', (scheme, first, second, order) => {
    expect(compareVersions(scheme, first, second)).toBe(order)
    expect(compareVersions(scheme, second, first)).toBe(mirror[order] ?? order)
  })
  it('is explained in words that name both, or the one that does not read', () => {
    for (const [scheme, first, second, order] of cases) {
      const { because } = explainOrder(scheme, first, second)
      const [a, b] = [first.trim(), second.trim()]
      if (order !== 'not-comparable') {
        expect(because).toContain(a)
        if (a !== b) expect(because).toContain(b)
        else expect(because).toBe(`Both read ${a}.`)
      } else expect(because.length, `${scheme} ${first} ${second}`).toBeGreaterThan(10)
    }
    expect(explainOrder('dotted', '', '1').because).toBe('There is no version to compare.')
    expect(explainOrder('dotted', 'x', '1').because).toContain('x')
    expect(explainOrder('dotted', '1', 'y').because).toContain('y')
    expect(explainOrder('line', '31.07', '58.04').because).toMatch(/31\.07 is of line 31, 58\.04 of line 58/)
    expect(explainOrder('dotted', '1.1', '1.2').because).toMatch(/^1\.1 is older than 1\.2, counting/)
    expect(explainOrder('dotted', '1.2', '1.1').because).toMatch(/^1\.2 is newer than 1\.1, counting/)
    expect(explainOrder('dotted', '1.0', '1').because).toMatch(/^1\.0 is the same as 1, counting/)
  })
  // Every month by its name, against its number.
  it('knows the twelve months', () => {
    const names = 'Jan Feb Mar Apr May Jun Jul Aug Sep Oct Nov Dec'.split(' ')
    names.forEach((name, index) => {
      const iso = `2026-${String(index + 1).padStart(2, '0')}-17`
      expect(compareVersions('date', `17 ${name} 2026`, iso), name).toBe('same')
      expect(compareVersions('date', `17 ${name.toUpperCase()} 2026`, iso), name).toBe('same')
    })
  })
  // Reference: the npm package semver, which orders numbers up to 2^53.
  it('semver with long numbers is as the reference orders them, as far as it reads them', () => {
    const number = fc.oneof(fc.nat(3), fc.maxSafeNat())
    const version = fc.tuple(number, number, number).map((parts) => parts.join('.'))
    const order = { '-1': 'older', 0: 'same', 1: 'newer' } as const
    fc.assert(
      fc.property(version, version, (a, b) => {
        expect(compareVersions('semver', a, b)).toBe(order[semver.compare(a, b)])
      }),
    )
  })
  it('never throws, and never calls two texts the same in one direction only', () => {
    const schemes = ['dotted', 'decimal', 'semver', 'date', 'lettered', 'line', 'opaque'] as const
    const text = fc.string({ maxLength: 12, unit: fc.constantFrom(...'0123456789.,-ab vS/') })
    fc.assert(
      fc.property(fc.constantFrom(...schemes), text, text, (scheme, a, b) => {
        const order = compareVersions(scheme, a, b)
        expect(compareVersions(scheme, b, a)).toBe(mirror[order] ?? order)
      }),
    )
  })
})

describe('the line of a version', () => {
  // PRACTICE A4: the leading digits can name the hardware line.
  it.each([
    ['31.07', '31'],
    ['  58.04', '58'],
    ['031.07', '031'],
    ['31', undefined],
    ['v31.07', undefined],
    ['', undefined],
  ])('of "%s" is %s', (version, line) => expect(versionLine(version)).toBe(line))
})
