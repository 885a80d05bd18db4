import { durationText } from '../../../kernel'
import { durationOf } from '../../log'
import type { LogRule } from '../question'

/** The log is shorter than its kind asks for. */
export const tooShort: LogRule = {
  id: 'too-short',
  judge({ log, kind }) {
    const seconds = durationOf(log)
    if (seconds >= kind.minSeconds) return null
    return {
      level: 'stop',
      says: `The log is too short for ${kind.name.toLowerCase()}.`,
      because: `It lasts ${durationText(seconds * 1000)}; ${durationText(kind.minSeconds * 1000)} are asked for.`,
      remedy: 'Log again, for the whole time.',
      numbers: { seconds, minSeconds: kind.minSeconds },
    }
  },
}
