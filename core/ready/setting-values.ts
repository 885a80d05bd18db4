import type { Family } from '../family'

/** A setting that an update erases and that is short enough to be typed. */
export type SettingField = NonNullable<
  NonNullable<NonNullable<Family['backup']>['settings']>['fields']
>[number]

const characterText: Record<NonNullable<SettingField['characters']>, string> = {
  digits: 'digits only',
  'letters-and-digits': 'letters and digits only, no spaces or signs',
  any: 'any characters',
}
const allowed: Record<NonNullable<SettingField['characters']>, RegExp> = {
  digits: /^[0-9]*$/,
  'letters-and-digits': /^[A-Za-z0-9]*$/,
  any: /^[^\p{Cc}]*$/u,
}

/**
 * PRACTICE J2: a setting as the unit will take it when it is put back: a host name without spaces or signs, a name as long
 * as its field.
 * @returns what is wrong with it, in words; null where it will be taken.
 */
export function settingFault(field: SettingField, value: string): string | null {
  const { name, min = 0, max = 64, characters = 'any' } = field
  if (!allowed[characters].test(value)) return `${name}: ${characterText[characters]}.`
  if (value.length > max) return `${name}: ${max} characters at most; these are ${value.length}.`
  if (value.length < min) return `${name}: ${min} characters at least.`
  return null
}

/** The rule of a field in words, for its hint. */
export function settingRule({ min = 0, max = 64, characters = 'any' }: SettingField): string {
  const length = min > 0 ? `${min} to ${max} characters` : `up to ${max} characters`
  return characters === 'any' ? length : `${length}, ${characterText[characters]}`
}
