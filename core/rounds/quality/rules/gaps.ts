import { durationText, fixedText } from '../../../kernel'
import { durationOf } from '../../log'
import type { LogRule } from '../question'
import { medianStep } from '../measures'

/** A step this many times the usual one is a gap, if it lasts. */
const gapSteps = 5
const gapSeconds = 0.5
/** Share of the time in gaps from which the log is not whole. */
const most = 0.05

/** Rows are missing in between. */
export const gaps: LogRule = {
  id: 'gaps',
  judge({ log }) {
    const usual = medianStep(log.seconds)
    if (usual === 0) return null
    let [count, total, longest, at] = [0, 0, 0, 0]
    for (let row = 1; row < log.seconds.length; row++) {
      const step = log.seconds[row]! - log.seconds[row - 1]!
      if (step <= usual * gapSteps || step < gapSeconds) continue
      count++
      total += step
      if (step > longest) [longest, at] = [step, log.seconds[row - 1]!]
    }
    if (count === 0) return null
    const share = total / durationOf(log)
    return {
      level: share > most ? 'hold' : 'note',
      says: `${count === 1 ? 'One gap' : `${count} gaps`} in the log, ${durationText(total * 1000)} in all.`,
      because: `The longest lasts ${durationText(longest * 1000)}, from ${fixedText(at, 1)} s on; rows usually follow in ${durationText(usual * 1000)}.`,
      remedy: 'Close other programs on the laptop, shorten the lead, log fewer channels.',
      numbers: { count, share, longest },
    }
  },
}
