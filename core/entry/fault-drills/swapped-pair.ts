import { componentOf, drivenLink, type FamilyLink } from '../../family'
import { channelOf } from '../../link'
import { move, type DrillOf } from './fault-drill'

/** PRACTICE F1: transmit on transmit. */
export const swappedPair: DrillOf = (family) => {
  const link = drivenLink(family)
  if (!link || channelOf(link) !== 'serial') return null
  const signals = pinsOf(link).filter(({ role }) => role === 'transmit' || role === 'receive')
  if (signals.length < 2) return null
  const bears = Math.max(...signals.map(({ volts }) => volts ?? 0))
  return {
    linkId: link.id,
    componentId: componentOf(family).id,
    name: 'Nothing answers',
    situation: `The port is there, the ${family.name} is on, the wires are on its pins. The line is silent.`,
    order: ['look-pair', 'swap', 'try'],
    moves: [
      move('look-pair', 'Follow the two signal wires', 'Transmit is on transmit.'),
      move('swap', 'Swap the two wires', 'Transmit goes to receive now. Nothing was harmed.'),
      move('try', 'Try again from power off', 'The bootloader answers.'),
      move(
        'higher',
        'Raise the adapter’s level for a stronger signal',
        bears
          ? `Its pins bear ${bears} V. A board dies on the level above its own.`
          : 'A board dies on the level above its own.',
        'unsafe',
      ),
      move(
        'driver',
        'Install the driver again',
        'The port was there, so the driver is not the trouble.',
        'wrong',
      ),
      move('other-image', 'Try another image', 'The unit has not even been asked yet.', 'wrong'),
    ],
  }
}

const pinsOf = (link: FamilyLink) => link.wiring?.pins ?? []
