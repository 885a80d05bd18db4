import { componentOf, drivenLink } from '../../family'
import { move, type DrillOf } from './fault-drill'

/** PRACTICE F4: two units hear one write. */
export const secondUnit: DrillOf = (family) => {
  const { isolation } = family
  const link = drivenLink(family)
  const neighbour = isolation?.neighbours[0]
  if (!isolation?.scan || !neighbour || link?.kind !== 'rs485') return null
  const { scan } = isolation
  return {
    linkId: link.id,
    componentId: componentOf(family).id,
    name: 'Two on the bus',
    situation: `The scan of the bus of the ${family.name} shows noise at address ${scan.from}. The image is ready.`,
    order: ['stop', 'unplug', ...(isolation.switch ? ['switch'] : []), 'scan', 'write'],
    moves: [
      move('stop', 'Write nothing', isolation.why),
      move('unplug', 'Unplug every other unit', `${neighbour.name}: ${neighbour.unplug}.`),
      ...(isolation.switch
        ? [move('switch', `Set ${isolation.switch.name}: ${isolation.switch.says}`, 'It stands as drawn.')]
        : []),
      move('scan', 'Scan again', `One unit answers, at address ${scan.from}.`),
      move('write', 'Write', 'It is the right one, and the only one.'),
      move(
        'other-address',
        `Set the other one to address ${Math.min(scan.from + 1, scan.to)} and leave it on`,
        'In its bootloader it may listen to every address.',
        'unsafe',
      ),
      move('slower', 'Lower the speed', 'Two voices at once are noise at any speed.', 'wrong'),
    ],
  }
}
