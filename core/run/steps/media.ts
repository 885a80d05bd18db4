import { Problem } from '../../kernel'
import type { StepAct } from '../step-context'

/**
 * A card or stick that the unit takes its files from: in, the page on which the unit says what it found, and each of its
 * questions with the usual answer, in the order in which they come (PRACTICE B11).
 */
export const media: StepAct = async ({ medium, ask, wake, step, component }) => {
  if (!medium?.update) return
  const { name, update } = medium
  await ask({
    id: 'media.in',
    says: update.insert,
    ...(update.caution ? { caution: update.caution } : {}),
    answers: [{ id: 'done', says: 'Done' }],
  })
  const found = await ask({
    id: 'media.found',
    says: `Does the unit show: ${update.searches}`,
    answers: [
      { id: 'shown', says: 'It shows that' },
      { id: 'other', says: 'Something else' },
    ],
  })
  if (found !== 'shown') {
    throw new Problem({
      kind: 'media-not-found',
      says: `the unit does not find its files on the ${name}`,
      expected: update.searches,
      remedy: `Nothing was written. Take the ${name} out, check it here once more: names, order, size. Then try again.`,
    })
  }
  for (const [index, { shows, answer, caution }] of update.prompts.entries()) {
    await ask({
      id: `media.prompt-${index + 1}`,
      says: `${index + 1} of ${update.prompts.length}. It shows: ${shows} Answer: ${answer}`,
      ...(caution ? { caution } : {}),
      answers: [{ id: 'done', says: 'Done' }],
    })
  }
  await wake.record({
    type: 'note',
    step,
    says: `The unit took its ${component.name.toLowerCase()} from the ${name}.`,
  })
}
