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
  labelled: true,
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
  it('without a label, where none is to be had, is kept with a note; where one should be it is none', () => {
    expect(rule({ identity: null, labelled: false })).toMatchObject({ rule: 'backup-good', level: 'note' })
    expect(rule({ identity: null, labelled: true })).toMatchObject({ rule: 'backup-unknown', level: 'stop' })
    // A label of another family is no missing label.
    expect(rule({ familyId: 'mains-relay', labelled: false })).toMatchObject({ rule: 'backup-unknown' })
    expect(rule({ identity: null, labelled: false, equalTwice: false })).toMatchObject({ level: 'stop' })
    expect(rule({ identity: null, labelled: false, bytes: new Uint8Array(4096) })).toMatchObject({
      level: 'stop',
    })
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
  it('names the byte it is empty of, and how few values it holds', () => {
    expect(rule({ bytes: new Uint8Array(4096).fill(0xa5) })).toMatchObject({
      rule: 'backup-empty',
      says: 'The backup is all A5.',
    })
    // Fifteen different values are next to nothing, sixteen are a program (common practice).
    const values = (count: number) => Uint8Array.from({ length: 4096 }, (_, at) => at % count)
    expect(rule({ bytes: values(15) }).rule).toBe('backup-low-variety')
    expect(rule({ bytes: values(16) }).rule).toBe('backup-good')
    const half = values(3)
    half.fill(0xff, 2048)
    expect(rule({ bytes: half }).because).toMatch(/^Only 4 different byte values in 2\s048 used bytes\.$/)
  })
  it('one byte short is short, and one too many is not', () => {
    expect(rule({ bytes: program.subarray(0, 4095) }).rule).toBe('backup-short')
    expect(rule({ bytes: program, wanted: 4095 }).rule).toBe('backup-good')
  })
  it('weighs what it lacks most first', () => {
    expect(rule({ bytes: new Uint8Array(10), equalTwice: false, identity: null }).rule).toBe('backup-short')
    expect(rule({ bytes: new Uint8Array(4096), equalTwice: false }).rule).toBe('backup-empty')
    expect(rule({ equalTwice: false, identity: null }).rule).toBe('backup-unequal')
  })
  it('that is good says how often it was read and what it is', () => {
    expect(rule({})).toMatchObject({
      says: expect.stringMatching(/read twice and equal\.$/),
      because: 'It says of itself that it is 2025-11-03.',
    })
    const { version: _version, ...nameless } = good.identity!
    expect(rule({ identity: nameless as BackupFacts['identity'] }).because).toMatch(/an image of this family/)
  })
})
