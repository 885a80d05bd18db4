import { howTold, toldByWords } from '../../image'
import { explainOrder } from '../../unit'
import type { Finding } from '../../kernel'
import type { FitQuestion, FitRule } from '../question'

/** PRACTICE A2, B1, B12: older, same or newer, and what the family does with each. */
export const versionDirection: FitRule = {
  id: 'version-direction',
  judge(question) {
    const finding = judgeDirection(question)
    const { identity } = question.image
    const told = identity?.version === undefined ? 'block' : howTold(identity, 'version')
    if (told === 'block') return finding
    const because = `${finding.because} The image’s version: ${toldByWords[told]} says it.`
    const holdsAlready =
      howTold(identity!) === 'person' || finding.level === 'hold' || finding.level === 'stop'
    if (told !== 'person' || holdsAlready) return { ...finding, because }
    return {
      ...finding,
      level: 'hold',
      says: `${identity!.statement?.by ?? 'Somebody'} says that the image is ${identity!.version}. Nothing else does.`,
      because,
      remedy: 'Ask the supplier which version this is, or release it by name.',
    }
  },
}

function judgeDirection({
  component,
  unit,
  image: { identity, contentSha256 },
}: FitQuestion): Omit<Finding, 'rule'> {
  const to = identity?.version
  if (to === undefined) {
    return {
      level: 'hold',
      says: 'The image does not say its version.',
      because: 'Nothing tells it, so the proof could not compare it.',
      remedy: 'Ask the supplier which version this is, then write it down on the image’s page.',
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
}
