import { compareVersions } from '../../unit'
import type { FitRule } from '../question'

/** PRACTICE B1 and RFC 9124, section 3.6 (from memory), required image version: from which versions it may be put on. */
export const requiredRange: FitRule = {
  id: 'required-range',
  judge({ component, unit, image: { identity } }) {
    const [from, below] = [identity?.requiresFrom, identity?.requiresBelow]
    if (from === undefined && below === undefined) return null
    const wanted = [from && `from ${from}`, below && `below ${below}`].filter(Boolean).join(' and ')
    const present = unit.versions[component.id]
    if (present === undefined) {
      return {
        level: 'hold',
        says: `The image goes on versions ${wanted}; the unit’s is not known.`,
        because: 'The image itself names what it may be put on.',
        remedy: 'Read the unit.',
      }
    }
    const { scheme } = component.version
    const tooOld = from !== undefined && !['same', 'newer'].includes(compareVersions(scheme, present, from))
    const tooNew = below !== undefined && compareVersions(scheme, present, below) !== 'older'
    return tooOld || tooNew
      ? {
          level: 'stop',
          says: `The image goes on versions ${wanted}; the unit has ${present}.`,
          because: 'The image itself names what it may be put on.',
          remedy: tooOld ? `Bring the unit to ${from} first.` : `Choose an image that goes on ${present}.`,
        }
      : {
          level: 'go',
          says: `The unit’s ${present} is one it may be put on.`,
          because: `It goes on versions ${wanted}.`,
        }
  },
}
