import type { FitRule } from '../question'

/** PRACTICE B9: option values are part of an image's identity; they are compared with what the unit was built with. */
export const builtOptions: FitRule = {
  id: 'built-options',
  judge({ component, unit, image: { identity } }) {
    const built = identity?.options
    if (!component.options || built === undefined) return null
    const names = (text: string) =>
      text === 'none'
        ? 'no options'
        : text
            .split('+')
            .map((id) => component.options!.find((each) => each.id === id)?.name ?? id)
            .join(', ')
    const has = unit.options?.[component.id]
    if (has === undefined) {
      return {
        level: 'hold',
        says: `The image is built with ${names(built)}; what the unit has is not known.`,
        because: 'The options decide how the unit behaves after the update.',
        remedy: 'Read the options from the unit, or ask who uses it.',
      }
    }
    const sorted = (text: string) => text.split('+').sort().join('+')
    return sorted(has) === sorted(built)
      ? { level: 'go', says: `Built as the unit is: ${names(built)}.`, because: 'The options are equal.' }
      : {
          level: 'hold',
          says: `The image is built with ${names(built)}; the unit has ${names(has)}.`,
          because: 'The unit would behave differently afterwards.',
          remedy: 'Build the image with the unit’s options, or say who wants the change.',
        }
  },
}
