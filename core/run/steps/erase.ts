import { groupedNumber, inSentence } from '../../kernel'
import { fromByte, type StepAct } from '../step-context'

/** Erases the sectors the image needs, and no others; nothing where a broken write goes on. */
export const erase: StepAct = async (bench) => {
  const { loads, loader, report, wake, step, onlyChanged = false } = bench
  if (bench.left.has(bench.piece)) {
    const says = `Neither erased nor written: the ${inSentence(bench.component.name)} holds its image already.`
    return wake.record({ type: 'note', step, says })
  }
  const from = fromByte(bench)
  if (from > 0) {
    const says = `Nothing is erased: the write goes on at byte ${groupedNumber(from)}.`
    return wake.record({ type: 'note', step, says })
  }
  bench.changed = true
  const total = loads.reduce((sum, load) => sum + load.sectors, 0)
  let before = 0
  for (const { address, bytes, sectors } of loads) {
    await loader.erase(
      { address, length: bytes.length },
      ({ done }) => report({ done: Math.min(total, before + done), total, unit: 'sectors', retries: 0 }),
      ...(onlyChanged ? [bytes] : []),
    )
    before += sectors
  }
}
