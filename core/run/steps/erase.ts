import { groupedNumber } from '../../kernel'
import type { StepAct } from '../bench'

/** Erases the sectors the image needs, and no others; nothing where a broken write goes on. */
export const erase: StepAct = async (bench) => {
  const { loads, loader, report, wake, step } = bench
  if (bench.goesOnAt) {
    const says = `Nothing is erased: the write goes on at byte ${groupedNumber(bench.goesOnAt)}.`
    return wake.record({ type: 'note', step, says })
  }
  bench.changed = true
  const total = loads.reduce((sum, load) => sum + load.sectors, 0)
  let before = 0
  for (const { address, bytes, sectors } of loads) {
    await loader.erase({ address, length: bytes.length }, ({ done }) =>
      report({ done: before + done, total, unit: 'sectors', retries: 0 }),
    )
    before += sectors
  }
}
