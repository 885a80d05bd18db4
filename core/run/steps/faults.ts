import type { StepAct } from '../bench'
import { readAfter } from './prove'

/**
 * PRACTICE J1: reads the fault codes, clears them and reads them again; those that come back are told. The unit's page is
 * read once more behind it: the newest one shows what the unit says now.
 */
export const faults: StepAct = async (bench) => {
  const { talk, wake, step } = bench
  if (!talk.faults) return
  const before = await talk.faults.read()
  await talk.faults.clear()
  const after = await talk.faults.read()
  await wake.record({ type: 'faults', step, before, after })
  if (before.length > 0)
    await wake.record({ type: 'snapshot', step, when: 'after', snapshot: await readAfter(bench) })
}
