import { describe, expect, it } from 'vitest'
import { readReleases } from '.'

const digest = 'ab'.repeat(32)
const other = 'cd'.repeat(32)

describe('a list of known releases', () => {
  it('is read by its heading, whatever the supplier calls the columns', () => {
    const rows = [
      {
        Checksum: digest.toUpperCase(),
        Release: ' 2.48 ',
        Part: 'main',
        Hardware: '3',
        Released: '2026-03-31',
        Remarks: '',
      },
      { 'SHA-256': `sha256:${other}`, version: '2.49', colour: 'grey' },
    ]
    expect(readReleases(rows)).toEqual({
      releases: [
        { sha256: digest, version: '2.48', component: 'main', hardware: 3, date: '2026-03-31' },
        { sha256: other, version: '2.49' },
      ],
      faults: [],
    })
  })
  it.each([
    ['no digest', { version: '2.48' }, /sha256: it is missing/],
    ['no version', { digest }, /version: it is missing/],
    ['half a digest', { digest: 'ab12', version: '1' }, /sha256: Write a SHA-256/],
    ['hardware in words', { digest, version: '1', hardware: 'grey box' }, /hardware/],
    ['a day that is none', { digest, version: '1', date: '31.03.2026' }, /date: Write a day/],
    ['no row at all', 'text', /./],
  ])('names the row with %s, and takes nothing of it', (_, row, says) => {
    const { releases, faults } = readReleases([{ digest: other, version: '2.47' }, row])
    expect(releases).toHaveLength(1)
    expect(faults).toEqual([{ row: 2, says: expect.stringMatching(says) }])
  })
  it('takes a digest once', () => {
    const twice = [
      { digest, version: '1' },
      { digest, version: '2' },
    ]
    expect(readReleases(twice)).toEqual({
      releases: [{ sha256: digest, version: '1' }],
      faults: [{ row: 2, says: 'row 1 has this digest too' }],
    })
  })
})
