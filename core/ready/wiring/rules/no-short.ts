import type { Pin } from '../../../family'
import { isSignal, pinText, type WiringRule } from '../question'

const pairsOfRoles: readonly (readonly [string, string])[] = [
  ['transmit', 'receive'],
  ['data-in', 'data-out'],
]
/** Two wires that may meet at all; which way round is another rule's business. */
const mayMeet = (a: Pin, b: Pin) =>
  a.role === b.role ||
  pairsOfRoles.some(
    ([one, two]) => (a.role === one && b.role === two) || (a.role === two && b.role === one),
  ) ||
  (a.role.startsWith('data-') && b.role.startsWith('data-')) ||
  (a.role.startsWith('can-') && b.role.startsWith('can-'))

/** Supply on ground or on a signal, a signal on a stranger, or one pin with two drivers. */
export const noShort: WiringRule = {
  id: 'no-short',
  judge({ pairs }) {
    const twice = pairs.find(({ adapter, target }, index) =>
      pairs.some(
        (other, at) =>
          at > index &&
          isSignal(target) &&
          (other.target.id === target.id) !== (other.adapter.id === adapter.id),
      ),
    )
    const wrong = pairs.find(({ adapter, target }) => !mayMeet(adapter, target) && target.role !== 'none')
    if (wrong) {
      const { adapter, target } = wrong
      const power = adapter.role === 'supply' || target.role === 'supply'
      return {
        level: 'stop',
        says: `${pinText(adapter)} is joined to ${pinText(target)}.`,
        because: power
          ? `Supply on ${target.role === 'supply' ? adapter.role : target.role}: something burns.`
          : `${adapter.role} and ${target.role} have nothing to do with each other.`,
        remedy: 'Take this wire off before anything is powered.',
      }
    }
    if (twice) {
      return {
        level: 'stop',
        says: `${pinText(twice.target)} has two wires.`,
        because: 'Two ends that drive one wire fight each other.',
        remedy: 'Leave one wire on it.',
      }
    }
    return pairs.length
      ? { level: 'go', says: 'No wire is on a stranger.', because: `${pairs.length} joined.` }
      : null
  },
}
