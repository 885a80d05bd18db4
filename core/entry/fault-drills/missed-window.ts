import { componentOf, drivenLink, type EntryScript, type Family } from '../../family'
import { move, type DrillOf } from './fault-drill'

/** The way in that a drill misses, the act that came too late, and its window. */
export function missedAct(family: Family) {
  for (const { script } of family.entry) {
    const act = script?.acts.findLast(({ within }) => within)
    if (script && act?.within) return { script, act, within: act.within }
  }
  return null
}

/** PRACTICE E7, E8: the act came after its window had closed. */
export const missedWindow: DrillOf = (family) => {
  const link = drivenLink(family)
  const missed = missedAct(family)
  const isIn = missed && signOf(missed.script, 'in')
  if (!link || !missed || !isIn) return null
  const { act, script } = missed
  const isNotIn = signOf(script, 'not-in')
  return {
    linkId: link.id,
    componentId: componentOf(family).id,
    name: 'The window was missed',
    situation: `“${act.says}” was done by feel, and came too late.${isNotIn ? ` You see: ${isNotIn.says}.` : ''}`,
    order: ['off', 'wait', 'again', 'in-time', 'sign'],
    moves: [
      move('off', 'Switch the unit off', 'What ran, ends.'),
      move('wait', 'Count ten', 'It has let go of its last charge.'),
      move('again', `Begin again, up to “${act.says}”`, 'The window is open.'),
      move('in-time', act.says, 'In time.'),
      move('sign', `Look for the sign: ${isIn.says}`, isIn.means),
      move(
        'write-on',
        'Write anyway',
        'It is not in its bootloader: the first bytes go to firmware that is running.',
        'unsafe',
      ),
      move('late', `Once more, now: ${act.says}`, 'The window is long closed.', 'wrong'),
    ],
  }
}

const signOf = ({ signs }: EntryScript, tells: 'in' | 'not-in') => signs.find((sign) => sign.tells === tells)
