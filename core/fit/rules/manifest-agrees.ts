import { disagreements } from '../../image'
import type { FitRule } from '../question'

/** PRACTICE B2: where content and manifest say different things, one of them belongs to another image. */
export const manifestAgrees: FitRule = {
  id: 'manifest-agrees',
  judge({ image: { identity, claim } }) {
    if (!identity || !claim) return null
    const different = disagreements(identity, claim)
    return different.length === 0
      ? {
          level: 'go',
          says: 'Manifest and bytes say the same.',
          because: `Sequence number ${claim.sequence}.`,
        }
      : {
          level: 'stop',
          says: 'The manifest speaks of another image.',
          because: `${different.join('; ')}.`,
          remedy: 'Fetch the bundle again from where it came.',
        }
  },
}
