import { describe, expect, it } from 'vitest'
import { judgeBackup, type BackupFacts } from '.'

const program = Uint8Array.from({ length: 4096 }, (_, at) => (at * 37 + (at >> 5)) & 255)
const good: BackupFacts = {
  bytes: program,
  wanted: 4096,
  erasedByte: 0xff,
  equalTwice: true,
  identity: {
    familyId: 'tide-logger',
    componentId: 'logger',
    version: '2025-11-03',
  } as BackupFacts['identity'],
  familyId: 'tide-logger',
}
const rule = (form: Partial<BackupFacts>) => judgeBackup({ ...good, ...form })[0]!

// PRACTICE G5, common practice: all-FF, all-00, short or unequal on the second read is no backup.
describe('a backup', () => {
  it.each([
    ['backup-good', {}],
    ['backup-short', { bytes: program.subarray(0, 4000) }],
    ['backup-empty', { bytes: new Uint8Array(4096).fill(0xff) }],
    ['backup-empty', { bytes: new Uint8Array(4096) }],
    ['backup-unequal', { equalTwice: false }],
    ['backup-low-variety', { bytes: Uint8Array.from({ length: 4096 }, (_, at) => at & 3) }],
    ['backup-unknown', { identity: null }],
    ['backup-unknown', { familyId: 'mains-relay' }],
  ] as const)('is %s', (wanted, form) => {
    const finding = rule(form)
    expect(finding.rule).toBe(wanted)
    expect(finding.level).toBe(wanted === 'backup-good' ? 'go' : 'stop')
  })
  it('says that it was read once, where that was decided by name', () => {
    expect(rule({ equalTwice: null })).toMatchObject({
      rule: 'backup-good',
      says: expect.stringMatching(/once/),
    })
  })
  it('says what to do about one that is none', () => {
    expect(rule({ bytes: new Uint8Array(0) })).toMatchObject({
      because: expect.stringMatching(/^0 of 4\s096 bytes came\.$/),
      remedy: expect.stringMatching(/read it again/),
    })
  })
})
