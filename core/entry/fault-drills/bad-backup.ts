import { componentOf, drivenLink } from '../../family'
import { linkReads } from '../../link'
import { move, type DrillOf } from './fault-drill'

/** PRACTICE G5: a backup that is none. */
export const badBackup: DrillOf = (family) => {
  const link = drivenLink(family)
  if (!link || !linkReads(link)) return null
  return {
    linkId: link.id,
    componentId: componentOf(family).id,
    name: 'A backup that is none',
    situation: `The original of the ${family.name} was read out: every byte FF. The customer waits.`,
    order: ['refuse', 'entry', 'read-twice', 'compare', 'write'],
    moves: [
      move('refuse', 'Do not call it a backup', 'All FF is what an empty line reads like.'),
      move('entry', 'Bring the unit into its bootloader again', 'It answers.'),
      move('read-twice', 'Read it out twice', 'Two files, and neither is empty.'),
      move('compare', 'Compare the two', 'Equal, byte for byte. Now it is a backup.'),
      move('write', 'Then write', 'There is a way back.'),
      move(
        'go-on',
        'Go on, the supplier has the original',
        family.backup?.firmware === 'own'
          ? 'Each of these has an image of its own: without its backup there is no way back.'
          : 'Nobody has looked yet whether the supplier has this very version.',
        'unsafe',
      ),
      move('rename', 'Save it under a better name', 'A name does not fill it.', 'wrong'),
    ],
  }
}
