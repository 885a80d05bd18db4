import type { FitRule } from '../question'

/** PRACTICE B7: the same version in several forms; which one is a question about how the unit is used. */
export const chosenVariant: FitRule = {
  id: 'chosen-variant',
  judge({ family, answers = {}, image: { identity } }) {
    const variant = identity?.variant
    const question = family.questions?.find((each) => each.answers.some(({ id }) => id === variant))
    if (variant === undefined) return null
    if (!question) {
      return {
        level: 'hold',
        says: `The image is the variant "${variant}", which the profile does not know.`,
        because: `Known: ${(family.questions ?? []).flatMap((each) => each.answers.map(({ id }) => id)).join(', ') || 'none'}.`,
        remedy: 'Ask the supplier what this variant is for.',
      }
    }
    const says = (id: string) => question.answers.find((each) => each.id === id)?.says ?? id
    const given = answers[question.id]
    if (given === undefined) {
      return {
        level: 'hold',
        says: question.asks,
        because: `This image is the form for: ${says(variant)}.`,
        remedy: 'Answer it on the unit’s page; the answer goes into the record.',
      }
    }
    return given === variant
      ? { level: 'go', says: `The variant is right: ${says(variant)}.`, because: `Asked: ${question.asks}` }
      : {
          level: 'stop',
          says: `This is the form for ${says(variant)}; the unit is used with ${says(given)}.`,
          because: `Asked: ${question.asks}`,
          remedy: `Choose the form for ${says(given)}.`,
        }
  },
}
