import type { DrivenLink } from '../family'
import { isProblem, type ProblemFacts } from '../kernel'
import { linkResumes } from '../link'
import type { JournalLost } from './wake'

/**
 * What erase and write do when the record of their progress cannot be written. Where a write may go on from the byte it
 * had reached, it stops between two blocks and nothing is lost. Where it must begin again at the first byte, a stop would
 * leave a unit that cannot start for nothing: it goes on to the last byte, and the unit holds the whole image.
 */
export const writeUnrecorded = (link: DrivenLink | null): 'stop' | 'go-on' =>
  link && linkResumes(link) ? 'stop' : 'go-on'

/**
 * Why a run was cut, in sentences: what kept it from the disk, and what was done with what was begun.
 * @param writing what a write that was begun did; null where none was.
 * @param trouble what went wrong besides.
 */
export function whyUnrecorded(
  { cause }: JournalLost,
  writing: 'stop' | 'go-on' | null,
  trouble: ProblemFacts | null,
): string {
  const says = isProblem(cause) ? cause.facts.says : cause instanceof Error ? cause.message : String(cause)
  const done = trouble
    ? `Before that it had failed: ${trouble.says}.`
    : writing === null
      ? 'Nothing was begun that is not recorded.'
      : writing === 'stop'
        ? 'The write stopped between two blocks; it goes on from there.'
        : 'The write went on to its last byte without a record, because over this link it cannot go on from the middle; nothing was started after it.'
  return `The record could not be written: ${says}. ${done}`
}
