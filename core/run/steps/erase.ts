import type { StepAct } from '../bench'

/** Erases the sectors the image needs, and no others. */
export const erase: StepAct = async ({ loads, loader, report }) => {
  const total = loads.reduce((sum, load) => sum + load.sectors, 0)
  let before = 0
  for (const { address, bytes, sectors } of loads) {
    await loader.erase({ address, length: bytes.length }, ({ done }) =>
      report({ done: before + done, total, unit: 'sectors', retries: 0 }),
    )
    before += sectors
  }
}
