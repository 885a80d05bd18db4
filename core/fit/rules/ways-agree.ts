import { howTold, toldByWords } from '../../image'
import { asSentence, type Finding } from '../../kernel'
import type { FitRule } from '../question'

/** What tells what the image is agrees with all else that tells it: block, text, list of releases, a person’s word. */
export const waysAgree: FitRule = {
  id: 'ways-agree',
  judge({ image: { identity } }) {
    const { contradictions = [], alsoToldBy = [] } = identity ?? {}
    if (contradictions.length > 0) return contradicted(contradictions)
    if (!identity || alsoToldBy.length === 0) return null
    const ways = [howTold(identity), ...alsoToldBy].map((way) => toldByWords[way])
    return {
      level: 'go',
      says: 'What this image is, is told in more than one way, and they agree.',
      because: `${asSentence(ways.join('; '))}.`,
    }
  },
}

/** What is said of an image that is told in two ways; the shelf says it before any unit is named. */
export const contradicted = (contradictions: readonly string[]): Omit<Finding, 'rule'> => ({
  level: 'stop',
  says: 'What this image is, is told in two ways that differ.',
  because: `${asSentence(contradictions.join('; '))}.`,
  remedy: 'Find out which is right: correct the list of releases or the statement, or fetch the image again.',
})
