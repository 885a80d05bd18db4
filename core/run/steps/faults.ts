import { faultText } from '../../link'
import type { StepAct } from '../step-context'
import { writes } from '../task'
import { readAfter } from './prove'

const noFault = faultText([])

/**
 * PRACTICE J1: reads the fault codes, clears them and reads them again; those that come back are told. The unit's page is
 * read once more after it: the newest one shows what the unit says now. A task that only reads codes clears them only when
 * the person says so.
 */
export const faults: StepAct = async (bench) => {
  const { driver, wake, step, ask } = bench
  if (!driver.faults) return
  const before = await driver.faults.read()
  // Behind a write they are ours to clear; where somebody only asked for them they are not.
  if (!writes(bench)) {
    const kept =
      before === noFault ||
      (await ask({
        id: 'clear-codes',
        says: `It keeps ${before}. Write them down first: clearing takes what was kept with them too.`,
        answers: [
          { id: 'leave', says: 'Leave them in the unit' },
          { id: 'clear', says: 'Clear them' },
        ],
      })) !== 'clear'
    if (kept) return wake.record({ type: 'faults', step, before, after: before, kept: true })
  }
  await driver.faults.clear()
  const after = await driver.faults.read()
  await wake.record({ type: 'faults', step, before, after })
  if (before !== noFault)
    await wake.record({ type: 'snapshot', step, when: 'after', snapshot: await readAfter(bench) })
}
