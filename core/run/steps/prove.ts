import { isProblem, Problem, verdictOf } from '../../kernel'
import { askConsole } from '../../link'
import { compareSnapshots, judgeProof } from '../../proof'
import { readSnapshot } from '../../unit'
import type { Bench, StepAct } from '../bench'

/** A firmware that is still starting does not answer the first time. */
const tries = 3

/** PRACTICE I1: reads every line again, from the unit itself, and holds it against the page before. */
export const prove: StepAct = async (bench) => {
  const { family, component, image, before, clock, wake, step } = bench
  const snapshot = readSnapshot(family, await readLines(bench), clock.now(), 'link')
  await wake.record({ type: 'snapshot', step, when: 'after', snapshot })
  const rows = compareSnapshots(family, before, snapshot)
  const findings = judgeProof(rows, component.id, image.identity?.version, snapshot)
  await wake.record({ type: 'compared', step, rows, findings })
  const against = findings.find(({ level }) => level === 'stop')
  if (verdictOf(findings) === 'stop' && against) {
    throw new Problem({
      kind: 'not-proved',
      says: against.says.replace(/\.$/, ''),
      found: against.because,
      remedy: against.remedy ?? 'Read the unit again.',
    })
  }
}

async function readLines({ port, link, wake, step }: Bench): Promise<string[]> {
  for (let attempt = 1; ; attempt++) {
    try {
      return (await askConsole(port, link.console, link.console.identify)).lines
    } catch (error) {
      if (!isProblem(error, 'no-answer') || attempt === tries) throw error
      await wake.record({ type: 'retry', step, why: 'The new firmware did not answer yet.' })
    }
  }
}
