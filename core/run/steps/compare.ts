import { isProblem, Problem } from '../../kernel'
import { checkText, isEqual, isSilence, weakestCheck, type Verification } from '../../link'
import type { StepAct } from '../step-context'
import { writes } from '../task'

/**
 * PRACTICE H2: the image is held against what is in the unit before anything is erased. Where both are the same at every
 * byte there is nothing to write, and the person is asked; a unit that cannot be compared is written all the same, and
 * the record says that nothing was compared.
 */
export const compare: StepAct = async (bench) => {
  const { loads, loader, wake, step, ask, changed, releases } = bench
  const note = async (says: string) => {
    // Where comparing is all that was asked, nothing compared is no answer.
    if (!writes(bench))
      throw new Problem({
        kind: 'not-compared',
        says: says.replace(/\.$/, ''),
        remedy: 'Nothing was written. Read the unit out and compare the files, or go by its version.',
      })
    await wake.record({ type: 'note', step, says })
  }
  if (changed) return note('Not compared: what is in the unit now is not what it came with.')
  if (loader.can.verify === 'version-only') return note('Not compared: this link cannot read the unit back.')
  const checks: Verification[] = []
  for (const { address, bytes } of loads) {
    try {
      const check = await loader.verify(address, bytes)
      await wake.record({ type: 'held-against', step, ...check })
      checks.push(check)
    } catch (error) {
      if (!isProblem(error) || isSilence(error)) throw error
      return note(`Not compared: ${error.facts.says}.`)
    }
  }
  const whole = weakestCheck(checks)
  if (!whole || whole.outcome === 'not-comparable' || whole.outcome === 'version-only')
    return note(`Not compared: ${whole?.found ?? 'nothing of the image belongs into this unit'}.`)
  if (!writes(bench)) return
  // Whoever released writing the same version again has been asked already.
  if (!isEqual(whole) || releases.some(({ rule }) => rule === 'version-direction')) return
  const several = bench.pieces.length > 1
  const answer = await ask({
    id: several ? `same-image.${bench.component.id}` : 'same-image',
    says: `${several ? `${bench.component.name}: the` : 'The'} unit holds this image already: ${checkText(whole)}. Writing it again changes nothing but the risk.`,
    answers: [
      { id: 'leave', says: 'Leave it as it is' },
      { id: 'write', says: 'Write it all the same' },
    ],
  })
  if (answer === 'write') return
  bench.left.add(bench.piece)
  // The others are still to be written.
  if (bench.left.size < bench.pieces.length) return
  throw new Problem({
    kind: 'same-image',
    says: 'the unit holds this image already',
    remedy: 'Nothing was written. Close the job, or choose another image.',
  })
}
