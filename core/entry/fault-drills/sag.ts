import { componentOf, drivenLink } from '../../family'
import { inSentence, voltsText } from '../../kernel'
import { isChargeable } from '../../ready'
import { move, type DrillOf } from './fault-drill'

/** PRACTICE D1: the supply that would not last. */
export const sag: DrillOf = (family) => {
  const { supply, floorVolts } = family.power
  const load = supply?.loads.toSorted((a, b) => b.amps - a.amps)[0]
  const link = drivenLink(family)
  if (!link || !load || !isChargeable(supply!.chemistry)) return null
  return {
    linkId: link.id,
    componentId: componentOf(family).id,
    name: 'The supply sags',
    situation: `Before the write: the ${family.name} still stands above its floor of ${voltsText(floorVolts)}. It also feeds: ${inSentence(load.name)}, ${load.amps} A.`,
    order: ['hold', 'shed', 'charger', 'measure', 'start'],
    moves: [
      move('hold', 'Do not start', 'At the last byte it would stand below its floor.'),
      move(
        'shed',
        `Take the load off (${load.shed}), and note it`,
        `${load.amps} A less. It is on the list of what has to be put back.`,
      ),
      move('charger', 'Put a charger on the battery', 'It stays on through read and write.'),
      move('measure', 'Measure again at the terminals', 'The battery has come back.'),
      move(
        'start',
        'Start the write',
        'It stays above the floor. What was taken off is asked for at the close.',
      ),
      move(
        'quick',
        'Start now, it is above the floor',
        'It browns out at four fifths. This is the classic way to kill a unit.',
        'unsafe',
      ),
      move(
        'engine',
        'Start an engine or a generator to charge it meanwhile',
        'A start pulls the supply to its knees, and it may come in the middle of the write.',
        'unsafe',
      ),
      move('floor', 'Type a lower floor', 'The floor is the unit’s, not ours.', 'wrong'),
    ],
  }
}
