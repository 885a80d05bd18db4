import { demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { judgeCard, type CardSay } from '.'

const medium = demoFamily('helm-display').links[0]!.medium!
const stick = demoFamily('davit-base').links[0]!.medium!
const sha = (digit: string) => digit.repeat(64)
const wanted = [
  { name: 'START.TXT', bytes: 13, sha256: sha('1') },
  { name: 'HELM.BIN', bytes: 1000, sha256: sha('2') },
]
const right: CardSay = { at: 0, files: wanted.map((file) => ({ ...file })), ordered: true, mediumBytes: 1e9 }
const rules = (said: Partial<CardSay> | undefined, on = medium) =>
  judgeCard(on, wanted, said && { ...right, ...said }).findings.map(({ rule, level }) => `${rule} ${level}`)

// PRACTICE B11: a card below 2 GB with files in a given order; what is put on it is checked too.
describe('a card that was read back', () => {
  it('lets it go when every byte is there, in order', () => {
    expect(rules({})).toEqual(['card-files go'])
  })
  it('stops until it was read back at all', () => {
    expect(rules(undefined)).toEqual(['card-files stop'])
  })
  it.each<[string, Partial<CardSay>, string]>([
    ['a file is missing', { files: [wanted[0]!] }, 'card-files stop'],
    ['it has another name', { files: [wanted[0]!, { ...wanted[1]!, name: 'helm.bin' }] }, 'card-files stop'],
    ['one byte is other', { files: [wanted[0]!, { ...wanted[1]!, sha256: sha('3') }] }, 'card-bytes stop'],
    ['it ends one byte early', { files: [wanted[0]!, { ...wanted[1]!, bytes: 999 }] }, 'card-bytes stop'],
    [
      'its digest was not read',
      { files: [wanted[0]!, { name: 'HELM.BIN', bytes: 1000 }] },
      'card-bytes stop',
    ],
    ['the order is turned round', { files: [wanted[1]!, wanted[0]!] }, 'card-order stop'],
    ['the order was not seen', { ordered: false }, 'card-order hold'],
    [
      'another file lies there',
      { files: [...right.files, { name: 'OLD.BIN', bytes: 1 }] },
      'card-others stop',
    ],
    ['it is too large', { mediumBytes: 2_000_000_001 }, 'card-size stop'],
    ['it is too small for the files', { mediumBytes: 900 }, 'card-size stop'],
  ])('stops or holds where %s', (_, said, finding) => {
    expect(rules(said)).toContain(finding)
    expect(rules(said)).not.toContain('card-files go')
  })
  it('says by what a file differs', () => {
    const because = (file: object) =>
      judgeCard(medium, wanted, { ...right, files: [wanted[0]!, { ...wanted[1]!, ...file }] }).findings.find(
        ({ rule }) => rule === 'card-bytes',
      )!.because
    expect(because({ bytes: 999 })).toMatch(/^999 bytes, wanted 1.000\.$/)
    expect(because({ sha256: sha('3') })).toBe('Digest 333333333333…, wanted 222222222222….')
  })
  it('takes one that the files just fill', () => {
    expect(rules({ mediumBytes: 1013 })).toEqual(['card-files go'])
    expect(rules({ mediumBytes: 1012 })).toContain('card-size stop')
  })
  it('takes the largest that the unit reads', () => {
    expect(rules({ mediumBytes: 2_000_000_000 })).toEqual(['card-files go'])
  })
  it('reminds where nobody said its size', () => {
    const { mediumBytes: _, ...unsaid } = right
    expect(judgeCard(medium, wanted, unsaid).findings.map(({ level }) => level)).toEqual(['go', 'note'])
  })
  it('lets others lie where the unit does not mind', () => {
    expect(rules({ files: [...right.files, { name: 'PHOTO.JPG', bytes: 1 }] }, stick)).toEqual([
      'card-files go',
    ])
  })
})
