import { describe, expect, it } from 'vitest'
import { unitHistory, type Snapshot } from '.'

const page = (at: number, lines: Record<string, string>): Snapshot => ({
  at,
  source: 'link',
  lines: Object.entries(lines).map(([field, value]) => ({ field, label: `Label of ${field}`, value })),
})

describe('a unit over the years', () => {
  it('has each version from the page that first showed it to the next one, and to now', () => {
    const { parts } = unitHistory(
      [
        page(10, { 'version.main': '1.0' }),
        page(20, { 'version.main': '1.0' }),
        page(30, { 'version.main': '1.1' }),
      ],
      [],
      100,
    )
    expect(parts).toEqual([
      {
        field: 'version.main',
        label: 'Label of version.main',
        stretches: [
          { version: '1.0', from: 10, to: 30 },
          { version: '1.1', from: 30, to: 100 },
        ],
      },
    ])
  })
  it('has it from the end of the write that lies between the pages, the last of several', () => {
    const pages = [page(10, { 'version.main': '1.0' }), page(50, { 'version.main': '1.1' })]
    const from = (writes: number[]) => unitHistory(pages, writes, 100).parts[0]!.stretches[1]!.from
    expect(from([20, 40])).toBe(40)
    expect(from([50])).toBe(50)
    // Before the older page, or after the newer one, a write changed nothing between them.
    expect(from([10])).toBe(50)
    expect(from([60])).toBe(50)
  })
  it('keeps parts apart, and a part that a page does not show as it was', () => {
    const { parts } = unitHistory(
      [
        page(10, { 'version.main': '1', 'version.panel': '7', serial: 'A' }),
        page(20, { 'version.panel': '8' }),
        page(30, { 'version.main': ' ', 'version.panel': '8' }),
      ],
      [],
      40,
    )
    expect(
      parts.map(({ field, stretches }) => [field, stretches.map(({ version, to }) => `${version} ${to}`)]),
    ).toEqual([
      ['version.main', ['1 40']],
      ['version.panel', ['7 20', '8 40']],
    ])
  })
  it('tells fault codes, and no word for none of them', () => {
    const { faults } = unitHistory(
      ['none', 'C10000, C10001', '', 'No', '0', 'OK', 'C12345'].map((faults, at) => page(at, { faults })),
      [],
      9,
    )
    expect(faults).toEqual([
      { at: 1, text: 'C10000, C10001' },
      { at: 6, text: 'C12345' },
    ])
  })
  it('goes by what was recorded later where a clock was set back, and never ends before it begins', () => {
    const { parts } = unitHistory(
      [page(500, { 'version.main': '1' }), page(100, { 'version.main': '2' })],
      [],
      200,
    )
    expect(parts[0]!.stretches).toEqual([
      { version: '1', from: 500, to: 500 },
      { version: '2', from: 500, to: 500 },
    ])
  })
  it('is empty where no page shows a version', () => {
    expect(unitHistory([page(1, { serial: 'A' })], [1], 2)).toEqual({ parts: [], faults: [] })
  })
})
