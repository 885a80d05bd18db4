import type { StepAct } from '../bench'

/** PRACTICE J1: reads the fault codes, clears them and reads them again; those that come back are told. */
export const faults: StepAct = async ({ talk, wake, step }) => {
  if (!talk.faults) return
  const before = await talk.faults.read()
  await talk.faults.clear()
  const after = await talk.faults.read()
  await wake.record({ type: 'faults', step, before, after })
}
