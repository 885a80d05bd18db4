import { fogSignalFamily } from '@bench-wake/demo'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { compareVersions, factsOf, lineOf, newestSnapshot, readSnapshot } from '.'

const page = [
  'device   FS-20',
  'main 2.41',
  'hardware 3.1',
  'serial FS3-00417',
  'lamp hours 210',
  'built 2025-03-04T10:12Z',
]

describe('a snapshot', () => {
  const snapshot = readSnapshot(fogSignalFamily, page, 1000, 'link')
  // PRACTICE A1, common practice: all lines of the page are kept, in the order of the page.
  it('keeps every line, also those the family does not know', () => {
    expect(snapshot.lines).toHaveLength(page.length)
    expect(snapshot.lines.map((line) => line.field).slice(0, 3)).toEqual([
      'deviceIdentifier',
      'hardware',
      'serial',
    ])
    expect(
      snapshot.lines.some((line) => line.field.startsWith('other') && line.value === 'lamp hours 210'),
    ).toBe(true)
  })
  it('tells the facts that fit rests on, and leaves unknown what was not said', () => {
    expect(factsOf(snapshot)).toMatchObject({
      deviceIdentifier: 'FS-20',
      hardwareMajor: 3,
      versions: { main: '2.41' },
    })
    const bare = factsOf(readSnapshot(fogSignalFamily, ['lamp on'], 1, 'label'))
    expect(bare.hardwareMajor).toBeUndefined()
    expect(bare.versions).toEqual({})
    expect(factsOf(undefined)).toEqual({ versions: {} })
  })
  it('the newest one counts', () => {
    const older = readSnapshot(fogSignalFamily, ['main 2.30'], 500, 'label')
    expect(lineOf(newestSnapshot([snapshot, older]), 'version.main')).toBe('2.41')
    expect(newestSnapshot([])).toBeUndefined()
  })
})

describe('versions of dotted integers', () => {
  // PRACTICE A1 and the trade's own trap: 1.9 is older than 1.10 (common practice).
  it.each([
    ['1.9', '1.10', 'older'],
    ['2.48', '2.41', 'newer'],
    ['2.0', '2', 'same'],
    ['5.2.1', '5.2.0', 'newer'],
    ['2.48', '2.48', 'same'],
    ['2.48b', '2.48', 'not-comparable'],
    ['', '2.48', 'not-comparable'],
  ] as const)('%s against %s is %s', (first, second, order) => {
    expect(compareVersions('dotted', first, second)).toBe(order)
  })
  it('are ordered the same way round from both sides', () => {
    const version = fc.array(fc.nat(99), { minLength: 1, maxLength: 4 }).map((parts) => parts.join('.'))
    const mirror = { older: 'newer', newer: 'older', same: 'same', 'not-comparable': 'not-comparable' }
    fc.assert(
      fc.property(version, version, (a, b) => {
        expect(compareVersions('dotted', a, b)).toBe(mirror[compareVersions('dotted', b, a)])
      }),
    )
  })
  it('are not guessed under a scheme without order', () => {
    expect(compareVersions('opaque', 'amber', 'birch')).toBe('not-comparable')
    expect(compareVersions('opaque', 'amber', 'amber')).toBe('same')
  })
})
