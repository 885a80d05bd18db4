import { Problem } from '../../kernel'
import type { StepAct } from '../bench'

/** Compares what is in the unit with the image; the record says by which means. */
export const verify: StepAct = async ({ loads, loader, wake, step }) => {
  for (const { address, bytes } of loads) {
    const verification = await loader.verify(address, bytes)
    await wake.record({ type: 'verified', step, ...verification })
    if (!verification.ok) {
      throw new Problem({
        kind: 'verify-failed',
        says: 'what is in the unit is not the image',
        expected: verification.expected,
        found: verification.found,
        remedy:
          'Do not power down. Write again from the beginning; if it fails the same way, try another adapter.',
      })
    }
  }
}
