import { entriesOver } from '../../family'
import { isProblem, Problem } from '../../kernel'
import { isSilence } from '../../link'
import type { StepContext, StepAct } from '../step-context'

/** PRACTICE E6, E11: from running firmware into the bootloader, several tries; by command, or by the person's hands. */
export const enter: StepAct = async (bench) => {
  const { family, driver, loader, link } = bench
  const ways = link ? entriesOver(family, link.id) : family.entry
  if (bench.inBootloader) await loader.attach()
  else {
    const byCommand = ways.find(({ kind }) => kind === 'command')
    if (byCommand?.kind === 'command' && driver.enter) {
      const { enter: send } = driver
      await retryPassing(bench, byCommand, () => send(byCommand.send))
    } else {
      const byHand = ways.find(({ kind }) => kind === 'by-hand')
      if (byHand?.kind !== 'by-hand') {
        throw new Problem({
          kind: 'no-entry',
          thing: family.name,
          says: 'the profile does not say how this unit gets into its bootloader',
          remedy: 'Write the way into the profile, or bring the unit there before the run.',
        })
      }
      const { caution } = family.stages.enter
      await retryPassing(bench, byHand, async () => {
        await bench.ask({
          id: 'enter-by-hand',
          says: `${byHand.name}: ${byHand.steps.join(' ')}`,
          ...(caution ? { caution } : {}),
          answers: [{ id: 'done', says: 'Done' }],
        })
      })
    }
  }
  await openProtected(bench)
}

async function retryPassing(
  bench: StepContext,
  way: { settleMs: number; tries: number },
  act: () => Promise<void>,
): Promise<void> {
  const { loader, clock, wake, step } = bench
  for (let attempt = 1; ; attempt++) {
    try {
      await act()
      await clock.sleep(way.settleMs)
      await loader.attach()
      bench.inBootloader = true
      return
    } catch (error) {
      if (!isSilence(error) || attempt === way.tries) throw error
      await wake.record({ type: 'retry', step, why: isProblem(error) ? error.facts.says : 'silence' })
    }
  }
}

/** A unit that keeps its memory from being read is opened only when the person says twice that it may erase itself. */
async function openProtected(bench: StepContext): Promise<void> {
  const { loader, ask, wake, step } = bench
  if (!loader.protected || !(await loader.protected())) return
  const kept = new Problem({
    kind: 'debug-protected',
    says: 'the unit keeps its memory from being read, and it stays so',
    remedy: 'Nothing was written. Ask the supplier for an image that goes the other way.',
  })
  if (!loader.eraseAll)
    throw new Problem({
      kind: 'debug-protected',
      says: 'the unit keeps its memory from being read, and its profile knows no way to open it',
      remedy:
        'Nothing was written. Look in the unit’s manual how its whole memory is erased, and write it into the profile as "eraseAll".',
    })
  const first = await ask({
    id: 'unprotect',
    says: 'The unit keeps its memory from being read. It can be opened, but then it erases all that is in it, its own settings too.',
    caution: 'No backup can be made before. Without an image for this very unit it stays dead.',
    answers: [
      { id: 'keep', says: 'Leave it as it is' },
      { id: 'open', says: 'Open it all the same' },
    ],
  })
  if (first !== 'open') throw kept
  const second = await ask({
    id: 'unprotect-again',
    says: 'Erase the whole unit now? This cannot be taken back.',
    answers: [
      { id: 'keep', says: 'No, leave it' },
      { id: 'erase', says: 'Erase the whole unit' },
    ],
  })
  if (second !== 'erase') throw kept
  await loader.eraseAll('erase the whole unit')
  bench.changed = true
  await wake.record({ type: 'note', step, says: 'The protection was taken away; the unit erased itself.' })
}
