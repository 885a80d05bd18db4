import type { StepContext, StepAct } from '../step-context'

/**
 * PRACTICE D4, D6, D8: power as the family orders it, one thing at a time, each with its caution. Behind a leg for which all
 * of it was done, one question asks whether it still stands: a half-written unit is not switched off for an order.
 */
export const powerUp: StepAct = async (bench) => {
  if (bench.powerStood && (await stillStands(bench))) return
  for (const { id, does, caution } of bench.family.powerOrder?.on ?? []) {
    await bench.ask({
      id: `power-up.${id}`,
      says: does,
      ...(caution ? { caution } : {}),
      answers: [{ id: 'done', says: 'Done' }],
    })
  }
}

async function stillStands({ family, ask }: StepContext): Promise<boolean> {
  const on = family.powerOrder?.on ?? []
  const cautions = on.flatMap(({ caution }) => (caution ? [caution] : []))
  const answer = await ask({
    id: 'power-stands',
    says: `Does power stand as it did? ${on.map(({ does }) => does).join(' ')}`,
    ...(cautions.length > 0 ? { caution: cautions.join(' ') } : {}),
    answers: [
      { id: 'stands', says: 'It stands: nothing was switched' },
      { id: 'again', says: 'No: go through it again' },
    ],
  })
  return answer === 'stands'
}
