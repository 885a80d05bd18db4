import { explainOrder } from '../../unit'
import type { FitRule } from '../question'

/** PRACTICE A2, B1, B12: older, same or newer, and what the family does with each. */
export const versionDirection: FitRule = {
  id: 'version-direction',
  judge({ component, unit, image: { identity, contentSha256 } }) {
    const to = identity?.version
    if (to === undefined) {
      return {
        level: 'hold',
        says: 'The image does not say its version.',
        because: 'Its identity block holds none, so the proof could not compare it.',
        remedy: 'Ask the supplier which version this is.',
      }
    }
    const from = unit.versions[component.id]
    if (from === undefined) {
      return {
        level: 'note',
        says: `The version on the unit is not known; the image is ${to}.`,
        because: 'The unit has not been read, or it sits in its bootloader without firmware.',
      }
    }
    const { order, because } = explainOrder(component.version.scheme, to, from)
    if (order === 'newer') return { level: 'go', says: `${from} to ${to} is a step forward.`, because }
    if (order === 'same') {
      const [has, brings] = [unit.digests?.[component.id], contentSha256]
      if (has !== undefined && brings !== undefined) {
        return has === brings
          ? {
              level: 'hold',
              says: `Nothing to do: the unit already has ${to}, byte for byte.`,
              because: `Digest ${brings.slice(0, 12)}… on the unit and in the image.`,
              remedy: 'Leave it as it is, or say why it should be written again.',
            }
          : {
              level: 'note',
              says: `The unit has ${from} too, with other bytes.`,
              because: `Digest ${has.slice(0, 12)}… on the unit, ${brings.slice(0, 12)}… in the image.`,
              remedy: 'See that its supplier means the one that is chosen.',
            }
      }
      return {
        level: 'hold',
        says: `Nothing to do: the unit already has ${to}.`,
        because,
        remedy: 'Leave it as it is, or say why it should be written again.',
      }
    }
    if (order === 'not-comparable') {
      return {
        level: 'hold',
        says: `Nobody can say whether ${to} is newer than ${from}.`,
        because,
        remedy: 'Ask the supplier for the order of the two.',
      }
    }
    const downgrade = component.version.downgrade
    return {
      level: downgrade === 'refused' ? 'stop' : downgrade === 'held' ? 'hold' : 'note',
      says: `The image is older than what is on the unit: ${to} under ${from}.`,
      because: downgrade === 'refused' ? 'This family refuses to go back.' : because,
      remedy: `Choose ${from} or newer.`,
    }
  },
}
