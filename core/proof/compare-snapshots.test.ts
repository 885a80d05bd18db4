import { describe, expect, it } from 'vitest'
import type { Snapshot } from '../unit'
import { compareSnapshots, judgeProof, proofHolds, type Compared } from '.'

/* PRACTICE A1, I1, common practice: the same page before and after; some lines must have changed, others must not. */

const family = {
  snapshot: [
    { field: 'serial', label: 'Serial', change: 'must-not' },
    { field: 'hardware', label: 'Hardware', change: 'must-not' },
    { field: 'version.main', label: 'Main', change: 'must' },
    { field: 'version.panel', label: 'Panel', change: 'must' },
    { field: 'built', label: 'Built', change: 'must' },
    { field: 'hours', label: 'Hours', change: 'may' },
  ],
} as Parameters<typeof compareSnapshots>[0]
const page = (lines: Record<string, string>, source: Snapshot['source'] = 'link'): Snapshot => ({
  at: 1,
  source,
  lines: Object.entries(lines).map(([field, value]) => ({ field, label: field, value })),
})
const before = page({
  serial: 'S1',
  hardware: '3.1',
  'version.main': '2.41',
  built: '2025-03-04',
  hours: '10',
})
const after = page({
  serial: 'S1',
  hardware: '3.1',
  'version.main': '2.48',
  built: '2026-09-02',
  hours: '11',
})
const rowOf = (rows: Compared[], field: string) => rows.find((row) => row.field === field)
const judge = (was: Snapshot | null, is: Snapshot, wanted: string | undefined = '2.48') =>
  judgeProof(compareSnapshots(family, was, is, [{ componentId: 'main', wanted }]), {
    componentId: 'main',
    wanted,
    after: is,
  })
const levels = (findings: ReturnType<typeof judgeProof>) =>
  Object.fromEntries(findings.map(({ rule, level }) => [rule, level]))

describe('two pages compared', () => {
  it('line by line: what must, what must not, what may', () => {
    const rows = compareSnapshots(family, before, after)
    expect(rows.map(({ field, ok }) => [field, ok])).toEqual([
      ['serial', true],
      ['hardware', true],
      ['version.main', true],
      ['built', true],
      ['hours', true],
    ])
    expect(rowOf(rows, 'version.main')).toEqual({
      field: 'version.main',
      label: 'Main',
      change: 'must',
      before: '2.41',
      after: '2.48',
      ok: true,
    })
  })
  it('an unchanged line that must change and a changed one that must not are wrong', () => {
    const rows = compareSnapshots(family, before, page({ serial: 'S2', 'version.main': '2.41', hours: '10' }))
    expect(rowOf(rows, 'serial')!.ok).toBe(false)
    expect(rowOf(rows, 'version.main')!.ok).toBe(false)
    expect(rowOf(rows, 'hours')!.ok).toBe(true)
  })
  it('a line that was not readable before is not known', () => {
    const rows = compareSnapshots(family, page({ serial: 'S1' }), after)
    expect(rowOf(rows, 'version.main')).toEqual({
      field: 'version.main',
      label: 'Main',
      change: 'must',
      after: '2.48',
      ok: null,
    })
    expect(compareSnapshots(family, null, after).map(({ ok }) => ok)).toEqual([null, null, null, null, true])
  })
  it('a line that must not change and is not said any more has changed, on the same kind of page', () => {
    const gone = compareSnapshots(family, before, page({ 'version.main': '2.48' }))
    expect(rowOf(gone, 'hardware')).toMatchObject({ ok: false, before: '3.1' })
    expect(rowOf(gone, 'hardware')).not.toHaveProperty('after')
    // What must change and is not said any more cannot be told.
    expect(rowOf(gone, 'built')!.ok).toBeNull()
    // A label beside a menu page simply shows other lines.
    const other = compareSnapshots(family, { ...before, source: 'label' }, page({ 'version.main': '2.48' }))
    expect(rowOf(other, 'hardware')!.ok).toBeNull()
  })
  it('after a write, lines of another part and of the same version again may stay as they are', () => {
    const both = (main: string) => page({ ...linesOf(after), 'version.main': main, 'version.panel': '1.7' })
    const marks = (was: Snapshot, is: Snapshot, wanted: string) =>
      Object.fromEntries(
        compareSnapshots(family, was, is, [{ componentId: 'main', wanted }]).map(({ field, ok }) => [
          field,
          ok,
        ]),
      )
    expect(marks(both('2.41'), both('2.48'), '2.48')).toMatchObject({
      'version.panel': true,
      'version.main': true,
    })
    expect(marks(both('2.48'), both('2.48'), '2.48')).toMatchObject({ 'version.main': true, built: true })
    // The written part itself, and a line about the whole unit, still have to change.
    expect(marks(both('2.41'), both('2.41'), '2.48')).toMatchObject({ 'version.main': false, built: false })
    // What must not change may not, whatever was written.
    const other = page({ ...linesOf(both('2.48')), hardware: '3.2' })
    expect(marks(both('2.48'), other, '2.48')).toMatchObject({ hardware: false })
  })
  // PRACTICE B9: options are built into the image; who released the change finds them in the unit.
  it('options that the image was built with are what the unit has to say, whatever it said before', () => {
    const built = {
      snapshot: [{ field: 'options.main', label: 'Options', change: 'must-not' }],
    } as Parameters<typeof compareSnapshots>[0]
    const [was, is] = [page({ 'options.main': 'watchdog' }), page({ 'options.main': 'watchdog+hold-last' })]
    const ok = (one: Snapshot, two: Snapshot, options?: string) =>
      compareSnapshots(built, one, two, [{ componentId: 'main', wanted: '2.1', options }])[0]!.ok
    expect(ok(was, is, 'watchdog+hold-last')).toBe(true)
    expect(ok(was, was, 'watchdog+hold-last')).toBe(false)
    expect(ok(was, is, 'watchdog')).toBe(false)
    // An image that says nothing of its options changes none.
    expect(ok(was, is)).toBe(false)
    expect(ok(was, was)).toBe(true)
  })
  it('a line that neither page has is left out', () => {
    expect(rowOf(compareSnapshots(family, before, after), 'version.panel')).toBeUndefined()
  })
})

describe('the proof', () => {
  it('is go with the wanted version and the other lines as they should be', () => {
    expect(levels(judge(before, after))).toEqual({ 'version-proved': 'go' })
    expect(proofHolds(judge(before, after))).toEqual([])
  })
  it('is stop with another version, an older one, or none', () => {
    for (const version of ['2.41', '2.480', ''])
      expect(
        levels(judge(before, page({ ...linesOf(after), 'version.main': version })))['version-proved'],
      ).toBe('stop')
    const { 'version.main': _gone, ...silent } = linesOf(after)
    expect(judge(before, page(silent))[0]).toMatchObject({
      level: 'stop',
      says: 'The unit says no version; it should say 2.48.',
    })
  })
  it('is stop when a line changed that must not', () => {
    const findings = judge(before, page({ ...linesOf(after), serial: 'S9' }))
    expect(findings).toMatchObject([
      { rule: 'version-proved', level: 'go' },
      { rule: 'unchanged-lines', level: 'stop', because: 'Before S1, now S9.' },
    ])
  })
  it('holds the closing when a line that must change did not: an unchanged build time', () => {
    const findings = judge(before, page({ ...linesOf(after), built: '2025-03-04' }))
    expect(findings).toMatchObject([
      { rule: 'version-proved', level: 'go' },
      { rule: 'changed-lines', level: 'hold', says: 'Built should have changed and did not.' },
    ])
    expect(proofHolds(findings).map(({ rule }) => rule)).toEqual(['changed-lines'])
  })
  it('is not held by lines of another component, nor where the same version was written again', () => {
    const both = page({ ...linesOf(before), 'version.panel': '3.4' })
    expect(levels(judge(both, page({ ...linesOf(after), 'version.panel': '3.4' })))).toEqual({
      'version-proved': 'go',
    })
    const again = page({ ...linesOf(before), 'version.main': '2.48' })
    expect(levels(judge(again, again))).toEqual({ 'version-proved': 'go' })
    // But held where another version was there before.
    expect(levels(judge(before, page({ ...linesOf(after), built: '2025-03-04' })))['changed-lines']).toBe(
      'hold',
    )
  })
  it('is held where the image has no version: only the comparison is left', () => {
    const own = compareSnapshots(family, before, after)
    const findings = judgeProof(own, { componentId: 'main', wanted: undefined, after })
    expect(findings).toMatchObject([
      { rule: 'version-proved', level: 'hold', because: 'The unit now says 2.48.' },
    ])
    expect(judgeProof([], { componentId: 'other', wanted: undefined, after })[0]!.because).toBe(
      'The unit now says nothing.',
    )
  })
  it('says before and now of a line that is not said any more', () => {
    const gone: Compared = { field: 'serial', label: 'Serial', change: 'must-not', before: 'S1', ok: false }
    const came: Compared = { field: 'serial', label: 'Serial', change: 'must-not', after: 'S1', ok: false }
    const because = (row: Compared) =>
      judgeProof([row], { componentId: 'main', wanted: '2.48', after })[1]!.because
    expect(because(gone)).toBe('Before S1, now nothing.')
    expect(because(came)).toBe('Before nothing, now S1.')
  })
})

const linesOf = ({ lines }: Snapshot) =>
  Object.fromEntries(lines.map(({ field, value }) => [field, value])) as Record<string, string>
