import type { StepAct } from '../step-context'
import { writes } from '../task'

/** PRACTICE I1: starts the new firmware, then the power cycle as the family orders it. */
export const restart: StepAct = async (bench) => {
  const { family, loader, clock, ask } = bench
  // Who only looks leaves a unit where it was found: what is half written does not start.
  if (!writes(bench) && bench.cameInBootloader)
    return bench.wake.record({
      type: 'note',
      step: bench.step,
      says: 'It was in its bootloader before, and stays there.',
    })
  // A leg that only has to prove may find the new firmware running already.
  if (bench.inBootloader) await loader.startApplication()
  bench.inBootloader = false
  await clock.sleep(family.restart.readyMs)
  const { caution } = family.stages.restart
  await ask({
    id: 'power-cycle',
    says: family.restart.powerCycle,
    ...(caution ? { caution } : {}),
    answers: [{ id: 'done', says: 'It is on again' }],
  })
  await clock.sleep(family.restart.readyMs)
}
