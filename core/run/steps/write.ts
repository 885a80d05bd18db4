import type { StepAct } from '../bench'

/** Sends the image; progress counts bytes that the unit has acknowledged. */
export const write: StepAct = async ({ loads, loader, report, abandon }) => {
  const total = loads.reduce((sum, load) => sum + load.bytes.length, 0)
  let before = 0
  for (const { address, bytes } of loads) {
    await loader.write(
      address,
      bytes,
      ({ done, retries }) => report({ done: before + done, total, unit: 'bytes', retries }),
      abandon,
    )
    before += bytes.length
  }
}
