import { demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { drivenLink } from '../family'
import type { Snapshot } from '../unit'
import { fusesNow, judgeFuses } from '.'

const link = drivenLink(demoFamily('relay-driver'))!
const now = [
  { id: 'clock', value: 0xe4 },
  { id: 'guard', value: 0xdc },
  { id: 'lock', value: 0xff },
]
const levels = (said: { id: string; value: number }[], read = now) =>
  judgeFuses(link, read, said)!.findings.map(({ rule, level }) => `${rule} ${level}`)

// Common practice: a fuse that shuts the port is what such a unit does not forgive.
describe('fuses of a job', () => {
  it('that stay as they are let it go', () => {
    expect(levels([])).toEqual(['fuse-change go'])
    expect(judgeFuses(link, now)).toMatchObject({
      id: 'fuses',
      verdict: 'go',
      findings: [
        { says: 'No fuse changes.', because: expect.stringMatching(/what the job wants/) as string },
      ],
    })
  })
  it('that change are told, bit by bit', () => {
    expect(levels([{ id: 'guard', value: 0xc8 }])).toEqual(['fuse-change note', 'fuse-change note'])
    expect(judgeFuses(link, now, [{ id: 'guard', value: 0xcc }])!.findings[0]).toMatchObject({
      says: 'Watchdog: the watchdog always runs.',
      because: 'Guard 0xDC to 0xCC, bit 4 from 1 to 0.',
    })
  })
  it.each([
    ['the crystal that is not there', { id: 'clock', value: 0xe5 }],
    ['reset that becomes an ordinary pin', { id: 'guard', value: 0x5c }],
    ['the port itself', { id: 'guard', value: 0xfc }],
    ['a bit that nobody describes', { id: 'guard', value: 0xde }],
  ])('that lock out are held: %s', (_, said) => {
    const gate = judgeFuses(link, now, [said])!
    expect(gate.verdict).toBe('hold')
    expect(gate.findings.find(({ level }) => level === 'hold')).toMatchObject({
      rule: 'fuse-locks-out',
      says: expect.stringMatching(/Nobody gets in over this port again/) as string,
    })
  })
  it('that lead back out of a lock are no hold', () => {
    const shut = [{ id: 'guard', value: 0xfc }]
    expect(levels([{ id: 'guard', value: 0xdc }], [now[0]!, ...shut])).toEqual(['fuse-change note'])
  })
  it('that nobody has read yet are said to be so', () => {
    expect(levels([{ id: 'guard', value: 0xfc }], [])).toEqual(['fuse-known note', 'fuse-known note'])
  })
  it('are none where the link has none', () => {
    expect(judgeFuses(drivenLink(demoFamily('signal-desk'))!, [], [])).toBeNull()
    const { drive } = link
    if (drive.speaks !== 'in-system') throw new Error('other link')
    const { fuses: _, ...bare } = drive
    expect(judgeFuses({ ...link, drive: bare }, now, [])).toBeNull()
    expect(fusesNow(drivenLink(demoFamily('signal-desk'))!, { at: 0, source: 'link', lines: [] })).toEqual([])
  })
  it('are taken from the unit’s own page', () => {
    const page: Snapshot = {
      at: 0,
      source: 'link',
      lines: [
        { field: 'fuse.guard', label: 'Guard fuse', value: '0xDC' },
        { field: 'fuse.clock', label: 'Clock fuse', value: 'odd' },
        { field: 'signature', label: 'Signature', value: '3D9307' },
      ],
    }
    expect(fusesNow(link, page)).toEqual([{ id: 'guard', value: 0xdc }])
    expect(fusesNow(link, undefined)).toEqual([])
  })
})
