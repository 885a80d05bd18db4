import { componentOf, drivenLink } from '../../family'
import { channelOf } from '../../link'
import { move, type DrillOf } from './fault-drill'

/** PRACTICE H7: the plug came out at six tenths of the write. */
export const cutAt60: DrillOf = (family) => {
  const link = drivenLink(family)
  if (!link || channelOf(link) !== 'serial') return null
  return {
    linkId: link.id,
    componentId: componentOf(family).id,
    name: 'Cut at 60 %',
    situation: `Somebody’s foot pulled the plug out of the ${family.name} at six tenths of the write. It shows no sign of life.`,
    order: ['leave-on', 'plug', 're-enter', 'write-again', 'prove'],
    moves: [
      move('leave-on', 'Leave the unit powered', 'Its bootloader still waits. Nothing is lost.'),
      move('plug', 'Push the plug home and see the port listed', 'The port is back.'),
      move('re-enter', 'Ask the bootloader who it is', 'It answers: it still has its bootloader.'),
      move('write-again', 'Start the write again', 'All of it is acknowledged.'),
      move(
        'prove',
        'Power cycle as the profile orders, then read the version',
        'The unit says the new version itself.',
      ),
      move(
        'power-off',
        'Switch the unit off and on to clear it',
        'With half an application some units come up in nothing at all.',
        'unsafe',
      ),
      move(
        'resume',
        'Send only the bytes the screen had not counted yet',
        'What the unit holds is for the unit to say. A piece sent from our count lands beside the rest.',
        'wrong',
      ),
      move('older', 'Send the old image, it fitted before', 'Nothing was wrong with the new one.', 'wrong'),
    ],
  }
}
