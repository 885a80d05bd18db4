import { describe, expect, it } from 'vitest'
import { settingFault, settingRule, type SettingField } from '.'

/* PRACTICE J2, common practice: a host name has neither spaces nor signs, and what does not fit its field is not put back. */

const host: SettingField = {
  id: 'host',
  name: 'Host name',
  min: 2,
  max: 8,
  characters: 'letters-and-digits',
}

describe('a setting as the unit will take it', () => {
  it.each([
    ['pier7', null],
    ['ab', null],
    ['abcdefgh', null],
    ['a', /2 characters at least/],
    ['abcdefghi', /8 characters at most; these are 9/],
    ['pier 7', /no spaces or signs/],
    ['pier-7', /no spaces or signs/],
    ['píer7', /no spaces or signs/],
    ['pier7\n', /no spaces or signs/],
  ] as const)('%j', (value, fault) => {
    const found = settingFault(host, value)
    if (fault === null) expect(found).toBeNull()
    else expect(found).toMatch(fault)
  })
  it('of digits takes digits only; of anything takes all but control characters', () => {
    const squelch: SettingField = { id: 's', name: 'Squelch', max: 2, characters: 'digits' }
    expect(settingFault(squelch, '12')).toBeNull()
    expect(settingFault(squelch, '1a')).toMatch(/digits only/)
    expect(settingFault(squelch, '٣')).toMatch(/digits only/)
    expect(settingFault({ id: 'n', name: 'Name' }, 'Pier 7, north')).toBeNull()
    expect(settingFault({ id: 'n', name: 'Name' }, 'Pier\u0007')).not.toBeNull()
    expect(settingFault({ id: 'n', name: 'Name' }, 'x'.repeat(65))).toMatch(/64 characters at most/)
  })
  it('is told in words before anybody types', () => {
    expect(settingRule(host)).toBe('2 to 8 characters, letters and digits only, no spaces or signs')
    expect(settingRule({ id: 'n', name: 'Name' })).toBe('up to 64 characters')
  })
})
