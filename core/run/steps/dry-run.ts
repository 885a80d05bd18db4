import type { StepAct } from '../step-context'

/**
 * PRACTICE H2: the whole image goes over the link once while the unit writes nothing. What is wrong with cable, speed or
 * file shows here, where it costs nothing.
 */
export const dryRun: StepAct = async (bench) => {
  const { loads, loader, report, abandon, wake, step, changed } = bench
  if (changed || bench.goesOnAt) {
    return wake.record({ type: 'note', step, says: 'No dry run: the unit is already without its firmware.' })
  }
  const total = loads.reduce((sum, load) => sum + load.bytes.length, 0)
  let before = 0
  for (const { address, bytes } of loads) {
    await loader.rehearse!(
      address,
      bytes,
      ({ done, retries }) => report({ done: before + done, total, unit: 'bytes', retries }),
      abandon,
    )
    before += bytes.length
  }
}
