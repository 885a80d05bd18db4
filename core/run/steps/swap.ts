import type { StepAct } from '../bench'

/** A chip changed in its socket: one thing at a time, each with its caution. */
export const swap: StepAct = async ({ family, ask }) => {
  for (const { id, does, caution } of family.swap ?? []) {
    await ask({
      id: `swap.${id}`,
      says: does,
      ...(caution ? { caution } : {}),
      answers: [{ id: 'done', says: 'Done' }],
    })
  }
}
