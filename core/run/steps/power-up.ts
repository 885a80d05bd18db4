import type { StepAct } from '../bench'

/** PRACTICE D4, D6, D8: power as the family orders it, one thing at a time, each with its caution. */
export const powerUp: StepAct = async ({ family, ask }) => {
  for (const { id, does, caution } of family.powerOrder?.on ?? []) {
    await ask({
      id: `power-up.${id}`,
      says: does,
      ...(caution ? { caution } : {}),
      answers: [{ id: 'done', says: 'Done' }],
    })
  }
}
