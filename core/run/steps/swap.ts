import type { StepAct } from '../step-context'
import { swapSteps } from '../plan-by-hand'

/** A chip changed in its socket: one thing at a time, each with its caution. */
export const swap: StepAct = async ({ family, ask, chip }) => {
  for (const { id, does, caution } of swapSteps(family, chip !== undefined)) {
    await ask({
      id: `swap.${id}`,
      says: does,
      ...(caution ? { caution } : {}),
      answers: [{ id: 'done', says: 'Done' }],
    })
  }
}
