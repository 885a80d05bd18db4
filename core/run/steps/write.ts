import { fromByte, type StepAct } from '../step-context'

/** Sends the image; progress counts bytes that the unit has acknowledged. */
export const write: StepAct = async (bench) => {
  const { loads, loader, report, abandon } = bench
  if (bench.left.has(bench.piece)) return
  const from = fromByte(bench)
  bench.changed = true
  const total = loads.reduce((sum, load) => sum + load.bytes.length, 0)
  let before = 0
  for (const { address, bytes } of loads) {
    // What lies before the byte it goes on from is in the unit; the check after the write looks at all of it.
    const start = Math.min(bytes.length, Math.max(0, from - before))
    if (start < bytes.length) {
      await loader.write(
        address,
        bytes,
        ({ done, retries }) => report({ done: before + done, total, unit: 'bytes', retries }),
        abandon,
        ...(start > 0 ? [start] : []),
      )
    }
    before += bytes.length
  }
}
