import { isProblem, Problem } from '../../kernel'
import { askConsole } from '../../link'
import type { StepAct } from '../bench'

/** PRACTICE E6, E11: from running firmware into the bootloader, several tries. */
export const enter: StepAct = async (bench) => {
  const { family, port, link, loader, clock, wake, step } = bench
  if (bench.inBootloader) {
    await loader.attach()
    return
  }
  const way = family.entry.find(({ kind }) => kind === 'command')
  if (way?.kind !== 'command') {
    throw new Problem({
      kind: 'no-entry',
      thing: family.name,
      says: 'this unit cannot be brought into its bootloader by command',
      remedy: 'Bring it there by hand as its papers say, then start again: the run finds it there.',
    })
  }
  for (let attempt = 1; ; attempt++) {
    try {
      await askConsole(port, link.console, { send: way.send, timeoutMs: link.console.identify.timeoutMs })
      await clock.sleep(way.settleMs)
      await loader.attach()
      bench.inBootloader = true
      return
    } catch (error) {
      const missed = isProblem(error, 'no-answer') || isProblem(error, 'no-bootloader')
      if (!missed || attempt === way.tries) throw error
      await wake.record({ type: 'retry', step, why: error.facts.says })
    }
  }
}
