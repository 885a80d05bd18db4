import { drivenLink } from '../../family'
import { move, type DrillOf } from './fault-drill'

/** PRACTICE B7: two variants of one version. */
export const wrongVariant: DrillOf = (family) => {
  const link = drivenLink(family)
  const component = family.components.find(({ identity }) =>
    identity?.fields.some(({ field }) => field === 'variant'),
  )
  const question = family.questions?.[0]
  const [right, other] = question?.answers ?? []
  if (!link || !component || !question || !right || !other) return null
  return {
    linkId: link.id,
    componentId: component.id,
    name: 'The wrong variant',
    situation: `Two files of one version for the ${family.name} lie there. You hold the one for ${other.says}; nobody has asked yet.`,
    order: ['ask', 'choose', 'check', 'write'],
    moves: [
      move('ask', `Ask: ${question.asks} Note who says so`, `The answer: ${right.says}.`),
      move('choose', `Take the image for ${right.says}`, 'Same version, other variant.'),
      move('check', 'Look at its digest and variant, not at its name', `${right.id}, as the unit is used.`),
      move('write', 'Write it', 'The unit works as it did.'),
      move(
        'any',
        'Either will do, it is the same version',
        'It goes in, and does not work here. The job comes back.',
        'wrong',
      ),
      move('both', 'Write both, one after the other', 'The second write undoes the first.', 'wrong'),
    ],
  }
}
